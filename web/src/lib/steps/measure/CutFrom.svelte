<script lang="ts">
  /** Is the blank a sheet that is cut out with what is on it, and of which film? */
  import type { JobState } from '../../state/job.svelte';
  import { tables } from '../../state/tables.svelte';
  import Pick from '../../ui/Pick.svelte';
  let { job }: { job: JobState } = $props();
  /** It is there already, and is not cut. */
  const NO = ' ';
  const path = 'blank.cut_from';
  const choices = $derived<[string, string][]>([
    ['', 'the default film'],
    ...tables.films.map((f): [string, string] => [f.id, f.name]),
    [NO, 'it is there already'],
  ]);
</script>

<div class="border-hairline grid grid-cols-[1fr_172px] items-center gap-x-3 border-b py-[7px]">
  <label for="field-{path}" class="leading-tight">Cut out of<span class="fine block">with what is on it</span></label>
  <Pick
    {job}
    {path}
    label="Cut out of"
    short
    {choices}
    chosen={(job.value(path) as string | null) ?? NO}
    onpick={(film) => job.set(path, film === NO ? null : film)}
  />
</div>
