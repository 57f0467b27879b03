<script lang="ts">
  /** The artwork on the template: dragged, sized and turned by hand, the last exact result moving with it. */
  import type { Scene } from '../api/client';
  import type { JobState } from '../state/job.svelte';
  import { session } from '../state/session.svelte';
  import { length } from '../units';
  import Drawing from './Drawing.svelte';
  import { handOf } from './hand';
  import { pathOf, turned, type Point } from './paper';
  import Template from './Template.svelte';
  import { verdictShown } from '../state/verdicts';
  import { View } from './view.svelte';

  let { job, scene }: { job: JobState; scene: Scene } = $props();
  const view = new View();
  const px = $derived(view.px);
  /** By which field a drawing moves sideways is the core's to say. */
  const movesBy = (i: number) => {
    const d = scene.placed[i];
    const field = d?.across_field ?? 'across_mm';
    return { field, unit: d?.across_unit ?? 1, round: field === 'centre_deg' };
  };
  const shown = $derived(verdictShown(scene, job.shown));

  type Grip = { kind: 'move' | 'size' | 'turn'; i: number; at: Point; grab: Point; width: number; turn: number };
  let grip: Grip | null = $state(null);
  let hovered = $state<Point | null>(null);

  function point(e: PointerEvent): Point {
    const box = (e.currentTarget as Element).closest('svg')!.getBoundingClientRect();
    return view.point(e.clientX - box.left, e.clientY - box.top);
  }
  const num = (path: string, fallback: number) => {
    const v = job.value(path);
    return typeof v === 'number' ? v : fallback;
  };
  function down(e: PointerEvent, i: number, kind: Grip['kind']) {
    e.stopPropagation();
    if (e.button !== 0) return;
    job.selected = i;
    (e.currentTarget as Element).setPointerCapture(e.pointerId);
    const at = point(e);
    const h = handOf(job, scene, i);
    const c: Point = [scene.placed[i]!.centre[0] + h.dx, scene.placed[i]!.centre[1] + h.dy];
    const p = `drawings.${i}.placement`;
    grip = {
      kind,
      i,
      at,
      grab: [at[0] - c[0], at[1] - c[1]],
      width: num(`${p}.width_mm`, 60),
      turn: num(`${p}.turn_deg`, 0),
    };
  }
  const round = (v: number, step: number) => Math.round(v / step) * step;
  function move(e: PointerEvent) {
    if (!grip) return;
    const { i, kind } = grip;
    const d = scene.placed[i];
    if (!d) return;
    const at = point(e);
    const p = `drawings.${i}.placement`;
    if (kind === 'move') {
      // From the last exact middle to where the hand wants it, in the surface's own coordinates.
      const dx = at[0] - grip.grab[0] - d.centre[0];
      const dy = at[1] - grip.grab[1] - d.centre[1];
      const det = d.across[0] * d.up[1] - d.across[1] * d.up[0];
      const da = (dx * d.up[1] - dy * d.up[0]) / det;
      const ds = (d.across[0] * dy - d.across[1] * dx) / det;
      const was = scene.document.drawings![i]!.placement!;
      const { field, unit } = movesBy(i);
      const a = (was[field] as number) + da / unit;
      place(i, round(a, e.shiftKey ? 5 : 0.1), round((was.up_mm as number) + ds, 0.1));
    } else if (kind === 'size') {
      const h = handOf(job, scene, i);
      const c: Point = [d.centre[0] + h.dx, d.centre[1] + h.dy];
      const factor = Math.hypot(at[0] - c[0], at[1] - c[1]) / Math.hypot(grip.at[0] - c[0], grip.at[1] - c[1]);
      job.set(`${p}.width_mm`, Math.max(1, round(grip.width * factor, 0.1)));
    } else {
      const h = handOf(job, scene, i);
      const c: Point = [d.centre[0] + h.dx, d.centre[1] + h.dy];
      const angle = (q: Point) => Math.atan2(q[1] - c[1], q[0] - c[0]);
      let turn = grip.turn + ((angle(at) - angle(grip.at)) * 180) / Math.PI;
      turn = ((turn + 540) % 360) - 180;
      job.set(`${p}.turn_deg`, e.shiftKey ? round(turn, 15) : round(turn, 0.1));
    }
    hovered = at;
  }
  function place(i: number, a: number, up: number) {
    const { field, round: turns } = movesBy(i);
    if (turns) a = ((a + 540) % 360) - 180;
    const drawings = [...(job.document!.drawings ?? [])];
    const d = drawings[i]!;
    drawings[i] = {
      ...d,
      placement: { ...d.placement!, [field]: Number(a.toFixed(3)), up_mm: Number(up.toFixed(3)) },
    };
    job.change({ ...job.document!, drawings });
  }
  function keydown(e: KeyboardEvent) {
    const i = job.selected;
    const d = scene.placed[i];
    if (!d) return;
    const p = `drawings.${i}.placement`;
    const step = e.shiftKey ? 5 : 0.5;
    const { field, unit } = movesBy(i);
    const per = Math.hypot(...(d.across as Point)) * unit || 1;
    const a = num(`${p}.${field}`, 0);
    const up = num(`${p}.up_mm`, 0);
    const moves: Record<string, () => void> = {
      ArrowLeft: () =>
        e.altKey ? job.set(`${p}.turn_deg`, num(`${p}.turn_deg`, 0) + 1) : place(i, a - step / per, up),
      ArrowRight: () =>
        e.altKey ? job.set(`${p}.turn_deg`, num(`${p}.turn_deg`, 0) - 1) : place(i, a + step / per, up),
      ArrowUp: () => place(i, a, up + step),
      ArrowDown: () => place(i, a, up - step),
      '+': () => job.set(`${p}.width_mm`, num(`${p}.width_mm`, 60) + step),
      '-': () => job.set(`${p}.width_mm`, Math.max(1, num(`${p}.width_mm`, 60) - step)),
      n: () => (job.selected = (i + 1) % scene.placed.length),
    };
    const go = moves[e.key];
    if (!go) return;
    e.preventDefault();
    go();
  }
  function corners(ring: number[]): Point[] {
    const n = ring.length / 8;
    return [0, 1, 2, 3].map((k) => [ring[2 * k * n]!, ring[2 * k * n + 1]!] as Point);
  }
</script>

<Drawing
  {view}
  bounds={scene.template!.bounds}
  title="Template, outside up"
  label="Artwork on the template. Arrow keys move it, plus and minus size it, Alt with the arrows turns it."
  onkeydown={keydown}
>
  <Template {scene} {px} id="artwork" />
  {#each scene.placed as d, i (i)}
    {@const h = handOf(job, scene, i)}
    {@const c = turned(d.centre as Point)}
    <g
      transform="translate({h.dx} {-h.dy}) rotate({-h.turn} {c[0]} {c[1]}) translate({c[0]} {c[1]}) scale({h.scale}) translate({-c[0]} {-c[1]})"
    >
      <!-- svelte-ignore a11y_no_static_element_interactions -->
      <g
        class="cursor-move"
        data-drawing={i}
        onpointerdown={(e) => down(e, i, 'move')}
        onpointermove={move}
        onpointerup={() => (grip = null)}
        onpointercancel={() => (grip = null)}
      >
        <path d={pathOf([d.outline])} fill="transparent" />
        {#each d.paints as paint (paint.colour)}
          <path
            d={pathOf(paint.rings)}
            fill={paint.colour}
            fill-rule="evenodd"
            stroke="var(--color-edge)"
            stroke-width={0.5 * px}
          />
        {/each}
      </g>
      {#if i === job.selected}
        {@const cs = corners(d.outline)}
        {@const n = d.outline.length / 8}
        {@const top = [d.outline[5 * n]!, d.outline[5 * n + 1]!] as Point}
        {@const away = Math.hypot(top[0] - d.centre[0], top[1] - d.centre[1]) || 1}
        {@const knob = [
          top[0] + ((top[0] - d.centre[0]) / away) * 24 * px,
          top[1] + ((top[1] - d.centre[1]) / away) * 24 * px,
        ] as Point}
        <path
          d={pathOf([d.outline])}
          fill="none"
          stroke="var(--color-brass)"
          stroke-width={(1.4 * px) / h.scale}
          pointer-events="none"
        />
        <path d={pathOf([[...top, ...knob]], false)} stroke="var(--color-brass)" stroke-width={1.2 * px} />
        {#each [...cs.map((p) => [p, 'size'] as const), [knob, 'turn'] as const] as [p, kind], n (n)}
          <!-- svelte-ignore a11y_no_static_element_interactions -->
          <circle
            class={kind === 'size' ? 'cursor-nwse-resize' : 'cursor-grab'}
            data-grip={kind}
            cx={p[0]}
            cy={-p[1]}
            r={(5.5 * px) / h.scale}
            fill="var(--color-sheet)"
            stroke="var(--color-brass)"
            stroke-width={(2 * px) / h.scale}
            onpointerdown={(e) => down(e, i, kind)}
            onpointermove={move}
            onpointerup={() => (grip = null)}
            onpointercancel={() => (grip = null)}
          />
        {/each}
      {/if}
    </g>
  {/each}
  {#if grip && hovered}
    {@const p = `drawings.${grip.i}.placement`}
    {@const words =
      grip.kind === 'size'
        ? `${length(num(`${p}.width_mm`, 0), session.style)} wide`
        : grip.kind === 'turn'
          ? `${num(`${p}.turn_deg`, 0).toFixed(1)}°`
          : `${movesBy(grip.i).round ? `${num(`${p}.centre_deg`, 0).toFixed(1)}°` : length(num(`${p}.across_mm`, 0), session.style)} · ${length(num(`${p}.up_mm`, 0), session.style)} up`}
    <g transform="translate({hovered[0] + 14 * px} {-hovered[1] - 18 * px})" pointer-events="none">
      <rect
        x={-4 * px}
        y={-14 * px}
        width={(words.length * 6.6 + 12) * px}
        height={20 * px}
        fill="var(--color-sheet)"
        stroke="var(--color-brass)"
        stroke-width={px}
      />
      <text font-size={13 * px} class="narrow" fill="var(--color-brass-ink)" font-weight="600">{words}</text>
    </g>
  {/if}
  {#each shown?.places ?? [] as place, n (n)}
    <circle cx={place[0]} cy={-place[1]} r={8 * px} fill="none" stroke="var(--color-look)" stroke-width={2 * px} />
  {/each}
</Drawing>
