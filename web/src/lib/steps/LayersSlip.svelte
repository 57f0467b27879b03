<script lang="ts">
  import type { JobState } from '../state/job.svelte';
  import { tables } from '../state/tables.svelte';
  import Field from '../ui/Field.svelte';
  import Pick from '../ui/Pick.svelte';
  import Swatch from '../ui/Swatch.svelte';
  import Switch from '../ui/Switch.svelte';
  import FilmsAtHand from './FilmsAtHand.svelte';

  let { job, apart = $bindable() }: { job: JobState; apart: number } = $props();
  const layers = $derived(job.scene?.layers?.layers.toReversed() ?? []);
  const chance = $derived(job.scene?.layers?.gap_chance ?? 0);
  const joint = $derived(job.scene?.layers?.joint);
  const weakest = $derived(job.scene?.layers?.weakest);
  const JOINTS: Record<string, string> = {
    stacked: 'stacked whole',
    knocked_out: 'knocked out',
    butted: 'edge to edge',
  };
  /** Common practice, no source. */
  const HANDS = [
    [0.3, 'with marks'],
    [0.5, 'with parchment'],
    [0.8, 'by eye'],
  ] as const;
  void tables.load();
  let listing = $state(false);

  type Choice = { colour: string; film: string; film_colour?: string | null };
  function choose(colour: string, change: Partial<Choice>) {
    const films = [...((job.value('layers.films') as Choice[]) ?? [])];
    const n = films.findIndex((f) => f.colour === colour);
    const was = films[n] ?? { colour, film: String(job.value('layers.default_film')) };
    if (n < 0) films.push({ ...was, ...change });
    else films[n] = { ...was, ...change };
    job.set('layers.films', films);
  }
</script>

{#if !layers.length}
  <p class="leading-snug">
    Each colour of the artwork becomes a layer of film. <a class="link" href="/jobs/{job.id}/artwork"
      >Bring a drawing first.</a
    >
  </p>
{/if}
{#each layers as layer, n (layer.colour)}
  <div class="border-hairline grid grid-cols-[30px_1fr] items-center gap-x-2 border-b py-2">
    <Swatch
      value={layer.film_colour}
      label="Film colour of {layer.name}"
      film={layer.film}
      size="h-8 w-[28px]"
      onpick={(film_colour) => choose(layer.colour, { film_colour })}
    />
    <div class="flex items-baseline justify-between">
      <span class="font-[600]">{layer.name}</span><span class="fine narrow"
        >{layer.pieces} stay · {layer.weeded} weed · {layer.area}</span
      >
    </div>
    <div class="col-span-2 mt-1 flex items-center gap-1">
      {#if layers.length > 1}
        {#each [['Raise', 1, 'M2 6l4-4 4 4'], ['Lower', -1, 'M2 2l4 4 4-4']] as const as [word, by, sign] (word)}
          <button
            class="text-quiet hover:text-blue flex size-6 shrink-0 items-center justify-center disabled:opacity-30"
            aria-label="{word} {layer.name}"
            disabled={by > 0 ? n === 0 : n === layers.length - 1}
            onclick={() => job.raise(layer.colour, by)}
            ><svg width="12" height="8" viewBox="0 0 12 8" aria-hidden="true"
              ><path d={sign} fill="none" stroke="currentColor" stroke-width="1.8" /></svg
            ></button
          >
        {/each}
      {/if}
      <select
        class="input min-w-0 flex-1 text-[14px]"
        aria-label="Film for {layer.name}"
        value={layer.film}
        onchange={(e) => choose(layer.colour, { film: (e.target as HTMLSelectElement).value })}
      >
        {#each tables.films as f (f.id)}<option value={f.id}>{f.name}</option>{/each}
      </select>
    </div>
  </div>
{/each}
{#if layers.length}
  <button class="link min-h-8 text-[13px]" onclick={() => (listing = true)}>Films at hand …</button>
{/if}
{#if listing}
  <FilmsAtHand
    film={String(job.value('layers.default_film') ?? '')}
    onclose={(changed) => {
      listing = false;
      if (changed) void job.build();
    }}
  />
{/if}
<label class="flex items-center justify-between gap-4 py-2"
  >Pull the films apart <input
    type="range"
    class="accent-brass w-[150px]"
    min="0"
    max="1"
    step="0.02"
    bind:value={apart}
  /></label
>
<h2 class="mt-2 mb-1">Where colours meet</h2>
<Pick
  {job}
  path="layers.joint"
  label="Films lie"
  note={joint ? `now ${JOINTS[joint]}` : ''}
  choices={[
    ['auto', 'as suits how many there are'],
    ['stacked', 'stacked whole'],
    ['knocked_out', 'knocked out'],
    ['butted', 'edge to edge'],
  ]}
/>
{#if layers.length > 1}
  {#if joint !== 'butted'}<Field {job} path="layers.overlap_mm" label="Overlap" />{/if}
  <p class="fine border-hairline border-b py-1.5">
    {chance > 0 ? `A gap shows in 1 of ${Math.max(1, Math.round(1 / chance))} lay-ups` : 'No gap shows'}{weakest &&
    chance > 0
      ? `, first between ${weakest.lower} and ${weakest.upper}.`
      : '.'}
  </p>
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
{/if}
<Pick
  {job}
  path="layers.seen"
  label="It is seen"
  note="through glass, all is cut mirrored"
  choices={[
    ['from_outside', 'from outside'],
    ['through_glass', 'through the glass, from inside'],
  ]}
/>
<Switch {job} path="layers.merge_near" label="Near colours become one" />
{#if job.value('layers.merge_near')}
  <Field {job} path="layers.merge_delta_e" label="Nearer than" note="difference CIEDE2000" kind="number" />
{/if}
<h2 class="mt-3 mb-1">Marks</h2>
<Pick
  {job}
  path="layers.marks.kind"
  label="Registration"
  choices={[
    ['crosses', 'two crosses'],
    ['squares', 'two squares at the sides'],
    ['strips', 'strips along both sides'],
    ['corners', 'an angle at each corner'],
    ['none', 'none'],
  ]}
/>
{#if job.value('layers.marks.kind') !== 'none'}
  {#if layers.length === 1}<p class="fine py-1">One layer needs none.</p>{/if}
  <Field {job} path="layers.marks.size_mm" label="Large" />
  <Field {job} path="layers.marks.away_mm" label="Away from the work" />
  {#if job.value('layers.marks.kind') === 'crosses'}
    <Switch
      {job}
      path="layers.marks.within"
      label="Where film is used anyway"
      note="beside the work, where there is room"
    />
  {/if}
  <Switch {job} path="layers.marks.centre" label="A tick on the centre line" note="to lay the pile by" />
{/if}
