<script lang="ts">
  /** One dimension: what is read, with what, its readings with mean and spread. */
  import type { JobState } from '../state/job.svelte';
  import { session } from '../state/session.svelte';
  import { lengthText } from '../units';
  import Field from '../ui/Field.svelte';
  import Pick from '../ui/Pick.svelte';

  let { job, name, title, reads }: { job: JobState; name: string; title: string; reads: [string, string][] } = $props();
  const path = $derived(`blank.${name}`);
  const readings = $derived((job.value(`${path}.readings`) as unknown[]) ?? []);
  const found = $derived(job.scene?.measure.readings[name]);

  const faults = $derived(job.faults.filter((f) => f.field.startsWith(`${path}.readings`)));

  function add() {
    const n = readings.length;
    job.set(`${path}.readings`, [...readings, readings[n - 1] ?? '']);
    setTimeout(() => document.getElementById(`field-${path}.readings.${n}`)?.focus(), 30);
  }
  function takeOut(i: number) {
    job.set(
      `${path}.readings`,
      readings.filter((_, n) => n !== i),
    );
  }
  function keydown(e: KeyboardEvent) {
    if (e.key.toLowerCase() === 'r' && !e.ctrlKey && !e.metaKey && !e.altKey) {
      e.preventDefault();
      add();
    }
  }
</script>

<!-- svelte-ignore a11y_no_static_element_interactions -->
<div class="border-hairline border-b py-2" onkeydown={keydown}>
  <div class="mb-1 flex items-baseline justify-between gap-2">
    <h2>{title}</h2>
    <span class="fine narrow whitespace-nowrap">
      {#if found && found.count > 1}mean {lengthText(found.mean, session.style, 2)} ± {lengthText(
          found.error,
          session.style === 'mm' ? 'mm' : 'in_decimal',
          2,
        )}
      {:else if found}one reading, ± {lengthText(found.error, session.style === 'mm' ? 'mm' : 'in_decimal', 1)}{/if}
    </span>
  </div>
  <div class="grid grid-cols-[1fr_1fr] gap-2">
    <Pick {job} path="{path}.reads" label="{title}: what is read" choices={reads} short />
    <Pick
      {job}
      path="{path}.instrument"
      label="{title}: instrument"
      choices={[
        ['tape', 'tape'],
        ['calliper', 'calliper'],
        ['ruler', 'ruler'],
      ]}
      short
    />
  </div>
  <div class="mt-4 grid grid-cols-3 gap-x-3 gap-y-4">
    {#each readings as _, i (i)}
      <div class="relative">
        <Field {job} path="{path}.readings.{i}" label="{title}, reading {i + 1}" short />
        {#if readings.length > 1}
          <button
            class="text-quiet hover:text-stop absolute -top-3 -right-2 size-6 rounded-full border border-current bg-sheet text-[13px] leading-none"
            aria-label="Take out reading {i + 1} of {title}"
            onclick={() => takeOut(i)}>×</button
          >
        {/if}
      </div>
    {/each}
    <button class="button px-2! text-[13px]" title="Press R in a reading" onclick={add}>again (R)</button>
  </div>
  {#each faults as fault (fault.field)}
    <p id="fault-{fault.field}" class="text-stop mt-1 text-[13px] leading-tight" role="alert">
      {fault.message}
      {fault.hint}
    </p>
  {/each}
</div>
