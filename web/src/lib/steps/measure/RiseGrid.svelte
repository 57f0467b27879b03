<script lang="ts">
  /** Rises on a grid: where columns and rows stand, and one reading or more at each place. */
  import { onMount } from 'svelte';
  import type { JobState } from '../../state/job.svelte';
  import { tables } from '../../state/tables.svelte';
  import Field from '../../ui/Field.svelte';
  import Pick from '../../ui/Pick.svelte';

  let { job }: { job: JobState } = $props();
  const xs = $derived((job.value('blank.across_mm') as number[] | undefined) ?? []);
  const ys = $derived((job.value('blank.up_mm') as number[] | undefined) ?? []);
  const rises = $derived((job.value('blank.rises') as (unknown[] | null)[][] | undefined) ?? []);
  onMount(() => void tables.load());
  const faults = $derived(job.faults.filter((f) => /^blank\.(rises|across_mm|up_mm)/.test(f.field)));
  function column(add: boolean) {
    const step = xs.length > 1 ? Number(xs[xs.length - 1]) - Number(xs[xs.length - 2]) : 100;
    job.change({
      ...job.document!,
      blank: {
        ...(job.value('blank') as object),
        across_mm: add ? [...xs, Number(xs[xs.length - 1]) + step] : xs.slice(0, -1),
        rises: rises.map((row) => (add ? [...row, null] : row.slice(0, -1))),
      },
    } as never);
  }
  function row(add: boolean) {
    const step = ys.length > 1 ? Number(ys[ys.length - 1]) - Number(ys[ys.length - 2]) : 100;
    job.change({
      ...job.document!,
      blank: {
        ...(job.value('blank') as object),
        up_mm: add ? [...ys, Number(ys[ys.length - 1]) + step] : ys.slice(0, -1),
        rises: add ? [...rises, xs.map(() => null)] : rises.slice(0, -1),
      },
    } as never);
  }
  /** R in a place reads it once more. */
  function keydown(e: KeyboardEvent) {
    if (e.key.toLowerCase() !== 'r' || e.ctrlKey || e.metaKey || e.altKey) return;
    const found = /^blank\.rises\.(\d+)\.(\d+)/.exec(job.focused);
    if (!found) return;
    e.preventDefault();
    const at = `blank.rises.${found[1]}.${found[2]}`;
    const now = (job.value(at) as unknown[] | null) ?? [];
    const next = `field-${at}.${now.length}`;
    job.set(at, [...now, now[now.length - 1] ?? 0]);
    setTimeout(() => document.getElementById(next)?.focus(), 30);
  }
  const fewer = (at: string, cell: unknown[]) => job.set(at, cell.slice(0, -1));
</script>

<Pick
  {job}
  path="blank.reads"
  label="Read is"
  choices={[
    ['rise', 'how far it stands out'],
    ['gap', 'gap under a straight edge'],
  ]}
/>
<Pick
  {job}
  path="blank.instrument"
  label="With"
  choices={[
    ['ruler', 'ruler'],
    ['gauge', 'gauge'],
    ['calliper', 'calliper'],
  ]}
/>
<div class="flex flex-wrap gap-1 py-2 text-[13px]">
  <button
    class="button px-2!"
    disabled={!tables.hasRoom('rise_panel.across_mm', xs.length)}
    onclick={() => column(true)}>+ column</button
  >
  <button
    class="button px-2!"
    disabled={!tables.canSpare('rise_panel.across_mm', xs.length)}
    onclick={() => column(false)}>− column</button
  >
  <button class="button px-2!" disabled={!tables.hasRoom('rise_panel.up_mm', ys.length)} onclick={() => row(true)}
    >+ row</button
  >
  <button class="button px-2!" disabled={!tables.canSpare('rise_panel.up_mm', ys.length)} onclick={() => row(false)}
    >− row</button
  >
</div>
<!-- svelte-ignore a11y_no_static_element_interactions -->
<div class="overflow-x-auto pb-2" onkeydown={keydown}>
  <table class="tight w-full table-fixed border-separate border-spacing-x-[3px] border-spacing-y-1">
    <caption class="fine pb-1 text-left">Rises, seen from the front; R reads a place again</caption>
    <tbody>
      {#each ys.map((_, n) => ys.length - 1 - n) as j (j)}
        <tr>
          <th class="font-[400]"><Field {job} path="blank.up_mm.{j}" label="Row {j + 1}: up" short unit="" /></th>
          {#each xs as _, i (i)}
            {@const cell = rises[j]?.[i]}
            <td class="relative">
              {#each cell ?? [null] as __, k (k)}
                <Field
                  {job}
                  path="blank.rises.{j}.{i}.{k}"
                  label="Rise, row {j + 1}, column {i + 1}, reading {k + 1}"
                  short
                  unit=""
                />
              {/each}
              {#if (cell?.length ?? 0) > 1}
                <button
                  class="text-quiet hover:text-stop absolute -top-1 -right-1 size-6 rounded-full text-[13px] leading-none"
                  aria-label="Take out the last reading in row {j + 1}, column {i + 1}"
                  onclick={() => fewer(`blank.rises.${j}.${i}`, cell!)}>×</button
                >
              {/if}
            </td>
          {/each}
        </tr>
      {/each}
      <tr>
        <td class="fine narrow">up ↑ across →</td>
        {#each xs as _, i (i)}
          <td><Field {job} path="blank.across_mm.{i}" label="Column {i + 1}: across" short unit="" /></td>
        {/each}
      </tr>
    </tbody>
  </table>
</div>
{#each faults as fault (fault.field + fault.message)}
  <p class="text-stop pb-1 text-[13px]" role="alert">{fault.message} {fault.hint}</p>
{/each}
