<script lang="ts">
  /** What is printed and cut: each face a sheet of its own, found by its marks. */
  import type { JobState } from '../state/job.svelte';
  import LoadRow from './LoadRow.svelte';

  let { job, load = $bindable(), on }: { job: JobState; load: number; on: string } = $props();
  const sheets = $derived(job.scene!.sheets!);
  const first = $derived(sheets.loads.length);
</script>

<h2 class="mt-3 mb-1">Printed and cut</h2>
{#each sheets.pages as page, n (n)}
  <LoadRow
    {job}
    load={page.load}
    chosen={load === first + n}
    onpick={() => (load = first + n)}
    says={page.size}
    {on}
    begin="Cut this page"
  >
    <p class="fine border-hairline border-b py-1.5">
      Print it at 100 % from <span class="narrow">printed/</span> in the files, marks and all, on a sheet larger than its
      frame.
    </p>
  </LoadRow>
{/each}
