<script lang="ts">
  /** The step's judgements: one click shows the place, the remedy applies itself where it can. */
  import type { Verdict } from '../api/client';
  import type { JobState } from '../state/job.svelte';
  import { focusField } from '../drawing/fields';
  import { put } from '../state/paths';
  import { DOING } from '../state/steps';
  import { keyOf } from '../state/verdicts';
  import Glyph from './Glyph.svelte';

  let { job }: { job: JobState } = $props();
  const weight = { stop: 0, look: 1, ok: 2 };
  const mine = $derived(
    job.judged.verdicts.filter((v) => v.step === job.step).toSorted((a, b) => weight[a.level] - weight[b.level]),
  );
  const stopped = $derived(job.scene?.stopped?.step === job.step ? job.scene.stopped.fault : null);
  const fault = $derived(stopped ?? job.judged.faults[job.step] ?? null);

  function show(v: Verdict) {
    job.shown = job.shown === keyOf(v) ? '' : keyOf(v);
    if (job.shown) focusField(v.field);
  }
  function apply(v: Verdict) {
    let next = job.document!;
    for (const [path, value] of Object.entries(v.fixes)) next = put(next, path, value);
    if (v.fix !== null) next = put(next, v.field, v.fix);
    job.change(next);
  }
</script>

<footer
  aria-label="Verdicts"
  class="border-edge bg-paper flex max-h-[112px] shrink-0 min-h-[62px] flex-wrap content-start items-center gap-x-6 gap-y-0.5 overflow-y-auto border-t px-5 py-2 text-[14px] leading-snug"
>
  {#if fault}
    <span class="flex items-center gap-2"><Glyph level="stop" /> {fault.message} {fault.hint}</span>
  {/if}
  {#each mine as v, n (`${n} ${keyOf(v)}`)}
    <span class="inline-flex items-center gap-2">
      <button
        class="inline-flex min-h-[24px] items-center gap-2 text-left {job.shown === keyOf(v) ? 'underline' : ''}"
        aria-pressed={job.shown === keyOf(v)}
        onclick={() => show(v)}
      >
        <Glyph level={v.level} />
        {v.sentence}
      </button>
      {#if v.level !== 'ok' && (v.fix !== null || Object.keys(v.fixes).length)}
        <button class="link font-[600] whitespace-nowrap" onclick={() => apply(v)}>Do it</button>
      {/if}
    </span>
  {:else}
    {#if !fault}<span class="fine">{job.exact ? 'Nothing to judge here yet.' : `${DOING[job.step]} …`}</span>{/if}
  {/each}
</footer>
