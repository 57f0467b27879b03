<script lang="ts">
  /** The job's top edge: a steel rule whose long ticks are the steps of the work. */
  import { STEP_NAMES, STEPS, type JobState } from '../state/job.svelte';
  import { day } from './day';
  import Glyph from './Glyph.svelte';
  import Places from './Places.svelte';

  let { job }: { job: JobState } = $props();
  const PITCH = 104;
  const saves = {
    saved: 'saved',
    changed: 'saving …',
    saving: 'saving …',
    offline: 'no connection: kept here',
    unsaved: 'not saved',
  };
  const here = $derived(STEPS.indexOf(job.step));
  const document_ = $derived(job.document);
</script>

<header class="border-edge bg-steel relative h-[72px] shrink-0 border-b">
  <div class="absolute top-[14px] left-5 w-[305px]">
    <p class="truncate text-[18px] leading-tight font-[650]" style:font-stretch="92%">
      {document_ ? `${document_.title} × ${document_.quantity}` : '…'}
    </p>
    <p class="fine narrow truncate">
      {document_?.customer || 'no customer'} · {document_?.due ? `due ${day(document_.due)}` : 'no due date'} ·
      <span role="status">{saves[job.save]}</span>
    </p>
  </div>
  <svg class="absolute bottom-0 left-[332px]" width="756" height="34" aria-hidden="true">
    {#each { length: 7 * 8 + 2 } as _, i (i)}
      <path
        d="M{2 + i * 13} 34v-{i % 8 === 2 ? 28 : 8}"
        stroke="var(--color-edge)"
        stroke-width={i % 8 === 2 && (i - 2) / 8 <= here ? 2 : 1}
      />
    {/each}
    <path d="M{28 + here * PITCH} 22l7.5 12h-15z" fill="var(--color-brass)" class="transition-transform" />
  </svg>
  <nav aria-label="Steps of the job" class="absolute bottom-0 left-[332px] h-[52px]">
    {#each STEPS as step, i (step)}
      {@const level = job.scene?.levels[step]}
      <a
        href="/jobs/{job.id}/{step}"
        aria-current={i === here ? 'step' : undefined}
        class="absolute bottom-0 flex h-[52px] w-[100px] flex-col justify-end pb-[10px] pl-9 {i === here
          ? 'font-[650]'
          : ''}"
        style:left="{i * PITCH}px"
      >
        <span class="absolute top-1 left-[21px] flex"
          >{#if level}<Glyph {level} />{/if}</span
        >
        {STEP_NAMES[step]}
      </a>
    {/each}
  </nav>
  <div class="absolute top-[9px] right-5"><Places /></div>
  <div class="absolute right-5 bottom-[8px] flex gap-1 text-[13px]">
    <button
      class="button px-2! py-0! min-h-[26px]!"
      disabled={!job.canUndo && job.save === 'saved'}
      onclick={() => job.history('undo')}>Undo</button
    >
    <button class="button px-2! py-0! min-h-[26px]!" disabled={!job.canRedo} onclick={() => job.history('redo')}
      >Redo</button
    >
  </div>
</header>
