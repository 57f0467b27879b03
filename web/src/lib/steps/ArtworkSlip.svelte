<script lang="ts">
  import { RadioGroup } from 'bits-ui';
  import { ApiError, client, take, fileForm, type Schemas } from '../api/client';
  import type { JobState } from '../state/job.svelte';
  import { session } from '../state/session.svelte';
  import { length, lengthText, unitOf } from '../units';
  import FilePick from '../ui/FilePick.svelte';
  import Field from '../ui/Field.svelte';

  let { job }: { job: JobState } = $props();
  const drawings = $derived(job.document?.drawings ?? []);
  const i = $derived(Math.min(job.selected, Math.max(drawings.length - 1, 0)));
  const path = $derived(`drawings.${i}.placement`);
  const placed = $derived(job.scene?.placed[i]);
  const cup = $derived(job.scene?.measure.closed ?? true);
  const tapered = $derived(placed?.tapered ?? false);
  /** Has this drawing shades that film has not? */
  const shaded = $derived(
    (job.scene?.verdicts ?? []).some((v) => v.code === 'artwork.gradient' && v.field === `drawings.${i}.file`),
  );
  let trouble = $state('');
  let busy = $state(false);
  let picker: FilePick;

  async function upload(file: File) {
    if (file.size > 20_000_000)
      throw new ApiError(
        422,
        'bad_drawing',
        `“${file.name}” has ${(file.size / 1e6).toFixed(0)} MB.`,
        'At most 20 MB are taken: simplify the drawing, or take pictures out.',
        [],
      );
    const added = await take(
      client.POST('/api/jobs/{job_id}/drawings', {
        params: { path: { job_id: job.id } },
        ...fileForm(file),
      }),
    );
    job.addDrawing(added);
  }
  type Face = Schemas['FacePart'] | undefined;
  const placeOn = (face: Face) => {
    const m = job.scene!.measure;
    const up_mm = Number((face?.up ?? (m.free_low + m.free_high) / 2).toFixed(2));
    const middle = Number((face?.centre ?? 0).toFixed(1));
    return cup ? { up_mm, centre_deg: middle } : { up_mm, across_mm: middle };
  };
  /** As large as fits the rectangle that is free and readable there. */
  function fill(face: NonNullable<Face>) {
    if (!placed) return;
    const share = placed.width / placed.height;
    const width = Math.floor(Math.min(face.width, face.height * share) * 0.97 * 10) / 10;
    job.set(path, { ...(job.value(path) as object), width_mm: width, turn_deg: 0, ...placeOn(face) });
  }
  function takeOut() {
    job.selected = 0;
    job.change({ ...job.document!, drawings: drawings.filter((_, n) => n !== i) });
  }
  const middleUp = () =>
    job.scene &&
    job.set(`${path}.up_mm`, Number(((job.scene.measure.free_low + job.scene.measure.free_high) / 2).toFixed(2)));
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
{#if !drawings.length}
  <p class="mb-3 leading-snug">
    Bring a drawing as an SVG file. It is laid on the free area; then drag it on the template, or type its place.
  </p>
{/if}
{#if drawings.length > 1}
  <div class="mb-2 flex flex-wrap gap-1" role="group" aria-label="Drawings">
    {#each drawings as d, n (n)}
      <button
        class="button max-w-[150px] truncate px-2! text-[13px] {n === i ? 'border-blue! font-[650]' : ''}"
        aria-pressed={n === i}
        onclick={() => (job.selected = n)}>{d.file}</button
      >
    {/each}
  </div>
{/if}
<div class="flex gap-2 pb-2">
  <button
    class="button {drawings.length ? '' : 'button-main'}"
    disabled={busy || drawings.length >= 40}
    onclick={() => picker.pick()}>{busy ? 'Reading …' : drawings.length ? 'Add a drawing' : 'Bring a drawing'}</button
  >
  {#if drawings.length}<button class="button" onclick={takeOut}>Take out</button>{/if}
</div>
{#if trouble}<p class="text-stop pb-2 text-[13px]" role="alert">{trouble}</p>{/if}
{#if drawings.length}
  {#if placed && drawings.length === 1}
    <p class="fine truncate pb-1">
      {placed.file} · {placed.colours} colour{placed.colours === 1 ? '' : 's'} · {placed.pieces} pieces · {lengthText(
        placed.height,
        session.style,
      )}
      {unitOf(session.style)} tall
    </p>
  {/if}
  <Field {job} path="{path}.width_mm" label="Across" note={cup ? 'round it, at its middle' : ''} />
  <Field
    {job}
    path="{path}.up_mm"
    label="Up"
    note={cup ? 'its middle, from the lower line' : 'its middle, from the lower edge'}
  />
  {#if cup}
    <Field {job} path="{path}.centre_deg" label="Round" note="its middle, from the front" kind="number" unit="°" />
  {:else}
    <Field {job} path="{path}.across_mm" label="Sideways" note="from the middle" />
  {/if}
  <Field {job} path="{path}.turn_deg" label="Turned" kind="number" unit="°" />
  {#if cup || job.value(`${path}.repeat`) !== 1}
    <Field {job} path="{path}.repeat" label={cup ? 'Copies round it' : 'Copies'} kind="number" />
  {/if}
  {#if shaded || (job.value(`drawings.${i}.shades`) ?? 1) !== 1}
    <Field {job} path="drawings.{i}.shades" label="Steps of a gradient" note="1: its mean colour" kind="number" />
  {/if}
  <div class="flex flex-wrap gap-1 py-2 text-[13px]">
    <button class="button px-2!" onclick={() => job.set(cup ? `${path}.centre_deg` : `${path}.across_mm`, 0)}
      >{cup ? 'On the face' : 'Middle'}</button
    >
    {#if cup}<button class="button px-2!" onclick={() => job.set(`${path}.centre_deg`, 180)}>At the back</button>{/if}
    <button class="button px-2!" onclick={middleUp}>Half way up</button>
  </div>
  {#if placed}
    <div class="flex flex-wrap items-center gap-1 pb-2 text-[13px]">
      <span class="fine">As large as is free:</span>
      {#each job.scene?.measure.faces ?? [] as face (face.seen_by)}
        <button
          class="button px-2!"
          title="{lengthText(face.width, session.style)} × {length(face.height, session.style)}"
          onclick={() => fill(face)}>{cup ? `seen by ${face.seen_by}` : 'the largest rectangle'}</button
        >
      {/each}
    </div>
  {/if}
  {#if tapered && placed}
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
