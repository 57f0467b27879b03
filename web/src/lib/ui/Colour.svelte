<script lang="ts">
  /** A colour of the document. */
  import type { JobState } from '../state/job.svelte';
  import Swatch from './Swatch.svelte';
  let { job, path, label }: { job: JobState; path: string; label: string } = $props();
</script>

<div class="border-hairline flex min-h-10 items-center justify-between border-b py-[7px]">
  <label for="field-{path}">{label}</label>
  <Swatch
    {label}
    id="field-{path}"
    value={String(job.value(path) ?? '#18202e')}
    film={String(job.value('layers.default_film') ?? '')}
    onpick={(colour) => job.set(path, colour)}
  />
</div>
