<script lang="ts">
  /** The chosen drawing with its grips, on a layer of its own: while the hand moves only this layer's place changes. */
  import type { JobState } from '../state/job.svelte';
  import type { Scene } from '../state/scene';
  import type { ArtworkHand, Grip } from './artwork.svelte';
  import { pathOf, type Point } from './paper';
  import Picture from './Picture.svelte';

  let {
    job,
    scene,
    hand,
    index,
    take,
    bare = false,
    unseen = false,
  }: {
    job: JobState;
    scene: Scene;
    hand: ArtworkHand;
    index: number;
    take: (e: PointerEvent, index: number, kind: Grip) => void;
    /** Without grips: something else of it is in the hand. */
    bare?: boolean;
    /** Its grips only: something else shows it. */
    unseen?: boolean;
  } = $props();
  const d = $derived(scene.placed[index]!);
  const px = $derived(hand.view.px);
  let layer = $state<HTMLElement>();
  let label = $state<HTMLElement>();
  let words = $state('');

  const n = $derived(d.outline.length / 8);
  const corners = $derived([0, 1, 2, 3].map((k) => [d.outline[2 * k * n]!, d.outline[2 * k * n + 1]!] as Point));
  const top = $derived([d.outline[5 * n]!, d.outline[5 * n + 1]!] as Point);
  const away = $derived(Math.hypot(top[0] - d.centre[0], top[1] - d.centre[1]) || 1);
  const knob = $derived([
    top[0] + ((top[0] - d.centre[0]) / away) * 24 * px,
    top[1] + ((top[1] - d.centre[1]) / away) * 24 * px,
  ] as Point);
  /** Grips stand clear of what is too small to be taken between them. */
  const LEAST_PX = 34;
  function clear(p: Point): Point {
    const [x, y] = [p[0] - d.centre[0], p[1] - d.centre[1]];
    const out = Math.max(1, (LEAST_PX * px) / (Math.hypot(x, y) || 1));
    return [d.centre[0] + x * out, d.centre[1] + y * out];
  }
  /** What the blank says in its stead is not taken hold of. */
  const grips = $derived<[Point, Grip][]>([
    ...(d.given.length ? [] : corners.map((p) => [clear(p), 'size'] as [Point, Grip])),
    ...(d.stands ? [] : [[clear(knob), 'turn'] as [Point, Grip]]),
  ]);

  /** Puts the layer where the hand is: no part of the page is drawn anew for it. */
  function follow() {
    if (!layer) return;
    const { dx, dy, turn, scale } = hand.ahead(d);
    const [x0, y0] = hand.view.box;
    const c: Point = [(d.centre[0] - x0) / px, (-d.centre[1] - y0) / px];
    layer.style.transformOrigin = `${c[0]}px ${c[1]}px`;
    layer.style.transform = `translate(${dx / px}px, ${-dy / px}px) rotate(${-turn}deg) scale(${scale})`;
    if (!label) return;
    words = hand.words;
    label.style.transform = `translate(${c[0] + dx / px + 14}px, ${c[1] - dy / px - 34}px)`;
  }
  $effect(() => job.hand.follow(follow));
  $effect(() => {
    void [scene, job.document, hand.view.box, hand.hold, label];
    follow();
  });
</script>

<div bind:this={layer} class="pointer-events-none absolute inset-0 will-change-transform">
  <svg class="block h-full w-full overflow-visible" viewBox={hand.view.box.join(' ')}>
    <!-- svelte-ignore a11y_no_static_element_interactions -->
    <g class="pointer-events-auto cursor-move" data-drawing={index} onpointerdown={(e) => take(e, index, 'move')}>
      <path d={pathOf([d.outline])} fill="transparent" />
      <Picture paints={unseen ? [] : (scene.paints[index] ?? [])} moved={d.moved} {px} hole={d.knocks_out} />
    </g>
    <path d={pathOf([d.outline])} fill="none" stroke="var(--color-brass)" stroke-width={1.4 * px} />
    {#if !bare && !d.stands}<path
        d={pathOf([[...top, ...knob]], false)}
        stroke="var(--color-brass)"
        stroke-width={1.2 * px}
      />{/if}
    {#each bare ? [] : grips as [p, kind], g (g)}
      <!-- svelte-ignore a11y_no_static_element_interactions -->
      <circle
        class="pointer-events-auto {kind === 'size' ? 'cursor-nwse-resize' : 'cursor-grab'}"
        data-grip={kind}
        cx={p[0]}
        cy={-p[1]}
        r={5.5 * px}
        fill="var(--color-sheet)"
        stroke="var(--color-brass)"
        stroke-width={2 * px}
        onpointerdown={(e) => take(e, index, kind)}
      />
    {/each}
  </svg>
</div>
{#if hand.hold}
  <div
    bind:this={label}
    class="narrow bg-sheet border-brass text-brass-ink pointer-events-none absolute top-0 left-0 border px-1 text-[13px] font-[600] will-change-transform"
  >
    {words}
  </div>
{/if}
