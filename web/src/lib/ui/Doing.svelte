<script lang="ts">
  /** What is being worked out, once it takes so long that the hand would ask. */
  import type { JobState } from '../state/job.svelte';

  let { job }: { job: JobState } = $props();
</script>

{#if job.building.slow}
  <div
    class="border-edge bg-sheet pointer-events-none absolute bottom-12 left-4 w-[250px] rounded-[3px] border px-3 py-2 text-[13px]"
    aria-live="polite"
  >
    {job.building.doing} …
    <progress class="mt-1 block w-full" max="1" value={job.building.share} aria-label={job.building.doing}></progress>
  </div>
{/if}
