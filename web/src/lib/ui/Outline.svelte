<script lang="ts">
  /** The small drawing of a thing on a card: its outline filled in its colour, and whatever lies on it. */
  import { pathOf } from '../drawing/paper';
  let {
    outline,
    bounds,
    fill = 'none',
    paints = [],
    class: look = '',
  }: {
    outline: number[][];
    bounds: readonly number[];
    fill?: string;
    paints?: { colour: string; rings: number[][] }[];
    class?: string;
  } = $props();
  const box = $derived.by(() => {
    const [l = 0, b = 0, r = 1, t = 1] = bounds;
    const pad = Math.max(r - l, t - b) * 0.045;
    return `${l - pad} ${-t - pad} ${r - l + 2 * pad} ${t - b + 2 * pad}`;
  });
</script>

<svg viewBox={box} class={look} aria-hidden="true">
  {#if fill !== 'none'}<path d={pathOf(outline)} {fill} fill-rule="evenodd" />{/if}
  {#each paints as p, i (i)}<path d={pathOf(p.rings)} fill={p.colour} fill-rule="evenodd" />{/each}
  <path
    d={pathOf(outline)}
    fill="none"
    stroke="var(--color-ink)"
    stroke-width="1.3"
    vector-effect="non-scaling-stroke"
  />
</svg>
