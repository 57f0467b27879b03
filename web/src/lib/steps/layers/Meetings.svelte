<script lang="ts">
  /** Where colours meet: how all of them do, how two of them do otherwise, and one film under all. */
  import type { JobState } from '../../state/job.svelte';
  import Colour from '../../ui/Colour.svelte';
  import Field from '../../ui/Field.svelte';
  import Fold from '../../ui/Fold.svelte';
  import Pick from '../../ui/Pick.svelte';

  let { job }: { job: JobState } = $props();
  const all = $derived(job.scene?.layers);
  const joint = $derived(all?.joint);
  const JOINTS: Record<string, string> = {
    stacked: 'stacked whole',
    knocked_out: 'knocked out',
    butted: 'edge to edge',
  };
  type Meeting = { colours: [string, string]; joint: string; under: string | null };
  const meetings = $derived((job.value('layers.meetings') as Meeting[] | undefined) ?? []);
  const same = (m: Meeting, a: string, b: string) => m.colours.includes(a) && m.colours.includes(b);
  function choose(a: string, b: string, change: Partial<Meeting>) {
    const was = meetings.find((m) => same(m, a, b)) ?? { colours: [a, b], joint: 'as_all', under: null };
    const now = { ...was, ...change };
    const rest = meetings.filter((m) => !same(m, a, b));
    job.set('layers.meetings', now.joint === 'as_all' && now.under === null ? rest : [...rest, now]);
  }
  const rows = $derived(
    (all?.meets ?? [])
      .filter((m) => !(m.lower < all!.under))
      .map((m) => ({ ...m, low: all!.layers[m.lower]!, high: all!.layers[m.upper]! }))
      .filter((m) => m.low.colour !== m.high.colour),
  );
  const base = $derived(!!job.value('layers.base'));
</script>

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
{#if joint !== 'butted' || rows.some((m) => m.joint !== 'butted')}
  <Field {job} path="layers.overlap_mm" label="Overlap" />
{/if}
{#if rows.length}
  <Fold title="Two by two" note={meetings.length ? `${meetings.length} otherwise` : 'all alike'}>
    {#each rows as m (`${m.lower}-${m.upper}`)}
      {@const mine = meetings.find((x) => same(x, m.low.colour, m.high.colour))}
      <div class="border-hairline border-b py-1.5 text-[14px]">
        <div class="flex items-center justify-between gap-2">
          <span><b class="font-[600]">{m.low.name}</b> under <b class="font-[600]">{m.high.name}</b></span>
          <button
            class="link text-[13px]"
            aria-label="{m.high.name} under {m.low.name}, the other way"
            onclick={() => choose(m.low.colour, m.high.colour, { under: m.high.colour })}>the other way</button
          >
        </div>
        <select
          class="input mt-1 text-[14px]"
          aria-label="{m.low.name} and {m.high.name} lie"
          value={mine?.joint ?? 'as_all'}
          onchange={(e) => choose(m.low.colour, m.high.colour, { joint: e.currentTarget.value })}
        >
          <option value="as_all">as all do{mine?.joint && mine.joint !== 'as_all' ? '' : `, ${JOINTS[m.joint]}`}</option
          >
          {#each Object.entries(JOINTS) as [id, words] (id)}<option value={id}>{words}</option>{/each}
        </select>
      </div>
    {/each}
  </Fold>
{/if}
<label class="border-hairline flex min-h-10 items-center gap-3 border-b py-[7px] leading-tight">
  <span class="grow">One film under all others<span class="fine block">so that they stand out</span></span>
  <input
    type="checkbox"
    id="field-layers.base"
    class="accent-blue size-5"
    checked={base}
    onchange={(e) =>
      job.set('layers.base', e.currentTarget.checked ? { colour: '#ffffff', outline_mm: 2, holes: 'auto' } : null)}
  />
</label>
{#if base}
  <Colour {job} path="layers.base.colour" label="Its colour" />
  <Field {job} path="layers.base.outline_mm" label="Larger by" />
  <Pick
    {job}
    path="layers.base.holes"
    label="Holes in the work"
    choices={[
      ['auto', 'as the blank is: clear or not'],
      ['clear', 'stay clear'],
      ['filled', 'are filled by it'],
    ]}
  />
{/if}
