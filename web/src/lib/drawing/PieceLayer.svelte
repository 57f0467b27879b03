<script lang="ts">
  /** The pieces of the chosen drawing: picked by a click or a frame, lit, and keyed to the bill by balloons. */
  import type { JobState } from '../state/job.svelte';
  import type { Scene } from '../state/scene';
  import { line, pathOf, type Bounds, type Point } from './paper';
  import Picture from './Picture.svelte';
  import { apart, PiecesThere } from './pieces';
  import { session } from '../state/session.svelte';
  import { lengthText, unitOf } from '../units';
  import type { View } from './view.svelte';

  let {
    job,
    scene,
    view,
    index,
    place,
  }: { job: JobState; scene: Scene; view: View; index: number; place: (e: PointerEvent) => Point } = $props();
  const px = $derived(view.px);
  const work = $derived(job.pieces);
  const bill = $derived(work.bill);
  const d = $derived(scene.placed[index]!);
  const there = $derived(new PiecesThere(scene.paints[index] ?? [], bill?.names ?? [], d.moved));
  const gone = $derived(
    new PiecesThere(
      scene.gone?.[index] ?? [],
      (bill?.gone ?? []).map(([name]) => name),
      d.moved,
    ),
  );
  let svg: SVGSVGElement;
  let from = $state.raw<Point | null>(null);
  let to = $state.raw<Point | null>(null);
  const frame = $derived<Bounds | null>(
    from && to && !work.parting
      ? [Math.min(from[0], to[0]), Math.min(from[1], to[1]), Math.max(from[0], to[0]), Math.max(from[1], to[1])]
      : null,
  );
  const lit = $derived(there.rings((name) => work.has(name)));
  const balloons = $derived.by(() => {
    if (!bill) return [];
    const ends = there.ends(bill);
    const [, y0, , h] = view.box;
    const [, , right] = scene.template!.bounds;
    const at = apart(
      ends.map((p) => p?.[1] ?? -Infinity),
      30 * px,
      -(y0 + h) + 60 * px,
      -y0 - 60 * px,
    );
    const x = Math.min(right + 46 * px, view.box[0] + view.box[2] - 22 * px);
    return ends.flatMap((end, k) => (end ? [{ k, end, at: [x, at[k]!] as Point }] : []));
  });

  /** With Alt, or the wheel held down, the sheet is moved. */
  let panning: Point | null = null;
  function down(e: PointerEvent) {
    if (e.button > 1) return;
    e.stopPropagation();
    e.preventDefault();
    svg.setPointerCapture(e.pointerId);
    if (e.altKey || e.button === 1) panning = [e.clientX, e.clientY];
    else from = place(e);
    to = null;
  }
  function move(e: PointerEvent) {
    if (panning) {
      view.panBy(e.clientX - panning[0], e.clientY - panning[1]);
      panning = [e.clientX, e.clientY];
    }
    if (!from) return;
    const p = place(e);
    if (to || Math.hypot(p[0] - from[0], p[1] - from[1]) > 4 * px) to = p;
  }
  function up(e: PointerEvent) {
    panning = null;
    if (!from) return;
    const back = frame ? [] : gone.at(from, 5 * px);
    if (work.parting) {
      if (to) void work.divideAlong([from, to]);
    } else if (frame) work.pick(there.within(frame), e.shiftKey);
    else {
      const name = there.at(from, 5 * px);
      if (name !== null) work.pick([name], e.shiftKey);
      else if (typeof back === 'string') work.putBack([back]);
      else if (!e.shiftKey) work.pick([]);
    }
    from = to = null;
  }
</script>

<div class="pointer-events-none absolute inset-0">
  <svg
    bind:this={svg}
    class="pointer-events-auto block h-full w-full cursor-crosshair"
    viewBox={view.box.join(' ')}
    role="presentation"
    onpointerdown={down}
    onpointermove={move}
    onpointerup={up}
    onpointercancel={() => (from = to = panning = null)}
  >
    <Picture paints={scene.paints[index] ?? []} moved={d.moved} {px} hole={d.knocks_out} />
    <g transform="translate({d.moved[0]} {-d.moved[1]})" pointer-events="none">
      <path
        d={pathOf(gone.rings(() => true))}
        fill="none"
        stroke="var(--color-quiet)"
        stroke-width={0.9 * px}
        stroke-dasharray="{3 * px} {2.5 * px}"
        data-gone
      />
      <path d={pathOf(lit)} fill="none" stroke="var(--color-sheet)" stroke-width={4.5 * px} />
      <path
        d={pathOf(lit)}
        fill="var(--color-brass)"
        fill-opacity="0.28"
        fill-rule="evenodd"
        stroke="var(--color-brass)"
        stroke-width={2.2 * px}
        data-lit={lit.length}
      />
    </g>
    {#each balloons as { k, end, at } (k)}
      {@const whole = bill!.lines[k]!.pieces.some((n) => work.has(bill!.names[n]!))}
      <g pointer-events="none" data-balloon={k + 1}>
        <path
          d={line(end, [at[0] - 11 * px, at[1]])}
          fill="none"
          stroke={whole ? 'var(--color-brass)' : 'var(--color-quiet)'}
          stroke-width={0.9 * px}
        />
        <circle cx={end[0]} cy={-end[1]} r={2 * px} fill={whole ? 'var(--color-brass)' : 'var(--color-quiet)'} />
        <circle
          cx={at[0]}
          cy={-at[1]}
          r={11 * px}
          fill="var(--color-sheet)"
          stroke={whole ? 'var(--color-brass)' : 'var(--color-ink)'}
          stroke-width={(whole ? 2 : 1.1) * px}
        />
        <text
          x={at[0]}
          y={-at[1]}
          font-size={12.5 * px}
          text-anchor="middle"
          dominant-baseline="central"
          class="narrow"
          fill="var(--color-ink)">{k + 1}</text
        >
      </g>
    {/each}
    {#if work.parting && from && to}
      {@const long = Math.hypot(to[0] - from[0], to[1] - from[1])}
      {@const steep = (Math.atan2(to[1] - from[1], to[0] - from[0]) * 180) / Math.PI}
      <g pointer-events="none" data-parting>
        <path
          d={line(from, to)}
          fill="none"
          stroke="var(--color-brass)"
          stroke-width={2 * px}
          stroke-dasharray="{12 * px} {3 * px} {2 * px} {3 * px}"
        />
        <text
          x={to[0] + 10 * px}
          y={-to[1] - 8 * px}
          font-size={12.5 * px}
          class="narrow"
          fill="var(--color-ink)"
          paint-order="stroke"
          stroke="var(--color-sheet)"
          stroke-width={3 * px}>{lengthText(long, session.style)} {unitOf(session.style)} · {steep.toFixed(0)}°</text
        >
      </g>
    {/if}
    {#if frame}
      <rect
        x={frame[0]}
        y={-frame[3]}
        width={frame[2] - frame[0]}
        height={frame[3] - frame[1]}
        fill="var(--color-brass)"
        fill-opacity="0.08"
        stroke="var(--color-brass)"
        stroke-width={px}
        stroke-dasharray="{5 * px} {3 * px}"
      />
    {/if}
  </svg>
</div>
