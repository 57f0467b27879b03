<script lang="ts">
  /** A printed face in the frame of its page: its colours, its marks, and the line it is cut along. */
  import type { Scene } from '../state/scene';
  import { pathOf } from './paper';

  type Page = NonNullable<Scene['sheets']>['pages'][number];
  let { page, px }: { page: Page; px: number } = $props();
</script>

<g data-printed={page.load.name}>
  {#each page.inks as ink, n (n)}
    <path d={pathOf(ink.rings)} fill={ink.colour} fill-rule="evenodd" />
  {/each}
  <path d={pathOf(page.marks)} fill="#000000" />
  <path
    d={pathOf(page.contour)}
    fill="none"
    stroke="var(--color-blue)"
    stroke-width={1.6 * px}
    stroke-dasharray="{7 * px} {3 * px}"
  />
</g>
