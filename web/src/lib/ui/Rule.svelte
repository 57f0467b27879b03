<script lang="ts">
  /** The job's top edge: a steel rule whose long ticks are the steps of the work. */
  import type { JobState } from '../state/job.svelte';
  import { session } from '../state/session.svelte';
  import { STEP_NAMES, STEPS } from '../state/steps';
  import { day } from './day';
  import Glyph from './Glyph.svelte';
  import History from './History.svelte';
  import Looking from './Looking.svelte';
  import Places from './Places.svelte';

  let { job }: { job: JobState } = $props();
  const PITCH = 84;
  let wide = $state(1280);
  // On a narrow page the title stands over the rule instead of beside it.
  const narrow = $derived(wide < 1180);
  const left = $derived(narrow ? 8 : 332);
  const saves = {
    saved: 'saved',
    marked: 'saved but for what is marked',
    changed: 'saving …',
    saving: 'saving …',
    offline: 'no connection: kept here',
    unsaved: 'not saved',
    looking: 'tried out, not kept',
  };
  const here = $derived(STEPS.indexOf(job.step));
  const document_ = $derived(job.document);
</script>

<svelte:window bind:innerWidth={wide} />
<header class="border-edge bg-steel relative shrink-0 border-b {narrow ? 'h-[98px]' : 'h-[72px]'}">
  <div
    class="absolute left-5 {narrow ? 'top-[9px] flex items-baseline gap-3' : 'top-[14px]'}"
    style:width={narrow ? `${wide - 360}px` : '292px'}
  >
    <p class="truncate text-[18px] leading-tight font-[650]" style:font-stretch="92%" title={document_?.title}>
      {document_ ? `${document_.title} × ${(document_.quantity ?? 1) * (document_.names?.rows.length ?? 1)}` : '…'}
    </p>
    <p class="fine narrow flex min-w-0 gap-1 whitespace-nowrap">
      <span class="min-w-0 truncate">{document_?.customer || 'no customer'}</span>
      <span>· {document_?.due ? `due ${day(document_.due)}` : 'no due date'} ·</span>
      <span role="status">{saves[job.save]}</span>
    </p>
  </div>
  <svg class="absolute bottom-0" style:left="{left}px" width={7 * PITCH + 28} height="34" aria-hidden="true">
    {#each { length: 7 * 8 + 2 } as _, i (i)}
      <path
        d="M{2 + (i * PITCH) / 8} 34v-{i % 8 === 2 ? 28 : 8}"
        stroke="var(--color-edge)"
        stroke-width={i % 8 === 2 && (i - 2) / 8 <= here ? 2 : 1}
      />
    {/each}
    <path d="M{2 + PITCH / 4 + here * PITCH} 22l7.5 12h-15z" fill="var(--color-brass)" class="transition-transform" />
  </svg>
  <nav aria-label="Steps of the job" class="absolute bottom-0 h-[52px]" style:left="{left}px">
    {#each STEPS as step, i (step)}
      {@const level = job.judged.levels[step]}
      {@const again = !!job.scene && !job.judged.told.includes(step)}
      <a
        href="/jobs/{job.id}/{step}"
        aria-current={i === here ? 'step' : undefined}
        class="absolute bottom-0 flex h-[52px] flex-col justify-end pb-[10px] {i === here ? 'font-[650]' : ''}"
        style:left="{(i + 0.25) * PITCH}px"
        style:width="{PITCH - 2}px"
        style:padding-left="10px"
      >
        <span class="absolute top-1 flex items-center gap-[3px]" style:left="-5px" data-looking={again}
          >{#if level}<Glyph {level} faint={again} />{/if}{#if again}<Looking />{/if}</span
        >
        {STEP_NAMES[step]}
      </a>
    {/each}
  </nav>
  <div class="absolute top-[9px] right-5"><Places /></div>
  <div class="absolute right-5 bottom-[8px] flex gap-1 text-[13px]">
    <button
      class="button px-2! py-0! min-h-[26px]!"
      disabled={!session.makes || (!job.saving.canUndo && job.save === 'saved')}
      onclick={() => job.history('undo')}>Undo</button
    >
    <button
      class="button px-2! py-0! min-h-[26px]!"
      disabled={!session.makes || !job.saving.canRedo}
      onclick={() => job.history('redo')}>Redo</button
    >
    <History {job} />
  </div>
</header>
