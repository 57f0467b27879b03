<script lang="ts">
  /** The pattern an element is repeated in. */
  import type { JobState } from '../state/job.svelte';
  import { nameOf } from '../state/elements';
  import Field from '../ui/Field.svelte';
  import Fold from '../ui/Fold.svelte';
  import Pick from '../ui/Pick.svelte';

  let { job, path, round, tapered }: { job: JobState; path: string; round: boolean; tapered: boolean } = $props();
  const of = (field: string) => String(job.value(`${path}.${field}`) ?? '');
  const mine = $derived(path.split('.')[1]);
  /** The elements whose lattice it may share. */
  const leads = $derived(
    (job.document?.elements ?? []).flatMap((e, n) =>
      String(n) !== mine && e.pattern && !e.pattern.turns_with && e.id ? [[e.id, nameOf(e)] as [string, string]] : [],
    ),
  );
  const follows = $derived(of('turns_with'));
  const on = $derived(!!job.value(path));
  const scattered = $derived(of('lattice') === 'scatter');
  const LATTICES: [string, string][] = [
    ['square', 'in rows and columns'],
    ['brick', 'in brick rows'],
    ['half_drop', 'in half-drop columns'],
    ['hexagonal', 'in a honeycomb'],
    ['mirrored', 'mirrored in turn'],
    ['scatter', 'scattered'],
  ];
</script>

<Fold title="Pattern" note={on ? (LATTICES.find(([k]) => k === of('lattice'))?.[1] ?? '') : 'laid once'} open={on}>
  {#if !on}
    <button class="button my-2 px-2! text-[14px]" onclick={() => job.set(path, {})}>Repeat it all over</button>
  {:else}
    {#if leads.length || follows}
      <Pick
        {job}
        path="{path}.turns_with"
        label="Takes turns with"
        choices={[['', 'no other'], ...leads]}
        onpick={(v) => job.set(`${path}.turns_with`, v || null)}
      />
    {/if}
    {#if follows}
      <p class="fine py-1">It lies on that one’s lattice, the two in turn.</p>
    {:else}<Pick {job} path="{path}.lattice" label="Set" choices={LATTICES} />{/if}
    {#if follows}{:else if scattered}
      <Field {job} path="{path}.least_mm" label="Middles at least apart" />
      <Field {job} path="{path}.seed" label="Throw of the dice" kind="number" />
    {:else}
      <Pick
        {job}
        path="{path}.by"
        label="Spaced by"
        choices={[
          ['pitch', 'distance'],
          ['number', round ? 'number round it' : 'number across'],
          ['coverage', 'share covered'],
        ]}
      />
      {#if of('by') === 'number'}<Field {job} path="{path}.number" label="Number in a row" kind="number" />
      {:else if of('by') === 'coverage'}<Field
          {job}
          path="{path}.coverage_percent"
          label="Covered"
          kind="number"
          unit="%"
        />
      {:else}<Field
          {job}
          path="{path}.pitch_mm"
          label="From middle to middle"
          note={round ? 'as near as meets at the seam' : ''}
        />{/if}
      <Field {job} path="{path}.row_mm" label="From row to row" note="0: as the set has it" />
      {#if round && tapered}
        <Pick
          {job}
          path="{path}.taper"
          label="On the taper"
          choices={[
            ['conformal', 'growing with the wall'],
            ['rings', 'rings of one size'],
          ]}
        />
      {:else if !round}
        <Pick
          {job}
          path="{path}.anchor"
          label="Begins"
          choices={[
            ['middle', 'in the middle'],
            ['corner', 'in the lower left corner'],
            ['here', 'where it lies'],
          ]}
        />
      {/if}
    {/if}
    {#if !follows}<Pick
        {job}
        path="{path}.turned"
        label="Motifs stand"
        choices={[
          ['upright', 'upright'],
          ...(round ? [] : ([['outward', 'outward']] as [string, string][])),
          ['random', 'turned at random'],
        ]}
      />
      <Pick
        {job}
        path="{path}.edge"
        label="At the edges"
        choices={[
          ['whole', 'whole ones only'],
          ['cut', 'cut off'],
        ]}
      />
      {#if of('edge') === 'cut'}<Field
          {job}
          path="{path}.bleed_mm"
          label="Beyond the edge"
          note="to be trimmed in place"
        />{/if}
    {/if}
    <button class="link my-2 text-[14px]" onclick={() => job.set(path, null)}>Lay it once again</button>
  {/if}
</Fold>
