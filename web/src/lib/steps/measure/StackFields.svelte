<script lang="ts">
  import type { JobState } from '../../state/job.svelte';
  import Field from '../../ui/Field.svelte';
  import Readings from '../Readings.svelte';
  import { ROUND_READS, SIDE_READS } from './kinds';
  import Photograph from './Photograph.svelte';
  import RoundCommon from './RoundCommon.svelte';
  let { job }: { job: JobState } = $props();
  const sections = $derived((job.value('blank.sections') as Record<string, unknown>[] | undefined) ?? []);
  function add() {
    const last = sections[sections.length - 1];
    job.set('blank.sections', [
      ...sections,
      { ...last, name: '', side: { reads: 'slant', instrument: 'ruler', readings: [30] } },
    ]);
  }
</script>

<Readings {job} name="base" title="Foot" reads={ROUND_READS} checks={ROUND_READS} />
{#each sections as _, i (i)}
  <div class="flex items-center justify-between pt-3">
    <h2 class="text-blue">Section {i + 1}, from below</h2>
    {#if sections.length > 1}
      <button
        class="link text-[13px]"
        onclick={() =>
          job.set(
            'blank.sections',
            sections.filter((_, n) => n !== i),
          )}>take out</button
      >
    {/if}
  </div>
  <Field {job} path="blank.sections.{i}.name" label="Called" kind="text" />
  <Readings {job} name="sections.{i}.side" title="Its side" reads={SIDE_READS} checks={SIDE_READS} />
  <Readings {job} name="sections.{i}.upper" title="Its upper end" reads={ROUND_READS} checks={ROUND_READS} />
{/each}
<button class="button my-2 text-[13px]" disabled={sections.length >= 20} onclick={add}>+ section on top</button>
<RoundCommon {job} />
<Photograph {job} />
