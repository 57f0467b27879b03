<script lang="ts">
  import type { JobState } from '../state/job.svelte';
  import Field from '../ui/Field.svelte';
  import Pick from '../ui/Pick.svelte';
  import FilesButton from './FilesButton.svelte';
  import PatchFields from './PatchFields.svelte';
  import { session } from '../state/session.svelte';
  import { length } from '../units';

  let { job }: { job: JobState } = $props();
  const m = $derived(job.scene?.measure);
  const t = $derived(job.scene?.template);
  /** Which fields of the wrap have a meaning on this blank is the core's to say. */
  const has = $derived((field: string) => m?.wraps.includes(field) ?? false);
  const relief = $derived(String(job.value('wrap.relief') ?? 'none'));
  const RELIEFS: Record<string, string> = { none: 'nothing', slits: 'slits from the edge', gores: 'gores' };
  const EDGES: Record<string, string> = { lower: 'lower', upper: 'upper' };
</script>

{#if has('extent')}
  <Pick
    {job}
    path="wrap.extent"
    label="Template covers"
    choices={[
      ['full', 'all round'],
      ['free', 'the free area'],
    ]}
  />
  {#if job.value('wrap.extent') === 'full'}
    <Field {job} path="wrap.overlap_mm" label="Ends overlap" note="below zero leaves a gap" />
  {/if}
  {#if m?.free.handle == null}
    <Field {job} path="wrap.seam_deg" label="Seam" note="from the front; 180° is the back" kind="number" unit="°" />
  {/if}
{/if}
{#if has('joint_overlap_mm')}
  <Field {job} path="wrap.joint_overlap_mm" label="Pieces lap" note="the upper one under its joint" />
  {#each t?.joints ?? [] as [up, turn] (up)}
    <p class="fine pt-1">
      At {length(up, session.style)} along the side the wall turns by {Math.abs(turn).toFixed(1)}°.
    </p>
  {/each}
{/if}
{#if has('patch.line')}
  <PatchFields {job} choice={has('patch.mode')} />
{/if}
{#if m && m.reliefs.length > 1}
  <Pick {job} path="wrap.relief" label="Where film must give" choices={m.reliefs.map((r) => [r, RELIEFS[r]!])} />
  {#if relief === 'slits'}
    <Field {job} path="wrap.slit_overlap_mm" label="Lips may lap by" />
    {#if m.edges.length}
      <Pick
        {job}
        path="wrap.slit_edge"
        label="From the edge"
        choices={[['both', 'both'], ...m.edges.map((e): [string, string] => [e, EDGES[e]!])]}
      />
    {/if}
    <p class="fine pt-1">
      {t?.slits.length
        ? `${t.slits.length} slits, up to ${length(t.slit_depth, session.style)} deep; they are cut with the film, and files of their own.`
        : 'No slit is needed: the film is nowhere too long.'}
    </p>
  {:else if relief === 'gores'}
    <Field {job} path="wrap.gores" label="How many" note="0: as few as the film allows" kind="number" />
    {#if t?.gores}<p class="fine pt-1">
        {t.gores} gores, each {length(t.gore_width, session.style)} at its widest.
      </p>{/if}
  {/if}
{/if}
<Field
  {job}
  path="wrap.film_thickness_um"
  label="Film thickness"
  note={job.value('wrap.film_thickness_um') == null
    ? `the film's own, ${(t?.film_thickness_um ?? 0).toFixed(0)} µm`
    : 'as typed; empty for the film’s own'}
  kind="number"
  unit="µm"
  optional
/>
<p class="fine mt-4 mb-3 leading-snug">
  Print the template at 100 %, check both rules on the page, wrap it round and see how its ends meet. What is curved one
  way unrolls exactly; what is curved twice must stretch, lap or be cut, and the map shows where.
</p>
<FilesButton {job} only={['template', 'patch', 'body', 'layers/slits']} label="Template files" />
