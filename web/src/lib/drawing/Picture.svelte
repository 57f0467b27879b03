<script lang="ts">
  /** What a drawing shows, colour by colour. */
  import type { Scene } from '../state/scene';
  import { pathOf } from './paper';
  let {
    paints,
    moved,
    px,
    hole = false,
  }: { paints: Scene['paints'][number]; moved: [number, number]; px: number; hole?: boolean } = $props();
  /** More corners than these are drawn without their edges: a hair's breadth nobody sees, and half of the painting. */
  const MANY = 40_000;
  const edged = $derived(paints.reduce((n, p) => n + p.rings.reduce((m, r) => m + r.length, 0), 0) < MANY);
</script>

<g transform="translate({moved[0]} {-moved[1]})">
  {#each paints as paint (paint.colour)}
    <path
      d={pathOf(paint.rings)}
      fill={hole ? 'var(--color-wash)' : paint.colour}
      fill-rule="evenodd"
      stroke={edged ? 'var(--color-edge)' : 'none'}
      stroke-width={(hole ? 1.1 : 0.5) * px}
      stroke-dasharray={hole ? `${4 * px} ${3 * px}` : undefined}
    />
  {/each}
</g>
