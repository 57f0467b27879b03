<script lang="ts">
  /** How the waste comes off: frames, lines that part it, where to begin, and how long it takes. */
  import type { JobState } from '../../state/job.svelte';
  import Field from '../../ui/Field.svelte';
  import Fold from '../../ui/Fold.svelte';
  import Switch from '../../ui/Switch.svelte';

  let { job }: { job: JobState } = $props();
  const layers = $derived(job.scene?.layers?.layers ?? []);
</script>

{#if layers.length}
  <Fold title="Weeding" note={layers.length === 1 ? `about ${layers[0]!.weeding.minutes}` : 'film by film'}>
    <Switch
      {job}
      path="layers.weeding.frames"
      label="Frames round lettering and dense places"
      note="so that a small strip comes away first"
    />
    {#if job.value('layers.weeding.frames')}
      <Field {job} path="layers.weeding.frame_away_mm" label="Away from the pieces" />
    {/if}
    <Switch {job} path="layers.weeding.parts" label="Lines that part the waste" note="none meets a piece" />
    {#if job.value('layers.weeding.parts')}
      <Field {job} path="layers.weeding.largest_mm" label="No part larger than" />
    {/if}
    {#each layers.toReversed() as { name, weeding } (name)}
      <p class="border-hairline flex justify-between gap-3 border-b py-1 text-[13.5px]">
        <span><b class="font-[600]">{name}</b>, begin at the {weeding.corner}</span>
        <span class="narrow whitespace-nowrap">{weeding.minutes}</span>
      </p>
    {/each}
    <p class="fine py-1">The weed sheet, to tick the pieces off on, is among the files.</p>
  </Fold>
{/if}
