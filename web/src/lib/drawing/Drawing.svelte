<script lang="ts">
  import type { Snippet } from 'svelte';
  import { session } from '../state/session.svelte';
  import { length } from '../units';
  import { roundLength, type Bounds } from './paper';
  import type { View } from './view.svelte';

  let {
    view,
    bounds,
    title,
    label,
    children,
    onkeydown,
  }: {
    view: View;
    bounds: Bounds;
    title: string;
    label: string;
    children: Snippet;
    onkeydown?: (e: KeyboardEvent) => void;
  } = $props();

  let svg: SVGSVGElement;
  let panning: { x: number; y: number } | null = null;
  $effect(() => view.fitTo(bounds));
  const bar = $derived(roundLength(90 * view.px, session.style !== 'mm'));
  const scale = $derived(view.px / (25.4 / 96));

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
    if (!panning) return;
    view.panBy(e.clientX - panning.x, e.clientY - panning.y);
    panning = { x: e.clientX, y: e.clientY };
  }
  $effect(() => {
    svg.addEventListener('wheel', wheel, { passive: false });
    return () => svg.removeEventListener('wheel', wheel);
  });
</script>

<div
  class="@container relative h-full w-full overflow-hidden"
  bind:clientWidth={view.width}
  bind:clientHeight={view.height}
>
  <!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
  <svg
    bind:this={svg}
    class="block h-full w-full touch-none select-none"
    viewBox={view.box.join(' ')}
    role="group"
    aria-label={label}
    tabindex={onkeydown ? 0 : undefined}
    {onkeydown}
    onpointerdown={down}
    onpointermove={move}
    onpointerup={() => (panning = null)}
    onpointercancel={() => (panning = null)}
    ondblclick={() => view.reset()}
  >
    {@render children()}
  </svg>
  <div class="fine narrow pointer-events-none absolute top-3 left-4 @max-xs:hidden">
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
  <div class="absolute bottom-3 left-4 @max-xs:hidden">
    <div class="narrow flex items-center gap-2 text-[13px]">
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
