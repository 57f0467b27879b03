<script lang="ts">
  /** The artwork on the template: dragged, sized and turned by hand, what is held moving as a layer of its own. */
  import type { JobState } from '../state/job.svelte';
  import type { Scene } from '../state/scene';
  import { verdictShown } from '../state/verdicts';
  import { ArtworkHand, type Grip } from './artwork.svelte';
  import Drawing from './Drawing.svelte';
  import HeldPicture from './HeldPicture.svelte';
  import { pathOf } from './paper';
  import { pieceKey } from './pieces';
  import ReferenceLayer from './ReferenceLayer.svelte';
  import PieceLayer from './PieceLayer.svelte';
  import Picture from './Picture.svelte';
  import SpacingLayer from './SpacingLayer.svelte';
  import Template from './Template.svelte';
  import TracedPicture from './TracedPicture.svelte';
  import { View } from './view.svelte';

  let { job, scene }: { job: JobState; scene: Scene } = $props();
  const view = new View();
  $effect(() => {
    // Room for the balloons.
    view.padding = job.pieces.on ? [86, 62] : [44, 62];
  });
  // svelte-ignore state_referenced_locally
  const hand = new ArtworkHand(job, view);
  const px = $derived(view.px);
  const shown = $derived(verdictShown(job.judged, job.shown));
  const chosen = $derived(Math.min(job.selected, scene.placed.length - 1));
  const lies = $derived(job.document?.reference?.lies ?? '');
  const traced = $derived(!!scene.placed[chosen]?.page && job.seenThrough && !job.picture.hand && !job.pieces.on);
  let area = $state<HTMLElement>();

  function place(e: PointerEvent) {
    const box = area!.getBoundingClientRect();
    return view.point(e.clientX - box.left, e.clientY - box.top);
  }
  function take(e: PointerEvent, index: number, kind: Grip) {
    e.stopPropagation();
    if (e.button !== 0) return;
    area!.setPointerCapture(e.pointerId);
    hand.take(index, kind, place(e));
  }
  const letGo = () => hand.hold && hand.letGo();
</script>

<Drawing
  {view}
  bind:area
  bounds={scene.template!.bounds}
  title="Template, outside up"
  label={job.pieces.on
    ? 'Pieces of the artwork. N and P go from piece to piece, arrow keys move those picked, Delete takes them out.'
    : 'Artwork on the template. Arrow keys move it, plus and minus size it, Alt with the arrows turns it.'}
  drawn={job.drawn}
  exact={job.exact}
  onkeydown={(e) => (job.pieces.on ? pieceKey(e, job.pieces) : hand.keydown(e))}
  onmove={(e) => hand.hold && hand.move(place(e), e.shiftKey, e.altKey)}
  onrelease={letGo}
>
  <Template {scene} {px} id="artwork" />
  {#if lies === 'under' && !job.picture.hand}<ReferenceLayer {job} {px} {place} />{/if}
  {#each scene.placed as d, i (d.path)}
    {#if i !== chosen || job.picture.hand}
      <!-- svelte-ignore a11y_no_static_element_interactions -->
      <g class="cursor-move" data-drawing={i} onpointerdown={(e) => take(e, i, 'move')}>
        <path d={pathOf([d.outline])} fill="transparent" />
        <Picture paints={scene.paints[i] ?? []} moved={d.moved} {px} hole={d.knocks_out} />
      </g>
    {/if}
  {/each}
  {#each shown?.places ?? [] as p, n (n)}
    <circle cx={p[0]} cy={-p[1]} r={8 * px} fill="none" stroke="var(--color-look)" stroke-width={2 * px} />
  {/each}
  {#snippet above()}
    {#if lies === 'over' || (lies === 'under' && job.picture.hand)}
      <!-- In the hand it lies over all, so that it can be reached. -->
      <svg
        class="absolute inset-0 block h-full w-full"
        style:pointer-events={job.picture.hand ? 'auto' : 'none'}
        viewBox={view.box.join(' ')}
      >
        <ReferenceLayer {job} {px} {place} />
      </svg>
    {/if}
    {#if traced}
      <TracedPicture {job} {scene} {view} index={chosen} />
    {/if}
    {#if job.picture.hand}
      <!-- Nothing else is in the hand. -->
    {:else if scene.placed[chosen] && job.pieces.on}
      <PieceLayer {job} {scene} {view} index={chosen} {place} />
    {:else if scene.placed[chosen]?.gaps.length && job.spacing}
      <HeldPicture {job} {scene} {hand} index={chosen} {take} bare />
      <SpacingLayer {job} {scene} {view} index={chosen} {place} />
    {:else if scene.placed[chosen]}
      <HeldPicture {job} {scene} {hand} index={chosen} {take} unseen={traced} />
    {/if}
  {/snippet}
</Drawing>
