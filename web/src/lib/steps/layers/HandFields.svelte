<script lang="ts">
  /** How films are laid by hand: what that shows, how often, and the films as such a hand lays them. */
  import type { JobState } from '../../state/job.svelte';
  import Field from '../../ui/Field.svelte';

  let { job }: { job: JobState } = $props();
  const pile = $derived(job.pile);
  const all = $derived(job.scene?.layers);
  const chance = $derived(all?.gap_chance ?? 0);
  const weakest = $derived(all?.weakest);
  /** Common practice, no source. */
  const HANDS = [
    [0.3, 'with marks'],
    [0.5, 'with parchment'],
    [0.8, 'by eye'],
  ] as const;
  const count = $derived(all?.hand?.lay_ups.length ?? 0);
  const shows = $derived(all?.hand?.shows[pile.hand] ?? []);
  const named = (n: number) => {
    const m = all?.meets[n];
    return m ? `${all!.layers[m.lower]!.name} and ${all!.layers[m.upper]!.name}` : '';
  };
</script>

<h2 class="mt-3 mb-1">As a hand lays them</h2>
<p class="fine border-hairline border-b py-1.5">
  {chance > 0 ? `A gap shows in 1 of ${Math.max(1, Math.round(1 / chance))} lay-ups` : 'No gap shows'}{weakest &&
  chance > 0
    ? `, first between ${weakest.lower} and ${weakest.upper}.`
    : '.'}
</p>
<label class="flex items-center justify-between gap-3 py-2"
  >Lay them wrong <input
    type="range"
    class="accent-brass w-[150px]"
    min="0"
    max="3"
    step="0.05"
    aria-valuetext={pile.times ? `${pile.times.toFixed(1)} times as this hand does` : 'as they should lie'}
    bind:value={pile.times}
  /></label
>
<div class="border-hairline flex items-center justify-between gap-2 border-b pb-2 text-[13px]">
  <span class="fine" aria-live="polite"
    >{pile.mislaid
      ? `Lay-up ${pile.hand + 1}: ${shows.length ? `a gap between ${named(shows[0]!)}` : 'no gap'}${shows.length > 1 ? `, and ${shows.length - 1} more` : ''}`
      : `${count} lay-ups to look at`}</span
  >
  <button class="button min-h-[28px]! px-2! py-0!" disabled={count < 2} onclick={() => pile.another(count)}
    >another hand</button
  >
</div>
<Field {job} path="layers.accuracy_mm" label="A hand misses by" note="one standard deviation" />
<div class="flex flex-wrap items-center gap-1 py-1.5 text-[13px]" role="group" aria-label="As a rule">
  {#each HANDS as [mm, words] (words)}
    <button
      class="button px-2! {Number(job.value('layers.accuracy_mm')) === mm ? 'border-blue! font-[650]' : ''}"
      aria-pressed={Number(job.value('layers.accuracy_mm')) === mm}
      onclick={() => job.set('layers.accuracy_mm', mm)}>{words}</button
    >
  {/each}
</div>
<Field {job} path="layers.eye_mm" label="A gap is seen from" />
<Field {job} path="layers.risk_percent" label="May show a gap" note="of all lay-ups" kind="number" unit="%" />
