<script lang="ts">
  import type { JobState } from '../../state/job.svelte';
  import Pick from '../../ui/Pick.svelte';
  import Switch from '../../ui/Switch.svelte';
  import Readings from '../Readings.svelte';
  import MeshFile from './MeshFile.svelte';
  let { job }: { job: JobState } = $props();
  const check = $derived(job.value('blank.check'));
  const faults = $derived(job.faults.filter((f) => f.field === 'blank.file'));
</script>

<p class="fine truncate pb-1">{job.value('blank.file')}</p>
<MeshFile {job} label="Another file" />
{#each faults as fault (fault.message)}
  <p class="text-stop py-1 text-[13px]" role="alert">{fault.message} {fault.hint}</p>
{/each}
<Pick
  {job}
  path="blank.unit"
  label="Its numbers are"
  choices={[
    ['mm', 'millimetres'],
    ['cm', 'centimetres'],
    ['m', 'metres'],
    ['in', 'inches'],
  ]}
/>
<Pick
  {job}
  path="blank.up"
  label="Up is its axis"
  choices={[
    ['z', 'z'],
    ['y', 'y'],
    ['x', 'x'],
  ]}
/>
<Switch
  {job}
  path="blank.check"
  label="Check its size"
  note="by one reading on the body itself"
  on={job.offer('check')}
  off={null}
/>
{#if check}
  <Readings
    {job}
    name="check"
    title="Read on the body"
    reads={[
      ['width', 'its width'],
      ['height', 'its height'],
    ]}
  />
{/if}
<Switch {job} path="blank.on_vehicle" label="On a vehicle" />
