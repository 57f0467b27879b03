<script lang="ts">
  /** How the sets of a batch lie: as they are drawn or their pieces loose, by themselves or by hand, and what is held free. */
  import type { JobState } from '../state/job.svelte';
  import Either from '../ui/Either.svelte';
  import Field from '../ui/Field.svelte';
  import Pick from '../ui/Pick.svelte';

  let { job }: { job: JobState } = $props();
  const sheets = $derived(job.scene?.sheets);
  const films = $derived([...new Set(((job.value('sheets.by_hand') ?? []) as { film: string }[]).map((p) => p.film))]);
  const held = $derived((job.value('sheets.held') ?? []) as { corner: string }[]);
  /** Work in panels keeps its arrangement, and lies by itself. */
  const alone = $derived(!!sheets?.movable);
  const ways = $derived(job.scene?.ways);
  const again = $derived(!ways || !!job.scene?.old.includes('ways'));
  const chosen = $derived(job.sets.chosen);
  const turns = $derived(
    sheets?.loads.flatMap((l) => l.patches).find((p) => p.name === chosen?.film)?.turns ?? 'never',
  );
  const corners: [string, string][] = [
    ['low_left', 'lower left'],
    ['low_right', 'lower right'],
    ['high_left', 'upper left'],
    ['high_right', 'upper right'],
  ];
  function holdFree() {
    const next = corners.map(([id]) => id).find((id) => !held.some((h) => h.corner === id));
    if (next) job.set('sheets.held', [...held, { corner: next, width_mm: 50, height_mm: 50 }]);
  }
</script>

{#if alone && sheets}
  {@const says = (w: NonNullable<typeof ways>['drawn']) =>
    again || !w ? 'being worked out …' : `${w.film_area} · ${w.placements.toLocaleString('en')} by hand`}
  {@const less = sheets.is_loose ? '' : 'at most '}
  <Either
    label="What keeps its arrangement"
    ways={[
      ['as_drawn', 'Sets as they are drawn', says(ways?.drawn ?? null)],
      [
        'loose',
        'Pieces loose',
        again || ways?.loose ? (again ? '' : less) + says(ways?.loose ?? null) : 'as close as goes',
      ],
    ]}
    chosen={sheets.is_loose ? 'loose' : 'as_drawn'}
    onpick={(way) => job.set('sheets.pieces', way)}
  />
{/if}
{#if job.sets.path}
  <fieldset class="my-1">
    <legend class="fine pt-2">{chosen?.film}, the set in the hand</legend>
    <Field {job} path="{job.sets.path}.x_mm" label="From the left" />
    <Field {job} path="{job.sets.path}.y_mm" label="Up" />
    {#if turns !== 'never'}<Field {job} path="{job.sets.path}.turn_deg" label="Turned" kind="number" unit="°" />{/if}
    <p class="flex flex-wrap gap-x-3">
      <button class="link min-h-8 text-[13px]" onclick={() => job.sets.keepOnly()}>Lay the others round it</button>
    </p>
  </fieldset>
{:else if sheets?.loads.some((l) => l.patches.some((p) => p.items.length)) && !films.length}
  <p class="fine border-hairline border-b py-2">Drag a set on its film to lay it by hand.</p>
{/if}
{#each films as film (film)}
  <p class="border-hairline flex items-baseline gap-2 border-b py-[3px]">
    <span class="grow">{film} <span class="fine">laid by hand</span></span>
    <button class="link min-h-8 text-[13px]" onclick={() => job.sets.release(film)}>by itself again</button>
  </p>
{/each}
{#each held as _, n (n)}
  <fieldset class="my-1">
    <legend class="fine pt-2">Held free on every load</legend>
    <Pick {job} path="sheets.held.{n}.corner" label="Corner" choices={corners} />
    <Field {job} path="sheets.held.{n}.width_mm" label="Wide" />
    <Field {job} path="sheets.held.{n}.height_mm" label="Tall" />
    <button
      class="link min-h-8 text-[13px]"
      onclick={() =>
        job.set(
          'sheets.held',
          held.filter((_, k) => k !== n),
        )}>Use it again</button
    >
  </fieldset>
{/each}
{#if held.length < 4 && alone}
  <button class="link min-h-8 text-[13px]" onclick={holdFree}>Hold a corner free</button>
{/if}
