<script lang="ts">
  import type { JobState } from '../state/job.svelte';
  import { tables } from '../state/tables.svelte';
  import Field from '../ui/Field.svelte';
  import Pick from '../ui/Pick.svelte';
  import Swatch from '../ui/Swatch.svelte';
  import Switch from '../ui/Switch.svelte';
  import FilmsAtHand from './FilmsAtHand.svelte';
  import HandFields from './layers/HandFields.svelte';
  import Looking from './layers/Looking.svelte';
  import Meetings from './layers/Meetings.svelte';
  import MendFields from './layers/MendFields.svelte';
  import WeedingFields from './layers/WeedingFields.svelte';

  let { job }: { job: JobState } = $props();
  const pile = $derived(job.pile);
  const layers = $derived(job.scene?.layers?.layers.toReversed() ?? []);
  const under = $derived(job.scene?.layers?.under ?? 0);
  void tables.load();
  let listing = $state(false);

  type Choice = { colour: string; film: string; film_colour?: string | null; warm_colour?: string | null };
  function choose(colour: string, change: Partial<Choice>) {
    const films = [...((job.value('layers.films') as Choice[]) ?? [])];
    const n = films.findIndex((f) => f.colour === colour);
    const was = films[n] ?? { colour, film: String(job.value('layers.default_film')) };
    if (n < 0) films.push({ ...was, ...change });
    else films[n] = { ...was, ...change };
    job.set('layers.films', films);
  }
</script>

{#if !layers.length && job.document?.elements?.some((e) => e.printed)}
  <p class="leading-snug">
    All of it is printed: no colour becomes a layer of film. Its page stands under
    <a class="link" href="/jobs/{job.id}/sheets">Sheets.</a>
  </p>
{:else if !layers.length}
  <p class="leading-snug">
    Each colour of the artwork becomes a layer of film. <a class="link" href="/jobs/{job.id}/artwork"
      >Bring a drawing first.</a
    >
  </p>
{/if}
{#each layers as layer, n (layer.name)}
  {@const place = layers.length - 1 - n}
  {@const beneath = place < under}
  <div class="border-hairline grid grid-cols-[30px_1fr] items-center gap-x-2 border-b py-2">
    <Swatch
      value={layer.film_colour}
      label="Film colour of {layer.name}"
      film={layer.film}
      size="h-8 w-[28px]"
      onpick={(film_colour) => choose(layer.colour, { film_colour })}
    />
    <div class="flex items-baseline justify-between">
      {#if layers.length > 1}
        <button
          class="text-left font-[600] {pile.alone === place ? 'text-brass-ink' : ''}"
          title={pile.alone === place ? 'Show all films' : 'Show this film alone'}
          aria-label="{layer.name} alone"
          aria-pressed={pile.alone === place}
          onclick={() => (pile.alone = pile.alone === place ? -1 : place)}>{layer.name}</button
        >
      {:else}<span class="font-[600]">{layer.name}</span>{/if}<span class="fine narrow"
        >{layer.pieces} stay · {layer.weeded} weed · {layer.area}</span
      >
    </div>
    <div class="col-span-2 mt-1 flex items-center gap-1">
      {#if layers.length > 1}
        {#each [['Raise', 1, 'M2 6l4-4 4 4'], ['Lower', -1, 'M2 2l4 4 4-4']] as const as [word, by, sign] (word)}
          <button
            class="text-quiet hover:text-blue flex size-6 shrink-0 items-center justify-center disabled:opacity-30"
            aria-label="{word} {layer.name}"
            disabled={beneath || (by > 0 ? n === 0 : n === layers.length - 1 - under)}
            onclick={() => job.raise(place, by)}
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
      {#if layer.warm_colour}
        <label class="fine flex items-center gap-1"
          >warm <input
            type="color"
            class="border-edge h-7 w-8 border"
            aria-label="Colour of {layer.name} in the warmth"
            value={layer.warm_colour}
            onchange={(e) => choose(layer.colour, { warm_colour: e.currentTarget.value })}
          /></label
        >
      {/if}
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
<div class="flex items-center gap-2 py-2">
  <label class="flex grow items-center justify-between gap-3"
    >Films apart <input
      type="range"
      class="accent-brass w-[110px]"
      min="0"
      max="1"
      step="0.02"
      bind:value={pile.apart}
    /></label
  >
  <button
    class="button min-h-[28px]! px-2! py-0! text-[13px] whitespace-nowrap {pile.below ? 'border-blue! font-[650]' : ''}"
    aria-pressed={pile.below}
    onclick={() => (pile.below = !pile.below)}>from below</button
  >
</div>
<Meetings {job} />
{#if layers.length > 1}<HandFields {job} />{/if}
<Looking {job} />
<WeedingFields {job} />
<MendFields {job} />
<h2 class="mt-3 mb-1">All films</h2>
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
