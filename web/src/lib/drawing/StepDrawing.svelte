<script lang="ts">
  /** What the step shows on the sheet; where it is not there yet, what is being worked out, and where it cannot be, why. */
  import type { JobState } from '../state/job.svelte';
  import type { Scene } from '../state/scene';
  import { STEPS, type Step } from '../state/steps';
  import CuttingView from '../cutting/CuttingView.svelte';
  import LayupSheet from '../steps/LayupSheet.svelte';
  import PriceSheet from '../steps/PriceSheet.svelte';
  import ArtworkView from './ArtworkView.svelte';
  import FilmView from './FilmView.svelte';
  import LaySoFar from './LaySoFar.svelte';
  import LayersView from './LayersView.svelte';
  import PanelsView from './PanelsView.svelte';
  import PhotoView from './PhotoView.svelte';
  import SheetsView from './SheetsView.svelte';
  import ShopDrawing from './ShopDrawing.svelte';
  import UnwrapView from './UnwrapView.svelte';

  let { job, scene, load }: { job: JobState; scene: Scene; load: number } = $props();
  const step = $derived(job.step);
  /** Did the job stop before it came to this step? */
  const short = $derived(scene.stopped && STEPS.indexOf(scene.stopped.step as Step) <= STEPS.indexOf(step));
</script>

{#if step === 'measure' && job.photo && job.value('blank.photo')}<PhotoView {job} {scene} />
{:else if step === 'measure' && scene.sketch}<ShopDrawing {job} {scene} />
{:else if step === 'artwork' && scene.template && scene.placed}<ArtworkView {job} {scene} />
{:else if step === 'unwrap' && scene.template}<UnwrapView {scene} />
{:else if step === 'layers' && scene.layers?.layers.length}<LayersView {job} {scene} />
{:else if step === 'sheets' && job.on.now}
  <CuttingView on={job.on} page={scene.sheets?.pages.find((p) => p.load.digest === job.on.now?.load)} />
{:else if step === 'sheets' && scene.sheets}
  {@const now = scene.sheets.loads[load]}
  {@const lay = job.laying.task.busy ? job.laying.task.now?.result.lay : null}
  {@const sorts = [
    ['best', 'best so far', !!lay],
    ['load', 'the load', true],
    ['film', 'its film', (now?.taken.length ?? 0) > 0],
    ['panels', 'all panels', scene.sheets.parted.length > 0],
  ] as const}
  {@const shown = sorts.find(([id, , there]) => there && id === job.sheetsShow)?.[0] ?? 'load'}
  {#if shown === 'film'}<FilmView {scene} {load} />
  {:else if shown === 'panels'}<PanelsView {job} {scene} name={now?.patches[0]?.name ?? ''} />
  {:else if shown === 'best' && lay}<LaySoFar {lay} />
  {:else}<SheetsView {job} {scene} {load} />{/if}
  {#if sorts.filter(([, , there]) => there).length > 1}
    <div
      class="absolute flex gap-1 text-[13px] @max-xs:hidden {lay
        ? 'top-10 left-4'
        : 'top-2 right-[190px] @max-lg:top-10 @max-lg:right-auto @max-lg:left-4'}"
      role="group"
      aria-label="What is drawn"
    >
      {#each sorts.filter(([, , there]) => there) as [id, words] (id)}
        <button
          class="button min-h-[26px]! px-2! py-0! {shown === id ? 'border-blue! text-blue' : ''}"
          aria-pressed={shown === id}
          onclick={() => (job.sheetsShow = id)}>{words}</button
        >
      {/each}
    </div>
  {/if}
{:else if step === 'layup' && scene.layup}<LayupSheet {scene} />
{:else if step === 'price' && scene.price}<PriceSheet {scene} />
{:else if short && scene.stopped && !scene.template}
  <div class="p-8">
    <h2>Not laid flat</h2>
    <p class="mt-1 max-w-[420px] leading-snug">{scene.stopped.fault.message} {scene.stopped.fault.hint}</p>
  </div>
{:else if scene.template}<UnwrapView {scene} />{/if}
