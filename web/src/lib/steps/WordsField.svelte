<script lang="ts">
  /** Words of the document, in one line or several, drawn as they are typed. */
  import type { JobState } from '../state/job.svelte';
  let { job, path, label }: { job: JobState; path: string; label: string } = $props();
  const words = $derived(String(job.value(path) ?? ''));
  const fault = $derived(job.fault(path));
</script>

<div class="border-hairline border-b py-[7px]">
  <label for="field-{path}">{label}</label>
  <textarea
    id="field-{path}"
    class="input mt-1 block resize-y"
    rows={Math.min(4, words.split('\n').length + 1)}
    maxlength="600"
    aria-invalid={!!fault}
    value={words}
    oninput={(e) => job.set(path, e.currentTarget.value)}
    onfocus={() => (job.focused = path)}
    onblur={() => (job.focused = '')}></textarea>
  {#if fault}<p class="text-stop mt-1 text-[13px]" role="alert">{fault.message} {fault.hint}</p>{/if}
</div>
