<script lang="ts">
  /** Yes or no, of the document. */
  import type { JobState } from '../state/job.svelte';
  let {
    job,
    path,
    label,
    note = '',
    on = true,
    off = false,
  }: { job: JobState; path: string; label: string; note?: string; on?: unknown; off?: unknown } = $props();
</script>

<label class="border-hairline flex min-h-10 items-center gap-3 border-b py-[7px] leading-tight">
  <span class="grow"
    >{label}{#if note}<span class="fine block">{note}</span>{/if}</span
  >
  <input
    type="checkbox"
    id="field-{path}"
    class="accent-blue size-5"
    checked={!!job.value(path)}
    onchange={(e) => job.set(path, (e.target as HTMLInputElement).checked ? on : off)}
  />
</label>
