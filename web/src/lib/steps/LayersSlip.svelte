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
{#each layers as layer (layer.colour)}
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
    <span></span>
    <select
      class="input mt-1 text-[14px]"
      aria-label="Film for {layer.name}"
      value={layer.film}
      onchange={(e) => choose(layer.colour, { film: (e.target as HTMLSelectElement).value })}
    >
      {#each tables.films as f (f.id)}<option value={f.id}>{f.name}</option>{/each}
    </select>
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
  note={joint ? `now ${joint === 'stacked' ? 'stacked whole' : 'knocked out'}` : ''}
  choices={[
    ['auto', 'as suits how many there are'],
    ['stacked', 'stacked whole'],
    ['knocked_out', 'knocked out'],
  ]}
/>
{#if layers.length > 1}
  <Field
    {job}
    path="layers.overlap_mm"
    label="Overlap"
    note={chance > 0 ? `a gap shows in 1 of ${Math.max(1, Math.round(1 / chance))} lay-ups` : ''}
  />
  <Field {job} path="layers.accuracy_mm" label="A hand misses by" note="one standard deviation" />
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
    ['crosses', 'two crosses above'],
    ['none', 'none'],
  ]}
/>
{#if job.value('layers.marks.kind') === 'crosses'}
  <Field {job} path="layers.marks.size_mm" label="Tall" />
  <Field {job} path="layers.marks.away_mm" label="Away from the work" />
{/if}
