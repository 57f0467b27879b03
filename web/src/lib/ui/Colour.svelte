<script lang="ts">
  /** A colour of the document. */
  import type { JobState } from '../state/job.svelte';
  let { job, path, label }: { job: JobState; path: string; label: string } = $props();
</script>

<label class="border-hairline flex min-h-10 items-center justify-between border-b py-[7px]"
  >{label}
  <input
    type="color"
    id="field-{path}"
    class="border-edge h-8 w-14 rounded-[3px] border"
    value={String(job.value(path) ?? '#18202e')}
    onchange={(e) => job.set(path, e.currentTarget.value)}
  /></label
>
