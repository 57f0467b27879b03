<script lang="ts">
  /** The layers as they will be after weeding, parted so that each is seen and its marks stand over one another. */
  import type { Scene } from '../state/scene';
  import type { JobState } from '../state/job.svelte';
  import Drawing from './Drawing.svelte';
  import { linesOn } from './ground';
  import { line, pathOf, type Bounds, type Point } from './paper';
  import { verdictShown } from '../state/verdicts';
  import Finishes from './Finishes.svelte';
  import MislaidPile from './MislaidPile.svelte';
  import { View } from './view.svelte';

  let { job, scene }: { job: JobState; scene: Scene } = $props();
  const pile = $derived(job.pile);
  /** The one film that is shown, if it is still there. */
  const alone = $derived(pile.alone < scene.layers!.layers.length ? pile.alone : -1);
  /** Laid as a hand does they lie on each other. */
  const apart = $derived(pile.mislaid ? 0 : pile.apart);
  const view = new View();
  const px = $derived(view.px);
  const all = $derived(scene.layers!);
  const pad = 6;
  const box = $derived<Bounds>([all.bounds[0] - pad, all.bounds[1] - pad, all.bounds[2] + pad, all.bounds[3] + pad]);
  const n = $derived(all.layers.length);
  const shown = $derived(verdictShown(job.judged, job.shown));
  /** Is the clicked verdict about this layer? Its sentence begins with the layer's name. */
  const isOf = (name: string) => {
    const said = shown?.sentence.toLowerCase() ?? '';
    return said.startsWith(`${name}:`) || said.startsWith(`${name} reaches`);
  };
  // Seen from above at a slant: x stays, y is foreshortened and leans.
  const flat = $derived(1 - 0.55 * apart);
  const lean = $derived(0.28 * apart);
  const rise = $derived((box[3] - box[1]) * flat * 1.3 * apart + (apart ? 6 : 0));
  const lifted = (i: number) => (held?.i === i ? held.up : 0);
  /** From below, left is right and the first film is on top. */
  const side = $derived(pile.below ? -1 : 1);
  const across = $derived(pile.below ? box[0] + box[2] : 0);
  const level = $derived((i: number) => (pile.below ? n - 1 - i : i));
  const matrix = $derived((i: number) => `matrix(${side} 0 ${lean} ${flat} ${across} ${-level(i) * rise - lifted(i)})`);
  const at = $derived((p: Point, i: number): Point => [
    side * p[0] + across - lean * p[1],
    p[1] * flat + level(i) * rise,
  ]);
  const shownFilms = $derived(
    all.layers
      .map((layer, i) => ({ layer, i }))
      .filter(({ i }) => pile.shows(i, n))
      .toSorted((a, b) => level(a.i) - level(b.i)),
  );
  /** Which is drawn first: it lies on the blank's own colour, on which each film shows as it will. */
  const lowest = $derived(shownFilms[0]?.i ?? 0);
  const ground = $derived(scene.document.blank.colour ?? '#ffffff');
  const bounds = $derived.by<Bounds>(() => {
    const corners: Point[] = [];
    for (const i of [0, Math.max(n - 1, 0)])
      for (const x of [box[0], box[2]]) for (const y of [box[1], box[3]]) corners.push(at([x, y], i));
    const xs = corners.map((c) => c[0]);
    const ys = corners.map((c) => c[1]);
    return [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)];
  });
  const rect = $derived([[box[0], box[1], box[2], box[1], box[2], box[3], box[0], box[3]]]);
  /** The film that the hand holds in the pile, and by how much it has gone up. */
  let held = $state.raw<{ i: number; from: number; up: number } | null>(null);
  let area = $state<HTMLElement>();
  function height(e: PointerEvent): number {
    const b = area!.getBoundingClientRect();
    return view.point(e.clientX - b.left, e.clientY - b.top)[1];
  }
  function take(e: PointerEvent, i: number) {
    if (e.button !== 0 || n < 2 || !apart || alone >= 0 || i < all.under) return;
    e.stopPropagation();
    area!.setPointerCapture(e.pointerId);
    held = { i, from: height(e), up: 0 };
  }
  const places = (up: number, i: number) => Math.max(-i, Math.min(n - 1 - i, side * Math.round(up / rise)));
  function letGo() {
    if (!held) return;
    const { i, up } = held;
    held = null;
    job.raise(i, places(up, i));
  }
  const markTops = $derived.by<Point[]>(() => {
    const first = all.layers[0]?.marks ?? [];
    return first.map((ring) => {
      let [x, y, k] = [0, 0, 0];
      for (let i = 0; i + 1 < ring.length; i += 2) [x, y, k] = [x + ring[i]!, y + ring[i + 1]!, k + 1];
      return [x / k, y / k] as Point;
    });
  });
</script>

<Drawing
  {view}
  {bounds}
  bind:area
  title={pile.mislaid
    ? `As a hand lays them, ${pile.times.toFixed(1)} times as wrong`
    : `Layers after weeding${pile.below ? ', from below' : ''}`}
  label="The layers, one above the other; drag one up or down in the pile"
  onmove={(e) => held && (held = { ...held, up: height(e) - held.from })}
  onrelease={letGo}
>
  {#if n}
    <Finishes {px} />
    {#each pile.mislaid ? [] : shownFilms as { layer, i } (layer.name)}
      {@const d = pathOf(layer.rings)}
      <!-- svelte-ignore a11y_no_static_element_interactions -->
      <g
        transform={matrix(i)}
        style={linesOn(ground)}
        data-layer={layer.name}
        class={n > 1 && apart ? 'cursor-ns-resize' : ''}
        onpointerdown={(e) => take(e, i)}
      >
        <path
          d={pathOf(rect)}
          fill={ground}
          fill-opacity={apart ? 0.82 : lowest === i ? 1 : 0}
          stroke="var(--color-edge)"
          stroke-width={px}
          vector-effect="non-scaling-stroke"
        />
        <path
          {d}
          fill={layer.film_colour}
          fill-opacity={layer.finish === 'clear' ? 0.35 : 1}
          fill-rule="evenodd"
          stroke="var(--color-edge)"
          stroke-width={0.5 * px}
        />
        <path d={pathOf(layer.marks)} fill="var(--color-ink)" fill-rule="evenodd" />
        {#if layer.finish !== 'gloss'}<path {d} fill="url(#finish-{layer.finish})" fill-rule="evenodd" />{/if}
        <path d={pathOf(layer.slits, false)} fill="none" stroke="var(--color-stop)" stroke-width={1.2 * px} />
        <path
          data-weeding
          d={pathOf(layer.weeding.frames) + pathOf(layer.weeding.lines, false)}
          fill="none"
          stroke="var(--color-blue)"
          stroke-width={px}
          stroke-dasharray="{5 * px} {3 * px}"
        />
      </g>
      {#each isOf(layer.name) ? (shown?.places ?? []) : [] as place, k (k)}
        {@const p = at(place as Point, i)}
        <circle cx={p[0]} cy={-p[1]} r={7 * px} fill="none" stroke="var(--color-look)" stroke-width={1.8 * px} />
      {/each}
      {#if pile.spot?.layer === i}
        {@const p = at(pile.spot.at, i)}
        <circle
          data-spot
          cx={p[0]}
          cy={-p[1]}
          r={9 * px}
          fill="none"
          stroke="var(--color-brass)"
          stroke-width={2.4 * px}
        />
      {/if}
    {/each}
    {#each shown && !all.layers.some((l) => isOf(l.name)) ? shown.places : [] as place, k (k)}
      {@const p = at(place as Point, pile.below ? 0 : n - 1)}
      <circle cx={p[0]} cy={-p[1]} r={7 * px} fill="none" stroke="var(--color-look)" stroke-width={1.8 * px} />
    {/each}
    {#if apart && alone < 0}
      {#each markTops as mark, k (k)}
        <path
          d={line(at(mark, 0), at(mark, n - 1))}
          stroke="var(--color-brass)"
          stroke-width={px}
          stroke-dasharray="{4 * px} {4 * px}"
          fill="none"
        />
      {/each}
    {/if}
    {#each shownFilms as { layer, i } (layer.name)}
      {@const edge = at([pile.below ? box[0] : box[2], box[1]], i)}
      <text
        x={edge[0] - 6 * px}
        y={-edge[1] + 15 * px}
        font-size={13 * px}
        text-anchor="end"
        class="narrow"
        font-weight="600"
        fill="var(--color-ink)"
        paint-order="stroke"
        stroke="var(--color-sheet)"
        stroke-width={3 * px}
        >{apart || alone >= 0
          ? `${layer.name}${i === 0 ? ', first on the blank' : i === n - 1 && n > 1 ? ', on top' : ''}`
          : ''}</text
      >
    {/each}
  {/if}
  {#snippet above()}
    {#if pile.mislaid && all.hand}<MislaidPile {scene} {pile} {view} />{/if}
  {/snippet}
</Drawing>
