<script lang="ts">
  import type { JobState } from '../state/job.svelte';
  import Field from '../ui/Field.svelte';
  import Pick from '../ui/Pick.svelte';
  import Switch from '../ui/Switch.svelte';
  import Readings from './Readings.svelte';

  let { job }: { job: JobState } = $props();
  const cup = $derived(job.value('blank.kind') === 'cup');
  const round: [string, string][] = [
    ['circumference', 'round it'],
    ['diameter', 'across it'],
  ];
</script>

{#if cup}
  <Readings {job} name="upper" title="Top" reads={round} />
  <Readings {job} name="lower" title="Bottom" reads={round} />
  <Readings
    {job}
    name="side"
    title="Between the two"
    reads={[
      ['slant', 'along the side'],
      ['upright', 'upright'],
    ]}
  />
  <Field {job} path="blank.rim_mm" label="Top was read" note="below the rim, along the side" />
  <Field {job} path="blank.foot_mm" label="Bottom was read" note="above the foot" />
  <Field {job} path="blank.tape_thickness_mm" label="Tape thickness" />
  <Field {job} path="blank.capacity_ml" label="Says it holds" kind="volume" optional />
  <Pick
    {job}
    path="blank.wall"
    label="Wall"
    choices={[
      ['single', 'single'],
      ['double', 'double'],
    ]}
  />
  <Field {job} path="blank.wall_mm" label="Wall thickness" />
  <h2 class="mt-4 mb-1">Keep out</h2>
  <Field {job} path="blank.lip_band_mm" label="Lip band" note="mouth touches here" />
  <Field {job} path="blank.base_band_mm" label="Base band" />
  <Switch {job} path="blank.handle" label="Handle" on={{ width_mm: 40 }} off={null} />
  {#if job.value('blank.handle')}
    <Field {job} path="blank.handle.width_mm" label="Handle takes" note="round the cup, with a finger’s room" />
  {/if}
  <Pick
    {job}
    path="blank.faces"
    label="Faces"
    choices={[
      ['others', 'others'],
      ['holder', 'the holder'],
    ]}
  />
  <Pick
    {job}
    path="blank.hand"
    label="Owner’s hand"
    choices={[
      ['right', 'right'],
      ['left', 'left'],
    ]}
  />
{:else}
  <Readings {job} name="width" title="Width" reads={[['width', 'width']]} />
  <Readings {job} name="height" title="Height" reads={[['height', 'height']]} />
  <Field {job} path="blank.margin_mm" label="Margin kept clear" />
{/if}
<h2 class="mt-4 mb-1">The blank</h2>
<Field {job} path="blank.name" label="Called" kind="text" />
<label class="border-hairline flex items-center justify-between border-b py-[7px]">
  Colour
  <input
    type="color"
    class="h-8 w-[122px]"
    value={String(job.value('blank.colour'))}
    onchange={(e) => job.set('blank.colour', (e.target as HTMLInputElement).value)}
  />
</label>
<h2 class="mt-4 mb-1">The job</h2>
<Field {job} path="title" label="Title" kind="text" />
<Field {job} path="customer" label="For" kind="text" />
<Field {job} path="quantity" label="How many" kind="number" />
<label class="border-hairline flex items-center justify-between border-b py-[7px]">
  Due
  <input
    type="date"
    class="input w-[150px]!"
    value={String(job.value('due') ?? '')}
    onchange={(e) => job.set('due', (e.target as HTMLInputElement).value || null)}
  />
</label>
