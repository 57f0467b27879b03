<script lang="ts">
  /** What to look at, film by film: the least of each kind, pieces by size, threads and islands; each is shown. */
  import type { JobState } from '../../state/job.svelte';
  import Fold from '../../ui/Fold.svelte';
  import Glyph from '../../ui/Glyph.svelte';

  let { job }: { job: JobState } = $props();
  const layers = $derived(job.scene?.layers?.layers ?? []);
  const short = $derived(layers.reduce((n, l) => n + l.weeding.spots.filter((s) => s.short).length, 0));
  const pile = $derived(job.pile);
  const isShown = (layer: number, at: number[]) =>
    pile.spot?.layer === layer && pile.spot.at[0] === at[0] && pile.spot.at[1] === at[1];
  function show(layer: number, at: [number, number]) {
    pile.spot = isShown(layer, at) ? null : { layer, at };
  }
  /** One after the other of many. */
  function next(layer: number, places: [number, number][]) {
    const now = places.findIndex((p) => isShown(layer, p));
    pile.spot = { layer, at: places[(now + 1) % places.length]! };
  }
</script>

{#if layers.length}
  <Fold title="What to look at" note={short ? `${short} under what is safe` : ''}>
    {#each layers.toReversed() as layer, k (layer.name)}
      {@const n = layers.length - 1 - k}
      {@const w = layer.weeding}
      <h3 class="mt-2 text-[13px] font-[650]">{layer.name}</h3>
      <div class="grid grid-cols-[1fr_auto] gap-x-3 text-[13.5px]">
        {#each w.spots as s (s.words)}
          <button
            class="hover:text-blue flex min-h-6 items-center gap-1.5 text-left {isShown(n, s.at) ? 'underline' : ''}"
            aria-pressed={isShown(n, s.at)}
            onclick={() => show(n, s.at)}
            >{#if s.short}<Glyph level="look" />{/if}{s.words}</button
          >
          <span class="narrow self-center text-right">{s.value}</span>
        {/each}
        {#each [['hang by a thread', w.threads], ['islands in weeded holes', w.islands]] as const as [words, places] (words)}
          {#if places.length}
            <button class="hover:text-blue min-h-6 text-left" onclick={() => next(n, places)}>{words}</button>
            <span class="narrow self-center text-right">{places.length}</span>
          {/if}
        {/each}
      </div>
      <p class="fine narrow border-hairline border-b pb-1.5">
        {w.sizes.map(([words, stay, go]) => `${words}: ${stay} stay, ${go} go`).join(' · ')}
      </p>
    {/each}
  </Fold>
{/if}
