<script lang="ts">
  import { DropdownMenu, RadioGroup } from 'bits-ui';
  import { onMount, tick } from 'svelte';
  import { client, fileForm, take, takeAs, wordsOf, type Placement } from '../api/client';
  import { nameOf, type Element } from '../state/elements';
  import type { JobState } from '../state/job.svelte';
  import { tables } from '../state/tables.svelte';
  import { session } from '../state/session.svelte';
  import { lengthText, unitOf } from '../units';
  import { fetchInto, FILES, type FolioItem } from '../folio/folio';
  import FolioPick from '../folio/FolioPick.svelte';
  import DropFiles from '../ui/DropFiles.svelte';
  import FilePick from '../ui/FilePick.svelte';
  import Field from '../ui/Field.svelte';
  import Switch from '../ui/Switch.svelte';
  import LetteringFields from './LetteringFields.svelte';
  import MeasureFields from './MeasureFields.svelte';
  import NamesFields from './NamesFields.svelte';
  import PatternFields from './PatternFields.svelte';
  import PieceFields from './PieceFields.svelte';
  import ReferenceFields from './ReferenceFields.svelte';
  import TracingFields from './TracingFields.svelte';

  let { job }: { job: JobState } = $props();
  const elements = $derived(job.document?.elements ?? []);
  /** One button for each placement of each element. */
  const all = $derived(
    elements.flatMap((e, n) =>
      (e.placements ?? [{}]).map((_, k) => {
        const path = `elements.${n}.placements.${k}`;
        const name = job.scene?.placed.find((d) => d.path === path)?.name ?? nameOf(e);
        return { element: n, path, name, source: e.source };
      }),
    ),
  );
  const i = $derived(Math.min(job.selected, Math.max(all.length - 1, 0)));
  const path = $derived(all[i]?.path ?? '');
  const element = $derived(`elements.${all[i]?.element ?? 0}`);
  const made = $derived(tables.madeAs(all[i]?.source));
  const placed = $derived(job.scene?.placed.find((d) => d.path === path));
  const round = $derived(job.scene?.measure.closed ?? true);
  /** Has this drawing shades that film has not? */
  const shaded = $derived(
    (job.scene?.verdicts ?? []).some((v) => v.code === 'artwork.gradient' && v.field === `${element}.source.file`),
  );
  /** Is it a picture that is traced? */
  const traced = $derived(
    (job.scene?.verdicts ?? []).some((v) => v.code === 'artwork.traced' && v.field === `${element}.source.colours`),
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
  async function words(text: string) {
    await make('words');
    job.set(`elements.${(job.document?.elements?.length ?? 1) - 1}.source.text`, text.slice(0, 600));
  }
  async function make(what: string) {
    const made = await takeAs<{ source: Element['source']; placement: Placement; knocks_out: boolean }>(
      client.POST('/api/jobs/{job_id}/make', { params: { path: { job_id: job.id } }, body: { make: what } }),
    );
    job.addElement({ source: made.source, placements: [made.placement], knocks_out: made.knocks_out });
    await tick();
    document.querySelector<HTMLTextAreaElement>('#slip textarea')?.select();
  }
  let growing = $state(false);
  let margin = $state(2);
  /** As large as is free by its true outline, moved and, if that may be, turned. */
  async function grow(turning: boolean) {
    if (!job.document) return;
    growing = true;
    trouble = '';
    try {
      const body = { ...job.placementIn(), margin_mm: Number(margin) || 0, turning };
      const sets = await take(client.POST('/api/jobs/{job_id}/grow', { params: job.params, body }));
      job.place(path, sets as Partial<Placement>);
    } catch (bad) {
      trouble = wordsOf(bad);
    } finally {
      growing = false;
    }
  }
  const others = $derived(
    elements
      .map((e, n) => ({ id: e.id ?? '', name: all.find((a) => a.element === n)?.name ?? '', n }))
      .filter((o) => o.n !== all[i]?.element),
  );
  /** Counted from another element, or from the blank again: it stays where it is. */
  function placeFrom(id: string) {
    if (!placed) return;
    const from = job.scene?.placed.find((d) => d.element === id);
    const values = Object.fromEntries(
      Object.entries(placed.at).map(([f, v]) => [f, Number((v - (from?.at[f] ?? 0)).toFixed(3))]),
    );
    job.place(path, { ...values, beside: id || null } as Partial<Placement>);
  }
  const ownFile = $derived(all[i]?.source.kind === 'file' ? (all[i].source as { file: string }).file : '');
  let kept = $state('');
  async function keep() {
    const file = ownFile;
    try {
      await take(client.POST('/api/folio/from-job', { body: { job: job.id, file } }));
      kept = file;
    } catch (bad) {
      trouble = wordsOf(bad);
    }
  }
  function takeOut() {
    job.selected = 0;
    job.set(
      'elements',
      elements.filter((_, n) => n !== all[i]?.element),
    );
  }
  const TABS: ['place' | 'pieces' | 'names', string][] = [
    ['place', 'Its place'],
    ['pieces', 'Its pieces'],
    ['names', 'Names'],
  ];
  let listed = $state(false);
  const tab = $derived(job.pieces.on ? 'pieces' : listed ? 'names' : 'place');
  const names = $derived(job.document?.names?.rows.length ?? 0);
  let choosing = $state(false);
  async function fromFolio(item: FolioItem) {
    choosing = false;
    busy = true;
    trouble = '';
    try {
      const file = await fetchInto(item.id, job.id);
      const [left, low, right, high] = item.bounds;
      const placement = await take(
        client.GET('/api/jobs/{job_id}/place', {
          params: { path: { job_id: job.id }, query: { width: right - left, height: high - low } },
        }),
      );
      job.addDrawing({ file, width: right - left, height: high - low, placement });
    } catch (bad) {
      trouble = wordsOf(bad);
    } finally {
      busy = false;
    }
  }
  const NAMES: Record<string, string> = { level: 'level', conformal: 'conformal', even: 'even', flat: 'flat' };
  const SIGNS: Record<string, string> = {
    level: 'M2 8q22-9 44 0M2 20q22-9 44 0M9 6l2 12M24 3.5v12M39 6l-2 12',
    conformal: 'M2 14q22-9 44 0M12 11a4 4 0 1 0 .1 0M24 8.500a4 4 0 1 0 .1 0M36 11a4 4 0 1 0 .1 0',
    even: 'M2 8q22-9 44 0M2 20q22-9 44 0',
    flat: 'M2 6h44M2 20h44M12 9a4 4 0 1 0 .1 0M24 9a4 4 0 1 0 .1 0M36 9a4 4 0 1 0 .1 0',
  };
</script>

<FilePick bind:this={picker} accept={FILES} label="Drawing to add" onfile={upload} bind:busy bind:trouble />
<DropFiles what="Let go to lay it on the blank" onfile={upload} ontext={words} bind:busy bind:trouble />
{#if choosing}<FolioPick onpick={fromFolio} onclose={() => (choosing = false)} />{/if}
{#if !all.length}
  <p class="mb-3 leading-snug">
    Bring a drawing as an SVG, DXF or PDF file, or a picture to be traced, add words, or draw a shape by its measures.
    It is laid on the free area; then drag it on the template, or type its place.
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
    class="button px-2! whitespace-nowrap {all.length ? '' : 'button-main'}"
    disabled={busy || !tables.hasRoom('elements', elements.length)}
    onclick={() => picker.pick()}>{busy ? 'Reading …' : all.length ? 'Add a drawing' : 'Bring a drawing'}</button
  >
  <button
    class="button px-2! whitespace-nowrap"
    disabled={!tables.hasRoom('elements', elements.length)}
    onclick={() => make('words')}>Add words</button
  >
  <DropdownMenu.Root>
    <DropdownMenu.Trigger class="button px-2! whitespace-nowrap" disabled={!tables.hasRoom('elements', elements.length)}
      >Draw …</DropdownMenu.Trigger
    >
    <DropdownMenu.Content
      class="bg-sheet border-edge z-20 max-h-[480px] min-w-[230px] overflow-y-auto rounded-[3px] border py-1"
      sideOffset={4}
      align="start"
    >
      <DropdownMenu.Item class="data-highlighted:bg-wash cursor-pointer px-3 py-1.5" onSelect={() => (choosing = true)}
        >from the Folio …</DropdownMenu.Item
      >
      {#each tables.makes.filter((m) => m.group !== 'words') as m (m.id)}
        <DropdownMenu.Item class="data-highlighted:bg-wash cursor-pointer px-3 py-1.5" onSelect={() => make(m.id)}
          >{m.words}</DropdownMenu.Item
        >
      {/each}
    </DropdownMenu.Content>
  </DropdownMenu.Root>
</div>
{#if trouble}<p class="text-stop pb-2 text-[13px]" role="alert">{trouble}</p>{/if}
{#if all.length}
  <div
    class="border-edge mb-2 grid grid-cols-[1fr_1fr_1fr_auto] items-center border-b"
    role="group"
    aria-label="What the hand takes"
  >
    {#each TABS as [id, words] (id)}
      <button
        class="min-h-9 border-b-[3px] text-left {tab === id
          ? 'border-brass font-[650]'
          : 'text-quiet border-transparent'}"
        aria-pressed={tab === id}
        onclick={() => {
          job.pieces.on = id === 'pieces';
          listed = id === 'names';
        }}>{words}{id === 'names' && names ? ` ${names}` : ''}</button
      >
    {/each}
    <button class="link text-[14px]" onclick={takeOut}>Take out</button>
  </div>
{/if}
{#if all.length && tab === 'names'}
  <NamesFields {job} />
{:else if all.length && job.pieces.on}
  <PieceFields {job} />
{:else if all.length}
  {#if placed && all.length === 1}
    <p class="fine truncate pb-1">
      {placed.name} · {placed.colours} colour{placed.colours === 1 ? '' : 's'} · {placed.pieces} piece{placed.pieces ===
      1
        ? ''
        : 's'} · {lengthText(placed.height, session.style)}
      {unitOf(session.style)} tall
    </p>
  {/if}
  {#if ownFile && session.makes}
    <p class="pb-1 text-[13px]">
      {#if kept === ownFile}<span class="fine">It is in the Folio.</span>
      {:else}<button class="link" onclick={keep}>Keep it in the Folio</button>{/if}
    </p>
  {/if}
  {#if made?.group === 'words'}
    <LetteringFields {job} path="{element}.source" />
  {:else if made}
    <MeasureFields {job} path="{element}.source" measures={made.measures} />
  {:else}
    <Field {job} path="{path}.width_mm" label="Across" note={round ? 'round it, at its middle' : ''} />
  {/if}
  {#if !placed?.stands}<Field
      {job}
      path="{path}.up_mm"
      label="Up"
      note="its middle, from {placed?.beside ? 'the other’s' : round ? 'the lower line' : 'the lower edge'}"
    />{/if}
  {#if round}
    <Field
      {job}
      path="{path}.centre_deg"
      label="Round"
      note="its middle, from {placed?.beside ? 'the other’s' : 'the front'}"
      kind="number"
      unit="°"
    />
  {:else}
    <Field {job} path="{path}.across_mm" label="Sideways" note="from {placed?.beside ? 'the other’s' : 'the middle'}" />
  {/if}
  {#if !placed?.stands}<Field {job} path="{path}.turn_deg" label="Turned" kind="number" unit="°" />{/if}
  {#if round || job.value(`${path}.repeat`) !== 1}
    <Field {job} path="{path}.repeat" label={round ? 'Copies round it' : 'Copies'} kind="number" />
  {/if}
  {#if traced}<TracingFields {job} path="{element}.source" />{/if}
  {#if shaded || (job.value(`${element}.source.shades`) ?? 1) !== 1}
    <Field {job} path="{element}.source.shades" label="Steps of a gradient" note="1: its mean colour" kind="number" />
  {/if}
  {#if all.length > 1 && placed}
    <div class="border-hairline grid grid-cols-[1fr_172px] items-center gap-x-3 border-b py-[7px]">
      <label for="field-{path}.beside" class="leading-tight"
        >Placed from<span class="fine block">and stays so to it</span></label
      >
      <select
        id="field-{path}.beside"
        class="input"
        value={placed.beside ?? ''}
        onchange={(e) => placeFrom(e.currentTarget.value)}
      >
        <option value="">the blank</option>
        {#each others as o (o.id)}<option value={o.id}>{o.name}</option>{/each}
      </select>
      {#if job.fault('elements')}<p class="text-stop col-span-2 mt-1 text-[13px]" role="alert">
          {job.fault('elements')?.message}
          {job.fault('elements')?.hint}
        </p>{/if}
    </div>
  {/if}
  {#if !placed?.stands}<Switch {job} path="{path}.mirrored" label="Mirrored" note="left for right" />{/if}
  {#if placed}
    <div class="flex flex-wrap gap-1 py-2 text-[13px]">
      {#each placed.spots as spot (spot.words)}
        <button class="button px-2!" onclick={() => job.place(path, spot.sets)}>{spot.words}</button>
      {/each}
    </div>
    <div class="flex flex-wrap items-center gap-1 pb-2 text-[13px]">
      <span class="fine">As large as is free:</span>
      {#each placed.rooms as room (room.words)}
        <button class="button px-2!" onclick={() => job.place(path, room.sets)}>{room.words}</button>
      {/each}
      {#if !placed.stands && !job.value(`${element}.pattern`)}
        <button class="button px-2!" disabled={growing} onclick={() => grow(false)}>to its outline</button>
        <button class="button px-2!" disabled={growing} onclick={() => grow(true)}
          >{growing ? 'Trying …' : 'turned too'}</button
        >
        <label class="fine flex items-center gap-1"
          >with <input
            class="input w-[58px]! px-1! py-0!"
            type="number"
            min="0"
            max="200"
            step="0.5"
            bind:value={margin}
          /> mm round it</label
        >
      {/if}
    </div>
  {/if}
  {#if placed?.tapered && !placed.stands}
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
  <div class="mt-2"></div>
  <PatternFields {job} path="{element}.pattern" {round} tapered={!!job.scene?.template?.k} />
  <Switch {job} path="{element}.knocks_out" label="Cut out of what lies beneath" />
{/if}
{#if tab !== 'names'}<ReferenceFields {job} />{/if}
