<script lang="ts">
  /** The step's judgements: one click shows the place, a remedy that was tried applies itself. */
  import type { Verdict } from '../api/client';
  import type { JobState } from '../state/job.svelte';
  import { focusField } from '../drawing/fields';
  import { put } from '../state/paths';
  import { DOING } from '../state/steps';
  import { keyOf, remedyOf } from '../state/verdicts';
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
  function apply(edits: Record<string, unknown>) {
    let next = job.document!;
    for (const [path, value] of Object.entries(edits)) next = put(next, path, value);
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
    {@const remedy = v.level === 'ok' || !job.drawn ? undefined : remedyOf(job.judged, v)}
    <span class="inline-flex items-center gap-2">
      <button
        class="inline-flex min-h-[24px] items-center gap-2 text-left {job.shown === keyOf(v) ? 'underline' : ''}"
        aria-pressed={job.shown === keyOf(v)}
        onclick={() => show(v)}
      >
        <Glyph level={v.level} />
        {v.sentence}
      </button>
      {#if remedy}
        <button class="link font-[600] whitespace-nowrap" onclick={() => apply(remedy.edits)}>Do it</button>
        {#if remedy.says}<span class="fine">{remedy.says}</span>{/if}
        {#each remedy.also as worse (worse)}<span class="fine flex items-center gap-1"
            ><Glyph level="look" /> then: {worse}</span
          >{/each}
      {/if}
    </span>
  {:else}
    {#if !fault}<span class="fine">{job.exact ? 'Nothing to judge here yet.' : `${DOING[job.step]} …`}</span>{/if}
  {/each}
</footer>
