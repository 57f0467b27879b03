<script lang="ts">
  import { untrack } from 'svelte';
  import type { JobState } from '../state/job.svelte';
  import { tables } from '../state/tables.svelte';
  import Either from '../ui/Either.svelte';
  import Field from '../ui/Field.svelte';
  import Pick from '../ui/Pick.svelte';
  import Switch from '../ui/Switch.svelte';
  import Working from '../ui/Working.svelte';
  import CuttingSlip from '../cutting/CuttingSlip.svelte';
  import FilesButton from './FilesButton.svelte';
  import LoadRow from './LoadRow.svelte';
  import PrintedPages from './PrintedPages.svelte';
  import SetsFields from './SetsFields.svelte';

  let { job, load = $bindable() }: { job: JobState; load: number } = $props();
  const sheets = $derived(job.scene?.sheets);
  const ways = $derived(job.scene?.ways);
  void tables.load();
  $effect(() => {
    // Once for each job: what the answers change must not ask again.
    const { cuts, on } = job;
    untrack(() => {
      void cuts.load();
      if (!on.now) void on.load();
    });
  });
  const machine = $derived(tables.cutters.find((c) => c.id === job.value('sheets.cutter')));
  const of_each = (sets: number[]) =>
    sets.length > 1 && sets.every((n) => n === sets[0]) ? `${sets[0]} of each` : sets.join(' + ');
  /** The machine that loads are cut on from here; empty where it only takes files. */
  const reached = $derived(machine && (machine.simulated || machine.address) ? machine.name : '');
</script>

{#if job.on.now}
  <CuttingSlip {job} />
{:else}
  <Pick {job} path="sheets.cutter" label="Cut on" choices={tables.cutters.map((c) => [c.id, c.name])} />
  {#if sheets}
    <Field {job} path="sheets.setting" label="Your setting" note="of this cutter, in your words" kind="text" />
    <p class="fine border-hairline border-b py-2">
      {job.value('sheets.setting')
        ? 'Try it on a corner of this film first.'
        : 'Test cut first: through the film, not the liner.'}
    </p>
    {#if sheets.loads.length || !sheets.pages.length}<h2 class="mt-3 mb-1">Loads</h2>{/if}
    {#each sheets.loads as s, n (n)}
      <LoadRow
        {job}
        load={s}
        chosen={n === load}
        onpick={() => (load = n)}
        says="{of_each(s.patches.map((p) => p.sets))} on a load"
        on={reached}
        colours={s.patches.map((p) => p.colour)}
      />
      {#if n === load && s.patches.length > 1}
        <!-- Where each patch is laid, by the mat's own rule. -->
        <ol class="border-hairline border-b py-1" aria-label="Patches of this load">
          {#each s.patches as patch, i (i)}
            <li class="fine narrow flex gap-2 py-[1px]">
              <span class="border-ink inline-grid size-[17px] place-items-center rounded-full border text-[12px]"
                >{i + 1}</span
              >
              <span class="grow">{patch.name}, {patch.size}</span>
              <span>{patch.place}</span>
            </li>
          {/each}
        </ol>
      {/if}
    {:else}
      {#if !sheets.pages.length}
        <p class="fine">No layers yet: <a class="link" href="/jobs/{job.id}/artwork">bring a drawing.</a></p>
      {/if}
    {/each}
    {#if sheets.pages.length}<PrintedPages {job} bind:load on={reached} />{/if}
  {/if}
  {#if sheets && ways?.one_film && ways.shared}
    {@const says = (w: NonNullable<typeof ways.shared>) =>
      job.scene?.old.includes('ways')
        ? 'being worked out …'
        : `${w.loads} load${w.loads === 1 ? '' : 's'} · ${w.minutes} min · ${w.film_area}`}
    <div class="mt-2">
      <Either
        label="How films share loads"
        ways={[
          ['one_film', 'One film to a load', says(ways.one_film)],
          ['shared', 'Several films on a mat', says(ways.shared)],
        ]}
        chosen={sheets.is_shared ? 'shared' : 'one_film'}
        onpick={(way) => job.set('sheets.mats', way)}
      />
    </div>
  {/if}
  {#if sheets?.loads.length || !sheets?.pages.length}
    <h2 class="mt-3 mb-1">Film</h2>
    <Pick
      {job}
      path="sheets.lay"
      label="Sets lie"
      choices={[
        ['least', 'close by outlines'],
        ['searched', 'closest found'],
        ['boxes', 'in rows of boxes'],
      ]}
    />
    {#if job.value('sheets.lay') === 'searched'}
      <Working
        task={job.laying.task}
        what="Looking for a closer lay"
        stopped={job.laying.left ? 'Ended: what was found by then is drawn.' : ''}
      />
      {#if job.laying.left}
        <button class="link min-h-8 text-[13px]" onclick={() => job.laying.begin()}>Look for a closer lay again</button>
      {/if}
    {/if}
    {#if job.value('sheets.lay') !== 'boxes'}<Field {job} path="sheets.gap_mm" label="Between sets" />{/if}
    <SetsFields {job} />
    {#if sheets?.is_shared}
      <Field {job} path="sheets.patch_room_mm" label="Between patches" note="what a hand misses by" />
      <Pick
        {job}
        path="sheets.liner_grid"
        label="Patches cut to"
        choices={[
          ['none', 'the millimetre'],
          ['cm', 'whole centimetres'],
          ['half_inch', 'half inches'],
          ['inch', 'whole inches'],
        ]}
      />
    {/if}
    {#if sheets?.parted.length || sheets?.loads.some((l) => !l.fits)}
      <Switch {job} path="sheets.panels.part" label="Cut in panels" note="what is larger than the machine cuts" />
      {#if job.value('sheets.panels.part')}
        <Field {job} path="sheets.panels.lap_mm" label="Lap" note="where a joint must cross a piece" />
        <Pick
          {job}
          path="sheets.panels.first"
          label="Laid from"
          choices={[
            ['left', 'the left, lowest first'],
            ['right', 'the right, lowest first'],
          ]}
        />
        {#if ((job.value('sheets.panels.moved_mm') ?? []) as number[]).length}
          <button class="link min-h-8 text-[13px]" onclick={() => job.set('sheets.panels.moved_mm', [])}
            >Find all joints again</button
          >
        {/if}
      {/if}
    {/if}
    <Field {job} path="sheets.margin_mm" label="Kept round the work" note="each side" />
    <Switch {job} path="sheets.weed_box" label="Weed box" note="a cut frame round each set" />
    {#if job.value('sheets.weed_box')}<Field {job} path="sheets.weed_box_away_mm" label="Box away from the work" />{/if}
  {/if}
  <Field {job} path="sheets.overcut_mm" label="Overcut" note="past the start of each contour" />
  <h2 class="mt-3 mb-2">Files</h2>
  <FilesButton {job} />
{/if}
