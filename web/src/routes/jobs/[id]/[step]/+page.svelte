<script lang="ts">
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { Dialog } from 'bits-ui';
  import { onMount, type Component } from 'svelte';
  import type { Scene } from '$lib/api/client';
  import ArtworkView from '$lib/drawing/ArtworkView.svelte';
  import Elevation from '$lib/drawing/Elevation.svelte';
  import LayersView from '$lib/drawing/LayersView.svelte';
  import PhotoView from '$lib/drawing/PhotoView.svelte';
  import SheetsView from '$lib/drawing/SheetsView.svelte';
  import ShopDrawing from '$lib/drawing/ShopDrawing.svelte';
  import UnwrapView from '$lib/drawing/UnwrapView.svelte';
  import { JobState, STEP_NAMES, STEPS, type Step } from '$lib/state/job.svelte';
  import { session } from '$lib/state/session.svelte';
  import ArtworkSlip from '$lib/steps/ArtworkSlip.svelte';
  import { figuresOf } from '$lib/steps/figures';
  import LayersSlip from '$lib/steps/LayersSlip.svelte';
  import LayupSheet from '$lib/steps/LayupSheet.svelte';
  import LayupSlip from '$lib/steps/LayupSlip.svelte';
  import MeasureSlip from '$lib/steps/MeasureSlip.svelte';
  import PriceSheet from '$lib/steps/PriceSheet.svelte';
  import PriceSlip from '$lib/steps/PriceSlip.svelte';
  import SheetsSlip from '$lib/steps/SheetsSlip.svelte';
  import UnwrapSlip from '$lib/steps/UnwrapSlip.svelte';
  import Figures from '$lib/ui/Figures.svelte';
  import Rule from '$lib/ui/Rule.svelte';
  import VerdictLine from '$lib/ui/VerdictLine.svelte';

  let job = $state.raw<JobState | null>(null);
  let trouble = $state('');
  let apart = $state(1);
  let load = $state(0);
  let swapped = $state(false);
  let ObjectView = $state.raw<Component<{ job: JobState; scene: Scene; large?: boolean }> | null>(null);
  const step = $derived(STEPS.includes(page.params.step as Step) ? (page.params.step as Step) : 'measure');

  async function open(id: number) {
    trouble = '';
    const next = new JobState(id);
    job = next;
    try {
      await next.open(step);
      // The object comes after everything that is needed to work.
      const start = () => void import('$lib/scene/ObjectView.svelte').then((m) => (ObjectView = m.default));
      if ('requestIdleCallback' in window) requestIdleCallback(start, { timeout: 400 });
      else setTimeout(start, 100);
    } catch (bad) {
      trouble = bad instanceof Error ? bad.message : String(bad);
    }
  }
  $effect(() => {
    const id = Number(page.params.id);
    if (job?.id !== id) void open(id);
  });
  $effect(() => job?.goTo(step));
  let style = session.style;
  $effect(() => {
    if (session.style !== style) {
      style = session.style;
      void job?.build();
    }
  });
  const sheetCount = $derived(job?.scene?.sheets?.sheets.length ?? 0);
  $effect(() => {
    if (load >= sheetCount) load = 0;
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
      void job?.store();
    };
  });
  async function keepBoth() {
    const id = await job!.keepBoth();
    await goto(`/jobs/${id}/${step}`);
  }
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
        <div class="mb-2">
          <h1>{step === 'measure' ? String(job.value('blank.name') ?? '') : STEP_NAMES[step]}</h1>
        </div>
        {#if job.document}
          {#if step === 'measure'}<MeasureSlip {job} />
          {:else if step === 'unwrap'}<UnwrapSlip {job} />
          {:else if step === 'artwork'}<ArtworkSlip {job} />
          {:else if step === 'layers'}<LayersSlip {job} bind:apart />
          {:else if step === 'sheets'}<SheetsSlip {job} bind:load />
          {:else if step === 'layup'}<LayupSlip {job} />
          {:else}<PriceSlip {job} />{/if}
        {/if}
      </section>
      <div class="bg-sheet grid min-h-0 grid-cols-[1fr_258px] grid-rows-[minmax(0,1fr)]">
        <section aria-label={swapped ? 'Object' : 'Drawing'} class="relative min-h-0 min-w-0">
          {#if scene && swapped && ObjectView}<ObjectView {job} {scene} large />
          {:else if scene}{@render drawing(job, scene)}{/if}
        </section>
        <aside aria-label="Figures and the object" class="flex min-h-0 flex-col justify-between gap-4 py-4 pr-4">
          {#if scene}<Figures rows={figuresOf(step, scene, session.style)} />{/if}
          <div>
            <div class="border-hairline relative h-[250px] overflow-hidden rounded-[3px] border">
              {#if scene && swapped}{@render drawing(job, scene)}
              {:else if scene && ObjectView}<ObjectView {job} {scene} />
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
  <Dialog.Root open={job.stale !== null}>
    <Dialog.Portal>
      <Dialog.Overlay class="fixed inset-0 bg-black/30" />
      <Dialog.Content
        class="bg-sheet border-edge fixed top-1/2 left-1/2 w-[440px] -translate-x-1/2 -translate-y-1/2 rounded-[3px] border p-6"
        escapeKeydownBehavior="ignore"
        interactOutsideBehavior="ignore"
      >
        <Dialog.Title class="text-[19px] font-[650]">Changed in two places</Dialog.Title>
        <Dialog.Description class="mt-2 mb-4 leading-snug"
          >This job was changed elsewhere since you opened it. Nothing is lost: keep yours as a job of its own beside
          the other, or go on from the newer one.</Dialog.Description
        >
        <div class="flex gap-2">
          <button class="button button-main" onclick={keepBoth}>Keep both</button>
          <button class="button" onclick={() => job!.takeNewer()}>Go on from the newer one</button>
        </div>
      </Dialog.Content>
    </Dialog.Portal>
  </Dialog.Root>
{/if}

{#snippet drawing(job: JobState, scene: Scene)}
  {#if step === 'artwork' && scene.template}<ArtworkView {job} {scene} />
  {:else if step === 'unwrap' && scene.template}<UnwrapView {scene} />
  {:else if step === 'layers' && scene.layers?.layers.length}<LayersView {job} {scene} {apart} />
  {:else if step === 'sheets' && scene.sheets}<SheetsView {scene} {load} />
  {:else if step === 'layup' && scene.layup}<LayupSheet {scene} />
  {:else if step === 'price' && scene.price}<PriceSheet {scene} />
  {:else if step === 'measure' && job.photo && job.value('blank.photo')}<PhotoView {job} {scene} />
  {:else if step === 'measure' && scene.measure.kind === 'cup'}<Elevation {job} {scene} />
  {:else if step === 'measure'}<ShopDrawing {job} {scene} />
  {:else if scene.template}<UnwrapView {scene} />
  {:else if scene.fault}
    <div class="p-8">
      <h2>Not unrolled</h2>
      <p class="mt-1 max-w-[420px] leading-snug">{scene.fault.message} {scene.fault.hint}</p>
    </div>
  {/if}
{/snippet}
