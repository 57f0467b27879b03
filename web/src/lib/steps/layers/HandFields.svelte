<script lang="ts">
  /** How films are laid by hand: what that shows, how often, and the films as such a hand lays them. */
  import type { JobState } from '../../state/job.svelte';
  import { wordsOf } from '../../api/client';
  import { tables } from '../../state/tables.svelte';
  import Field from '../../ui/Field.svelte';
  import { session } from '../../state/session.svelte';
  import { unitOf } from '../../units';

  let { job }: { job: JobState } = $props();
  const pile = $derived(job.pile);
  const all = $derived(job.scene?.layers);
  const chance = $derived(all?.gap_chance ?? 0);
  const weakest = $derived(all?.weakest);
  /** Common practice, no source. */
  const RULES = [
    [0.3, 'with marks', 'marks'],
    [0.5, 'with parchment', 'parchment'],
    [0.8, 'by eye', 'eye'],
  ] as const;
  void tables.load();
  /** This workshop's own, where enough is written down. */
  const hands = $derived([
    ...RULES.map(([mm, words]) => [mm, words] as const),
    ...RULES.flatMap(([, words, how]) => {
      const own = tables.log.accuracy[how];
      return own ? [[Math.round(own * 100) / 100, `${words}, by the log`] as const] : [];
    }),
  ]);
  let how = $state<(typeof RULES)[number][2]>('marks');
  let missed = $state('');
  let trouble = $state('');
  const written = $derived(tables.log.misses.filter((m) => m.how === how).length);
  async function write() {
    trouble = '';
    // Read by the core, as every length is.
    const mm = (/[a-z"'”]/i.test(missed) ? missed : `${missed} ${unitOf(session.style)}`) as unknown as number;
    try {
      await tables.writeDown({ miss: { how, mm } });
      missed = '';
    } catch (bad) {
      trouble = wordsOf(bad);
    }
  }
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
  {#each hands as [mm, words] (words)}
    <button
      class="button px-2! {Number(job.value('layers.accuracy_mm')) === mm ? 'border-blue! font-[650]' : ''}"
      aria-pressed={Number(job.value('layers.accuracy_mm')) === mm}
      onclick={() => job.set('layers.accuracy_mm', mm)}>{words}</button
    >
  {/each}
</div>
<div class="border-hairline flex items-center gap-1.5 border-b py-1.5 text-[13px]">
  <label class="flex items-center gap-1.5"
    >Missed by <input class="input narrow w-[62px]! text-right" inputmode="decimal" bind:value={missed} /></label
  >
  <select class="input w-auto! min-w-0 flex-1 text-[13px]" aria-label="Laid how" bind:value={how}>
    {#each RULES as [, words, id] (id)}<option value={id}>{words}</option>{/each}
  </select>
  <button class="button min-h-[28px]! px-2! py-0! whitespace-nowrap" disabled={!missed} onclick={write}
    >write down</button
  >
</div>
<p class="fine">
  {trouble ||
    (written < 5 ? `${written} of 5 written down until the log speaks for itself.` : `${written} written down so.`)}
</p>
<Field {job} path="layers.eye_mm" label="A gap is seen from" />
<Field {job} path="layers.risk_percent" label="May show a gap" note="of all lay-ups" kind="number" unit="%" />
