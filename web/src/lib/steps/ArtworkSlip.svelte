<script lang="ts">
  import { RadioGroup } from 'bits-ui';
  import { onMount } from 'svelte';
  import { client, fileForm, take } from '../api/client';
  import type { JobState } from '../state/job.svelte';
  import { tables } from '../state/tables.svelte';
  import { session } from '../state/session.svelte';
  import { lengthText, unitOf } from '../units';
  import FilePick from '../ui/FilePick.svelte';
  import Field from '../ui/Field.svelte';

  let { job }: { job: JobState } = $props();
  const elements = $derived(job.document?.elements ?? []);
  /** One button for each placement of each element. */
  const all = $derived(
    elements.flatMap((e, n) =>
      (e.placements ?? [{}]).map((_, k) => ({
        element: n,
        path: `elements.${n}.placements.${k}`,
        name: e.source.file,
      })),
    ),
  );
  const i = $derived(Math.min(job.selected, Math.max(all.length - 1, 0)));
  const path = $derived(all[i]?.path ?? '');
  const element = $derived(`elements.${all[i]?.element ?? 0}`);
  const placed = $derived(job.scene?.placed.find((d) => d.path === path));
  const round = $derived(job.scene?.measure.closed ?? true);
  /** Has this drawing shades that film has not? */
  const shaded = $derived(
    (job.scene?.verdicts ?? []).some((v) => v.code === 'artwork.gradient' && v.field === `${element}.source.file`),
  );
  let trouble = $state('');
  let busy = $state(false);
  let picker: FilePick;
  onMount(() => void tables.load());

  async function upload(file: File) {
    job.addDrawing(
      await take(
        client.POST('/api/jobs/{job_id}/drawings', { params: { path: { job_id: job.id } }, ...fileForm(file) }),
      ),
    );
  }
  function takeOut() {
    job.selected = 0;
    job.set(
      'elements',
      elements.filter((_, n) => n !== all[i]?.element),
    );
  }
  const NAMES: Record<string, string> = { level: 'level', conformal: 'conformal', even: 'even', flat: 'flat' };
  const SIGNS: Record<string, string> = {
    level: 'M2 8q22-9 44 0M2 20q22-9 44 0M9 6l2 12M24 3.5v12M39 6l-2 12',
    conformal: 'M2 14q22-9 44 0M12 11a4 4 0 1 0 .1 0M24 8.500a4 4 0 1 0 .1 0M36 11a4 4 0 1 0 .1 0',
    even: 'M2 8q22-9 44 0M2 20q22-9 44 0',
    flat: 'M2 6h44M2 20h44M12 9a4 4 0 1 0 .1 0M24 9a4 4 0 1 0 .1 0M36 9a4 4 0 1 0 .1 0',
  };
</script>

<FilePick
  bind:this={picker}
  accept=".svg,.svgz,image/svg+xml"
  label="Drawing to add"
  onfile={upload}
  bind:busy
  bind:trouble
/>
{#if !all.length}
  <p class="mb-3 leading-snug">
    Bring a drawing as an SVG file. It is laid on the free area; then drag it on the template, or type its place.
  </p>
{/if}
{#if all.length > 1}
  <div class="mb-2 flex flex-wrap gap-1" role="group" aria-label="Drawings">
    {#each all as d, n (d.path)}
      <button
        class="button max-w-[150px] truncate px-2! text-[13px] {n === i ? 'border-blue! font-[650]' : ''}"
        aria-pressed={n === i}
        onclick={() => (job.selected = n)}>{d.name}</button
      >
    {/each}
  </div>
{/if}
<div class="flex gap-2 pb-2">
  <button
    class="button {all.length ? '' : 'button-main'}"
    disabled={busy || !tables.hasRoom('elements', elements.length)}
    onclick={() => picker.pick()}>{busy ? 'Reading …' : all.length ? 'Add a drawing' : 'Bring a drawing'}</button
  >
  {#if all.length}<button class="button" onclick={takeOut}>Take out</button>{/if}
</div>
{#if trouble}<p class="text-stop pb-2 text-[13px]" role="alert">{trouble}</p>{/if}
{#if all.length}
  {#if placed && all.length === 1}
    <p class="fine truncate pb-1">
      {placed.name} · {placed.colours} colour{placed.colours === 1 ? '' : 's'} · {placed.pieces} piece{placed.pieces ===
      1
        ? ''
        : 's'} · {lengthText(placed.height, session.style)}
      {unitOf(session.style)} tall
    </p>
  {/if}
  <Field {job} path="{path}.width_mm" label="Across" note={round ? 'round it, at its middle' : ''} />
  <Field
    {job}
    path="{path}.up_mm"
    label="Up"
    note={round ? 'its middle, from the lower line' : 'its middle, from the lower edge'}
  />
  {#if round}
    <Field {job} path="{path}.centre_deg" label="Round" note="its middle, from the front" kind="number" unit="°" />
  {:else}
    <Field {job} path="{path}.across_mm" label="Sideways" note="from the middle" />
  {/if}
  <Field {job} path="{path}.turn_deg" label="Turned" kind="number" unit="°" />
  {#if round || job.value(`${path}.repeat`) !== 1}
    <Field {job} path="{path}.repeat" label={round ? 'Copies round it' : 'Copies'} kind="number" />
  {/if}
  {#if shaded || (job.value(`${element}.source.shades`) ?? 1) !== 1}
    <Field {job} path="{element}.source.shades" label="Steps of a gradient" note="1: its mean colour" kind="number" />
  {/if}
  {#if placed}
    <div class="flex flex-wrap gap-1 py-2 text-[13px]">
      {#each placed.spots as spot (spot.words)}
        <button class="button px-2!" onclick={() => job.merge(path, spot.sets)}>{spot.words}</button>
      {/each}
    </div>
    <div class="flex flex-wrap items-center gap-1 pb-2 text-[13px]">
      <span class="fine">As large as is free:</span>
      {#each placed.rooms as room (room.words)}
        <button class="button px-2!" onclick={() => job.merge(path, room.sets)}>{room.words}</button>
      {/each}
    </div>
  {/if}
  {#if placed?.tapered}
    <h2 id="ways" class="mt-1 mb-1">Laid on the taper</h2>
    <RadioGroup.Root
      class="flex flex-col gap-1"
      aria-labelledby="ways"
      value={placed.way}
      onValueChange={(v) => job.set(`${path}.way`, v)}
    >
      {#each placed.ways as w (w.way)}
        <RadioGroup.Item
          id="field-{path}.way-{w.way}"
          value={w.way}
          aria-label="{w.way}: {w.figure}"
          class="bg-sheet flex min-h-[44px] items-center gap-3 rounded-[3px] border px-3 text-left {w.way === placed.way
            ? 'border-blue shadow-[inset_4px_0_0_var(--color-blue)]'
            : 'border-hairline'}"
        >
          <svg width="48" height="26" viewBox="0 0 48 26" class="shrink-0" aria-hidden="true"
            ><path d={SIGNS[w.way]} fill="none" stroke="var(--color-blue)" stroke-width="1.6" /></svg
          >
          <span class="leading-tight"
            ><b class="font-[650]">{NAMES[w.way]}</b>{w.way === placed.suggested ? ' · suggested' : ''}<span
              class="fine narrow block">{w.figure}</span
            ></span
          >
        </RadioGroup.Item>
      {/each}
    </RadioGroup.Root>
  {/if}
{/if}
