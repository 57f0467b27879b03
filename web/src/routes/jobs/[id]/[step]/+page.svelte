<script lang="ts">
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { onMount, untrack, type Component } from 'svelte';
  import { wordsOf } from '$lib/api/client';
  import StepDrawing from '$lib/drawing/StepDrawing.svelte';
  import { JobState } from '$lib/state/job.svelte';
  import type { Scene } from '$lib/state/scene';
  import { session } from '$lib/state/session.svelte';
  import { STEP_NAMES, STEPS, type Step } from '$lib/state/steps';
  import Slip from '$lib/steps/Slip.svelte';
  import Doing from '$lib/ui/Doing.svelte';
  import Figures from '$lib/ui/Figures.svelte';
  import Rule from '$lib/ui/Rule.svelte';
  import TwoPlaces from '$lib/ui/TwoPlaces.svelte';
  import VerdictLine from '$lib/ui/VerdictLine.svelte';

  let job = $state.raw<JobState | null>(null);
  let trouble = $state('');
  let load = $state(0);
  let swapped = $state(false);
  let ObjectView = $state.raw<Component<{ job: JobState; scene: Scene; large?: boolean }> | null>(null);
  let objectMissed = $state(false);
  const step = $derived(STEPS.includes(page.params.step as Step) ? (page.params.step as Step) : 'measure');

  async function open(id: number) {
    trouble = '';
    job?.close();
    const next = new JobState(id);
    job = next;
    try {
      await next.open(step);
      // The object comes after everything that is needed to work.
      const start = () => void fetchObject();
      if ('requestIdleCallback' in window) requestIdleCallback(start, { timeout: 400 });
      else setTimeout(start, 100);
    } catch (bad) {
      trouble = wordsOf(bad);
    }
  }
  async function fetchObject() {
    objectMissed = false;
    try {
      ObjectView = (await import('$lib/scene/ObjectView.svelte')).default;
    } catch {
      objectMissed = true;
    }
  }
  $effect(() => {
    const id = Number(page.params.id);
    if (job?.id !== id) void open(id);
  });
  $effect(() => job?.goTo(step));
  $effect(() => {
    if (job?.exact) untrack(job.tracing.look);
    if (job?.exact) untrack(job.laying.look);
  });
  let style = session.style;
  $effect(() => {
    if (session.style !== style) {
      style = session.style;
      void job?.build();
    }
  });
  const loads = $derived(job?.scene?.sheets?.loads.length ?? 0);
  $effect(() => {
    if (load >= loads) load = 0;
  });

  function keydown(e: KeyboardEvent) {
    const typing = (e.target as Element).closest('input, select, textarea');
    if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === 'z' && !typing) {
      e.preventDefault();
      void job?.history(e.shiftKey ? 'redo' : 'undo');
    } else if (!typing && !e.ctrlKey && !e.metaKey && !e.altKey && /^[1-7]$/.test(e.key) && job) {
      void goto(`/jobs/${job.id}/${STEPS[Number(e.key) - 1]}`);
    }
  }
  onMount(() => {
    const leave = () => void job?.store();
    window.addEventListener('pagehide', leave);
    return () => {
      window.removeEventListener('pagehide', leave);
      job?.close();
      void job?.store();
    };
  });
</script>

<svelte:window onkeydown={keydown} />
<svelte:head><title>{job?.document?.title ?? 'Job'} · {STEP_NAMES[step]} · Wimple</title></svelte:head>

{#if trouble}
  <main class="p-8">
    <h1>This job cannot be opened</h1>
    <p class="mt-2">{trouble} <a class="link" href="/bench">Back to the Bench</a></p>
  </main>
{:else if job}
  {@const scene = job.scene}
  <div class="flex h-full flex-col overflow-hidden">
    <Rule {job} />
    <main class="grid min-h-0 grow grid-cols-[352px_1fr] grid-rows-[minmax(0,1fr)]">
      <section
        id="slip"
        aria-label="Fields"
        class="border-edge relative min-h-0 overflow-y-auto border-r px-5 pt-4 pb-6"
      >
        <Slip {job} bind:load />
      </section>
      <div class="bg-sheet grid min-h-0 grid-cols-[1fr_258px] grid-rows-[minmax(0,1fr)]">
        <section aria-label={swapped ? 'Object' : 'Drawing'} class="@container relative min-h-0 min-w-0">
          {#if scene && swapped && ObjectView}<ObjectView {job} {scene} large />
          {:else if scene}<StepDrawing {job} {scene} {load} />{/if}
          <Doing {job} />
        </section>
        <aside aria-label="Figures and the object" class="flex min-h-0 flex-col justify-between gap-4 py-4 pr-4">
          {#if scene}<Figures rows={scene.rows} />{/if}
          <div>
            <div class="border-hairline @container relative h-[250px] overflow-hidden rounded-[3px] border">
              {#if scene && swapped}<StepDrawing {job} {scene} {load} />
              {:else if scene && ObjectView}<ObjectView {job} {scene} />
              {:else if objectMissed}<p class="fine p-3">
                  The object did not come over the line; all else works.
                  <button class="link" onclick={fetchObject}>Fetch it again</button>
                </p>
              {:else}<p class="fine p-3">The object comes in a moment …</p>{/if}
            </div>
            <button class="link mt-1 text-[13px]" onclick={() => (swapped = !swapped)}
              >{swapped ? 'Drawing large' : 'Object large'}</button
            >
          </div>
        </aside>
      </div>
    </main>
    <VerdictLine {job} />
  </div>
  <TwoPlaces {job} />
{/if}
