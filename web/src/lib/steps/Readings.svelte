<script lang="ts">
  /** One dimension: what is read, with what, its readings with mean and spread, and the same taken another way. */
  import type { JobState } from '../state/job.svelte';
  import { session } from '../state/session.svelte';
  import { lengthText } from '../units';
  import Field from '../ui/Field.svelte';
  import Pick from '../ui/Pick.svelte';

  let {
    job,
    name,
    title,
    reads,
    checks = [],
  }: { job: JobState; name: string; title: string; reads: [string, string][]; checks?: [string, string][] } = $props();
  const path = $derived(`blank.${name}`);
  const readings = $derived((job.value(`${path}.readings`) as unknown[]) ?? []);
  const found = $derived(job.scene?.measure.readings[name]);
  const check = $derived(job.value(`${path}.check`) as { readings: unknown[] } | null | undefined);
  const fine = $derived(session.style === 'mm' ? ('mm' as const) : ('in_decimal' as const));
  const faults = $derived(
    job.faults.filter((f) => f.field.startsWith(`${path}.readings`) || f.field.startsWith(`${path}.check.readings`)),
  );
  const INSTRUMENTS: [string, string][] = [
    ['tape', 'tape'],
    ['calliper', 'calliper'],
    ['ruler', 'ruler'],
    ['gauge', 'gauge'],
    ['photo', 'photograph'],
  ];

  function add(to = path, from: unknown[] = readings) {
    const next = `field-${to}.readings.${from.length}`;
    job.set(`${to}.readings`, [...from, from[from.length - 1] ?? '']);
    setTimeout(() => document.getElementById(next)?.focus(), 30);
  }
  function takeOut(i: number, from = path, list: unknown[] = readings) {
    job.set(
      `${from}.readings`,
      list.filter((_, n) => n !== i),
    );
  }
  function keydown(e: KeyboardEvent) {
    if (
      e.key.toLowerCase() === 'r' &&
      !e.ctrlKey &&
      !e.metaKey &&
      !e.altKey &&
      (e.target as Element).matches('input')
    ) {
      e.preventDefault();
      if (job.focused.startsWith(`${path}.check`)) add(`${path}.check`, check!.readings);
      else add();
    }
  }
  async function anotherWay() {
    await job.setOffered(`${path}.check`, `${name}.check`);
    setTimeout(() => document.getElementById(`field-${path}.check.readings.0`)?.focus(), 30);
  }
</script>

{#snippet list(at: string, values: unknown[], of: string)}
  <div class="mt-4 grid grid-cols-3 gap-x-3 gap-y-4">
    {#each values as _, i (i)}
      <div class="relative">
        <Field {job} path="{at}.readings.{i}" label="{of}, reading {i + 1}" short />
        {#if at === path && found?.outlier === i}
          <span class="text-look-ink absolute -bottom-4 left-0 text-[12px]">stands apart</span>
        {/if}
        {#if values.length > 1}
          <button
            class="text-quiet hover:text-stop absolute -top-3 -right-2 size-6 rounded-full border border-current bg-sheet text-[13px] leading-none"
            aria-label="Take out reading {i + 1} of {of}"
            onclick={() => takeOut(i, at, values)}>×</button
          >
        {/if}
      </div>
    {/each}
    <button class="button px-2! text-[13px]" title="Press R in a reading" onclick={() => add(at, values)}
      >again (R)</button
    >
  </div>
{/snippet}

<!-- svelte-ignore a11y_no_static_element_interactions -->
<div class="border-hairline border-b py-2" onkeydown={keydown}>
  <div class="mb-1 flex items-baseline justify-between gap-2">
    <h2>{title}</h2>
    <span class="fine narrow whitespace-nowrap">
      {#if found && found.count > 1}mean {lengthText(found.mean, session.style, 2)} ± {lengthText(found.error, fine, 2)}
      {:else if found}one reading, ± {lengthText(found.error, fine, 1)}{/if}
    </span>
  </div>
  <div class="grid grid-cols-[1fr_1fr] gap-2">
    <Pick {job} path="{path}.reads" label="{title}: what is read" choices={reads} short />
    <Pick {job} path="{path}.instrument" label="{title}: instrument" choices={INSTRUMENTS} short />
  </div>
  {@render list(path, readings, title)}
  {#if check}
    <div class="mt-4 flex items-baseline justify-between">
      <span class="text-[13px]">the same, another way</span>
      <button class="link text-[13px]" onclick={() => job.set(`${path}.check`, null)}>take out</button>
    </div>
    <div class="mt-1 grid grid-cols-[1fr_1fr] gap-2">
      <Pick {job} path="{path}.check.reads" label="{title}, another way: what is read" choices={checks} short />
      <Pick {job} path="{path}.check.instrument" label="{title}, another way: instrument" choices={INSTRUMENTS} short />
    </div>
    {@render list(`${path}.check`, check.readings, `${title}, another way`)}
  {:else if checks.length && job.offer(`${name}.check`)}
    <button class="link mt-2 text-[13px]" onclick={anotherWay}>check it another way</button>
  {/if}
  {#each faults as fault (fault.field)}
    <p id="fault-{fault.field}" class="text-stop mt-1 text-[13px] leading-tight" role="alert">
      {fault.message}
      {fault.hint}
    </p>
  {/each}
</div>
