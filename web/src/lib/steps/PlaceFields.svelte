<script lang="ts">
  /** Where the chosen drawing lies, how large and how turned, and how it is laid. */
  import { RadioGroup } from 'bits-ui';
  import { client, take, wordsOf, type Placement } from '../api/client';
  import type { Element } from '../state/elements';
  import type { JobState } from '../state/job.svelte';
  import { session } from '../state/session.svelte';
  import { tables } from '../state/tables.svelte';
  import Field from '../ui/Field.svelte';
  import Pick from '../ui/Pick.svelte';
  import Switch from '../ui/Switch.svelte';
  import { lengthText, unitOf } from '../units';
  import LetteringFields from './LetteringFields.svelte';
  import MeasureFields from './MeasureFields.svelte';
  import PatternFields from './PatternFields.svelte';
  import RoomFields from './RoomFields.svelte';
  import TracingFields from './TracingFields.svelte';

  type Listed = { element: number; path: string; name: string; source: Element['source'] };
  let { job, all, i }: { job: JobState; all: Listed[]; i: number } = $props();
  const elements = $derived(job.document?.elements ?? []);
  const path = $derived(all[i]?.path ?? '');
  const element = $derived(`elements.${all[i]?.element ?? 0}`);
  const made = $derived(tables.madeAs(all[i]?.source));
  const placed = $derived(job.scene?.placed.find((d) => d.path === path));
  const round = $derived(job.scene?.measure.closed ?? true);
  /** Has this drawing shades that film has not? */
  const shaded = $derived(
    job.judged.verdicts.some((v) => v.code === 'artwork.gradient' && v.field === `${element}.source.file`),
  );
  /** Has it paint that film is too dense for? */
  const sheer = $derived(
    job.judged.verdicts.some((v) => v.code.startsWith('artwork.opacity') && v.field === `${element}.source.file`),
  );
  /** Is some of it too thin to be cut, and was set aside? */
  const fine = $derived(
    job.judged.verdicts.some((v) => v.code === 'artwork.fine' && v.field === `${element}.source.fine`),
  );
  /** What was brought back or set aside by hand can be taken back before anything is judged of it. */
  let touched = $state('');
  /** Is it a picture that is traced? */
  const traced = $derived(
    job.judged.verdicts.some((v) => v.code === 'artwork.traced' && v.field === `${element}.source.colours`),
  );
  let trouble = $state('');
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
  /** Does it go once round, as wide as that makes it? And does what it lies on go round? */
  const once = $derived((job.value(`${path}.once_round_mm`) ?? null) !== null);
  const whole = $derived(job.scene?.template?.all_round ?? false);
  /** Not once round any more it stays as wide as it is. */
  function goOnceRound(on: boolean) {
    job.place(path, on ? { once_round_mm: 0 } : { once_round_mm: null, ...(placed && { width_mm: placed.width }) });
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
  const NAMES: Record<string, string> = { level: 'level', conformal: 'conformal', even: 'even', flat: 'flat' };
  const SIGNS: Record<string, string> = {
    level: 'M2 8q22-9 44 0M2 20q22-9 44 0M9 6l2 12M24 3.5v12M39 6l-2 12',
    conformal: 'M2 14q22-9 44 0M12 11a4 4 0 1 0 .1 0M24 8.500a4 4 0 1 0 .1 0M36 11a4 4 0 1 0 .1 0',
    even: 'M2 8q22-9 44 0M2 20q22-9 44 0',
    flat: 'M2 6h44M2 20h44M12 9a4 4 0 1 0 .1 0M24 9a4 4 0 1 0 .1 0M36 9a4 4 0 1 0 .1 0',
  };
</script>

{#if placed && all.length === 1}
  <p class="fine truncate pb-1">
    <bdi>{placed.name}</bdi> · {placed.colours} colour{placed.colours === 1 ? '' : 's'} · {placed.pieces} piece{placed.pieces ===
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
  <MeasureFields
    {job}
    path="{element}.source"
    measures={made.measures.filter((m) => !placed?.given.includes(m.path))}
  />
{:else if once}
  <Field {job} path="{path}.once_round_mm" label="Overlap of the ends" note="below zero: a gap" />
{:else}
  <Field {job} path="{path}.width_mm" label="Across" note={round ? 'round it, at its middle' : ''} />
{/if}
{#if !placed?.stands}<Field
    {job}
    path="{path}.up_mm"
    label="Up"
    note="its middle, from {placed?.beside ? 'the other’s' : round ? 'the lower line' : 'the lower edge'}"
  />{/if}
{#if round && once}
  <p class="fine border-hairline border-b py-[7px]">
    Its ends lie at the seam, which Unwrap sets{placed
      ? `: so it is ${lengthText(placed.width, session.style)} ${unitOf(session.style)} across`
      : ''}.
  </p>
{:else if round}
  <Field
    {job}
    path="{path}.centre_deg"
    label="Round"
    note="its middle, from {placed?.beside ? 'the other’s' : 'the front'}"
    kind="number"
    unit="°"
  />
{:else if !placed?.across.held}
  <Field {job} path="{path}.across_mm" label="Sideways" note="from {placed?.beside ? 'the other’s' : 'the middle'}" />
{/if}
{#if !placed?.stands}<Field {job} path="{path}.turn_deg" label="Turned" kind="number" unit="°" />{/if}
{#if round && !made && (once || (whole && job.value(`${path}.repeat`) === 1))}
  <label class="border-hairline flex min-h-10 items-center gap-3 border-b py-[7px] leading-tight">
    <span class="grow">Once round<span class="fine block">as wide as makes its ends meet</span></span>
    <input
      type="checkbox"
      id="field-{path}.once_round"
      class="accent-blue size-5"
      checked={once}
      onchange={(e) => goOnceRound(e.currentTarget.checked)}
    />
  </label>
{/if}
{#if (round && !once) || job.value(`${path}.repeat`) !== 1}
  <Field {job} path="{path}.repeat" label={round ? 'Copies round it' : 'Copies'} kind="number" />
{/if}
{#if traced}<TracingFields {job} path="{element}.source" />{/if}
{#if shaded || (job.value(`${element}.source.shades`) ?? 1) !== 1}
  <Field {job} path="{element}.source.shades" label="Steps of a gradient" note="1: its mean colour" kind="number" />
{/if}
{#if sheer || (job.value(`${element}.source.see_through`) ?? 'shadows_out') !== 'shadows_out'}
  <Pick
    {job}
    path="{element}.source.see_through"
    label="See-through paint"
    note="film is not"
    choices={[
      ['shadows_out', 'shadows left out'],
      ['out', 'all left out'],
      ['blended', 'as the colour it gives'],
      ['full', 'at full strength'],
    ]}
  />
{/if}
{#if fine || touched === element || job.value(`${element}.source.fine`) === 'kept'}
  <label class="border-hairline flex min-h-10 items-center gap-3 border-b py-[7px] leading-tight">
    <span class="grow">Fine lines too<span class="fine block">thinner than a blade goes round</span></span>
    <input
      type="checkbox"
      id="field-{element}.source.fine"
      class="accent-blue size-5"
      checked={job.value(`${element}.source.fine`) === 'kept'}
      onchange={(e) => {
        touched = element;
        job.set(`${element}.source.fine`, e.currentTarget.checked ? 'kept' : 'aside');
      }}
    />
  </label>
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
{#if placed}<RoomFields {job} {path} {placed} grows={!placed.stands && !job.value(`${element}.pattern`)} />{/if}
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
<Switch
  {job}
  path="{element}.printed"
  label="Printed and cut round"
  note="not cut from a film for each colour"
  on={{ border_mm: 0, bleed_mm: 2, film: '' }}
  off={null}
/>
{#if job.value(`${element}.printed`)}
  <Field {job} path="{element}.printed.border_mm" label="White round it" note="0: cut along its own edge" />
  <Pick
    {job}
    path="{element}.printed.film"
    label="Printed on"
    choices={[['', 'the default film'], ...tables.films.map((f): [string, string] => [f.id, f.name])]}
  />
  <Field {job} path="{element}.printed.bleed_mm" label="Bleed" note="past the edge, where there is no white" />
{/if}
{#if trouble}<p class="text-stop pt-1 text-[13px]" role="alert">{trouble}</p>{/if}
