<script lang="ts">
  /** A closer lay while it is looked for: the best so far on its strip of film; what a better one moves, slides there. */
  import type { Schemas } from '../api/client';
  import { session } from '../state/session.svelte';
  import { lengthText } from '../units';
  import Dimension from './Dimension.svelte';
  import Drawing from './Drawing.svelte';
  import { pathOf, type Bounds } from './paper';
  import { View } from './view.svelte';

  let { lay }: { lay: Schemas['LayView'] } = $props();
  const view = new View();
  view.padding = [62, 68];
  const px = $derived(view.px);
  /** The strip as long as it was at first: the drawing stands still while the film gets shorter. */
  let first = $state({ of: '', length: 0 });
  $effect.pre(() => {
    const of = `${lay.name} ${lay.sets}`;
    if (first.of !== of || lay.length > first.length) first = { of, length: lay.length };
  });
  const bounds = $derived<Bounds>([0, 0, lay.width, first.length]);
  const strip = (length: number) => pathOf([[0, 0, lay.width, 0, lay.width, length, 0, length]]);
  const shapes = $derived(lay.rings.map((rings) => pathOf(rings)));
  /** Is it longer than what the cutter takes at once? */
  const over = $derived(lay.length > lay.room);
  const text = (mm: number) => lengthText(mm, session.style);
</script>

<Drawing
  {view}
  {bounds}
  title="Best so far of {lay.name}, {lay.sets} on a load{over ? ', still too long' : ''}"
  label="The closest lay found so far"
>
  <path
    d={strip(first.length)}
    fill="none"
    stroke="var(--color-edge)"
    stroke-dasharray="{5 * px} {4 * px}"
    stroke-width={px}
  />
  <path d={strip(lay.length)} fill="var(--color-sheet)" stroke="var(--color-ink)" stroke-width={1.2 * px} />
  {#if over}
    <path
      d="M0 {-lay.room}H{lay.width}"
      stroke="var(--color-look)"
      stroke-width={1.4 * px}
      stroke-dasharray="{9 * px} {4 * px}"
    />
  {/if}
  {#each lay.places as [shape, turn, x, y], n (n)}
    <path
      d={shapes[shape]}
      class="piece"
      style:transform="translate({x}px, {-y}px) rotate({-turn}deg)"
      fill={lay.colour}
      fill-rule="evenodd"
      stroke="var(--color-edge)"
      stroke-width={0.4 * px}
    />
  {/each}
  <Dimension {px} from={[0, -22 * px]} to={[lay.width, -22 * px]} text={text(lay.width)} />
  <Dimension {px} from={[-22 * px, 0]} to={[-22 * px, lay.length]} text={text(lay.length)} bad={over} />
</Drawing>

<style>
  .piece {
    transition: transform 160ms ease-out;
  }
  @media (prefers-reduced-motion: reduce) {
    .piece {
      transition: none;
    }
  }
</style>
