<script lang="ts">
  /** How the waste comes off: frames, lines that part it, where to begin, and how long it takes. */
  import type { JobState } from '../../state/job.svelte';
  import { wordsOf } from '../../api/client';
  import { tables } from '../../state/tables.svelte';
  import Field from '../../ui/Field.svelte';
  import Fold from '../../ui/Fold.svelte';
  import Switch from '../../ui/Switch.svelte';

  let { job }: { job: JobState } = $props();
  void tables.load();
  let took = $state('');
  let trouble = $state('');
  async function write() {
    const minutes = Number(took.replace(',', '.'));
    const estimated = (job.scene?.layers?.weeding_minutes ?? 0) / tables.log.pace;
    trouble = '';
    if (!(minutes > 0 && minutes <= 10_000) || !(estimated > 0)) {
      trouble = 'Minutes are a number above 0, such as 12.';
      return;
    }
    try {
      await tables.writeDown({ took: { estimated, minutes } });
      took = '';
      await job.build();
    } catch (bad) {
      trouble = wordsOf(bad);
    }
  }
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
    <div class="flex items-center gap-1.5 py-1.5 text-[13px]">
      <label class="flex grow items-center gap-1.5"
        >It took <input class="input narrow w-[62px]! text-right" inputmode="decimal" bind:value={took} /> min, all films</label
      >
      <button class="button min-h-[28px]! px-2! py-0! whitespace-nowrap" disabled={!took} onclick={write}
        >write down</button
      >
    </div>
    {#if trouble}<p class="text-stop text-[13px]" role="alert">{trouble}</p>{/if}
    {#if tables.log.weeding.length}
      <p class="fine">
        By {tables.log.weeding.length} written down this workshop takes {tables.log.pace.toFixed(2)} times what is usual.
      </p>
    {/if}
    <p class="fine py-1">The weed sheet, to tick the pieces off on, is among the files.</p>
  </Fold>
{/if}
