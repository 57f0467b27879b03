<script lang="ts">
  /** The sheet every drawing lies on: seen whole, nearer or elsewhere, with its title and scale. */
  import type { Snippet } from 'svelte';
  import { session } from '../state/session.svelte';
  import { length } from '../units';
  import { MM_PER_PX, roundLength, type Bounds } from './paper';
  import type { View } from './view.svelte';

  let {
    view,
    bounds,
    title,
    label,
    children,
    above,
    area = $bindable(),
    drawn = true,
    exact = true,
    onkeydown,
    onmove,
    onrelease,
  }: {
    view: View;
    bounds: Bounds;
    title: string;
    label: string;
    children: Snippet;
    /** What lies over the sheet on layers of its own. */
    above?: Snippet;
    area?: HTMLElement;
    /** Does it show what was last asked for? */
    drawn?: boolean;
    exact?: boolean;
    onkeydown?: (e: KeyboardEvent) => void;
    /** The pointer, where something else took hold of it. */
    onmove?: (e: PointerEvent) => void;
    onrelease?: () => void;
  } = $props();

  let svg: SVGSVGElement;
  let panning: { x: number; y: number } | null = null;
  $effect(() => view.fitTo(bounds));
  const bar = $derived(roundLength(90 * view.px, session.style !== 'mm'));
  const scale = $derived(view.px / MM_PER_PX);

  function wheel(e: WheelEvent) {
    e.preventDefault();
    const box = svg.getBoundingClientRect();
    view.zoomBy(Math.exp(-e.deltaY * 0.0015), e.clientX - box.left, e.clientY - box.top);
  }
  function down(e: PointerEvent) {
    if (e.button !== 0) return;
    panning = { x: e.clientX, y: e.clientY };
    svg.setPointerCapture(e.pointerId);
  }
  function move(e: PointerEvent) {
    if (!panning) return onmove?.(e);
    view.panBy(e.clientX - panning.x, e.clientY - panning.y);
    panning = { x: e.clientX, y: e.clientY };
  }
  function release() {
    panning = null;
    onrelease?.();
  }
  $effect(() => {
    const at = area!;
    at.addEventListener('wheel', wheel, { passive: false });
    return () => at.removeEventListener('wheel', wheel);
  });
</script>

<!-- svelte-ignore a11y_no_static_element_interactions -->
<div
  bind:this={area}
  class="@container relative h-full w-full touch-none overflow-hidden select-none"
  data-drawn={drawn}
  data-exact={exact}
  bind:clientWidth={view.width}
  bind:clientHeight={view.height}
  onpointermove={move}
  onpointerup={release}
  onpointercancel={release}
>
  <!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
  <svg
    bind:this={svg}
    class="block h-full w-full"
    fill="var(--color-ink)"
    viewBox={view.box.join(' ')}
    role="group"
    aria-label={label}
    tabindex={onkeydown ? 0 : undefined}
    {onkeydown}
    onpointerdown={down}
    ondblclick={() => view.reset()}
  >
    {@render children()}
  </svg>
  {@render above?.()}
  <div
    class="fine narrow bg-sheet/85 pointer-events-none absolute top-3 left-3 px-1 max-w-[calc(100%-170px)] truncate @max-xs:hidden"
  >
    {title}, 1 : {scale < 10 ? scale.toFixed(2) : scale.toFixed(0)}
  </div>
  <div class="absolute top-2 right-3 flex gap-1 text-[13px] @max-xs:hidden">
    <button class="button min-h-[26px]! px-2! py-0!" onclick={() => view.zoomBy(1.3)} aria-label="Look closer"
      >closer</button
    >
    <button class="button min-h-[26px]! px-2! py-0!" onclick={() => view.zoomBy(1 / 1.3)} aria-label="Step back"
      >back</button
    >
    {#if view.moved}<button class="button min-h-[26px]! px-2! py-0!" onclick={() => view.reset()}>whole</button>{/if}
  </div>
  <div class="pointer-events-none absolute bottom-3 left-4 @max-xs:hidden">
    <div class="narrow bg-sheet/85 flex items-center gap-2 pr-1 text-[13px]">
      <svg width={bar / view.px + 2} height="10" aria-hidden="true">
        <path
          d="M1 1v8M1 5H{bar / view.px + 1}M{bar / view.px + 1} 1v8"
          fill="none"
          stroke="currentColor"
          stroke-width="1"
        />
      </svg>
      {length(bar, session.style, session.style === 'mm' ? 0 : 1)}
    </div>
  </div>
</div>
