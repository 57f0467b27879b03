<script lang="ts">
  /** What is printed and cut: each face a sheet of its own, found by its marks. */
  import type { JobState } from '../state/job.svelte';
  import { session } from '../state/session.svelte';
  import CutMark from './CutMark.svelte';

  let { job, load = $bindable(), on }: { job: JobState; load: number; on: string } = $props();
  const sheets = $derived(job.scene!.sheets!);
  const first = $derived(sheets.loads.length);
  const all = $derived([...sheets.loads, ...sheets.pages.map((p) => p.load)].map((l) => l.digest));
</script>

<h2 class="mt-3 mb-1">Printed and cut</h2>
{#each sheets.pages as page, n (n)}
  {@const s = page.load}
  {@const chosen = load === first + n}
  <button
    class="border-hairline flex w-full items-center gap-2 border-b px-1 py-[7px] text-left {chosen
      ? 'bg-sheet font-[600]'
      : ''}"
    aria-pressed={chosen}
    onclick={() => (load = first + n)}
  >
    <span class="grow">{s.name}</span>
    <span class="fine narrow"
      >{page.size} · {job.cuts.times(s.digest) ? `${job.cuts.times(s.digest)} of ` : ''}{s.times} ×</span
    >
  </button>
  {#if chosen}
    <p class="fine border-hairline border-b py-1.5">
      Print it at 100 % from <span class="narrow">printed/</span> in the files, marks and all, on a sheet larger than its
      frame.
    </p>
    {#if on && s.fits && session.makes && job.cuts.times(s.digest) < s.times}
      <p class="border-hairline border-b py-1.5">
        <button class="button button-main" disabled={job.on.busy} onclick={() => job.on.begin(s.digest)}
          >Cut this page</button
        >
        <span class="fine">on {on}</span>
      </p>
    {/if}
    <CutMark load={s} cuts={job.cuts} others={all} />
  {/if}
{/each}
