<script lang="ts">
  /** One value of the document out of a few. */
  import type { JobState } from '../state/job.svelte';
  let {
    job,
    path,
    label,
    note = '',
    choices,
    short = false,
    chosen,
    onpick,
  }: {
    job: JobState;
    path: string;
    label: string;
    note?: string;
    choices: [string, string][];
    short?: boolean;
    /** What is chosen, where that is not what stands in the document. */
    chosen?: string;
    onpick?: (value: string) => void;
  } = $props();
  const value = $derived(chosen ?? String(job.value(path) ?? ''));
  const fault = $derived(job.fault(path));
</script>

<div class={short ? '' : 'border-hairline grid grid-cols-[1fr_172px] items-center gap-x-3 border-b py-[7px]'}>
  {#if !short}
    <label for="field-{path}" class="leading-tight"
      >{label}{#if note}<span class="fine block">{note}</span>{/if}</label
    >
  {/if}
  <select
    id="field-{path}"
    class="input"
    aria-label={short ? label : undefined}
    {value}
    onfocus={() => (job.focused = path)}
    onblur={() => (job.focused = '')}
    onchange={(e) => {
      const v = (e.target as HTMLSelectElement).value;
      if (onpick) onpick(v);
      else job.set(path, v);
    }}
  >
    {#each choices as [id, name] (id)}<option value={id}>{name}</option>{/each}
  </select>
  {#if fault}<p class="text-stop col-span-2 mt-1 text-[13px]" role="alert">{fault.message} {fault.hint}</p>{/if}
</div>
