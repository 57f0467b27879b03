<script lang="ts">
  /** The spaces between the letters of the chosen words: each a dimension that is dragged, or set by arrow keys. */
  import type { JobDocument } from '../api/client';
  import type { JobState } from '../state/job.svelte';
  import { at, put } from '../state/paths';
  import type { Scene } from '../state/scene';
  import { session } from '../state/session.svelte';
  import { lengthText } from '../units';
  import type { Point } from './paper';
  import type { View } from './view.svelte';

  let {
    job,
    scene,
    view,
    index,
    place,
  }: { job: JobState; scene: Scene; view: View; index: number; place: (e: PointerEvent) => Point } = $props();
  const px = $derived(view.px);
  const d = $derived(scene.placed[index]!);
  type Gap = (typeof d.gaps)[number];
  type Kern = { line: number; letter: number; by: number };
  const source = $derived(`elements.${d.path.split('.')[1]}.source`);
  let held = $state.raw<{ gap: Gap; from: Point; by: number } | null>(null);
  const LEAST = -500;
  const MOST = 2000;
  const STEP = 5;
  const COARSE = 25;

  function kerned(gap: Gap, by: number): JobDocument {
    const was = (at(job.document, `${source}.kerns`) ?? []) as Kern[];
    const rest = was.filter((k) => k.line !== gap.line || k.letter !== gap.letter);
    const value = Math.round(Math.max(LEAST, Math.min(MOST, by)));
    const kerns = value ? [...rest, { line: gap.line, letter: gap.letter, by: value }] : rest;
    return put(job.document!, `${source}.kerns`, kerns);
  }
  function take(e: PointerEvent, gap: Gap) {
    if (e.button !== 0) return;
    e.stopPropagation();
    (e.currentTarget as Element).setPointerCapture(e.pointerId);
    held = { gap, from: place(e), by: gap.by };
  }
  /** Middle words move both ways as they are spaced: so twice as far as the hand goes, where they stand in the middle. */
  const share = $derived(at(job.document, `${source}.align`) === 'middle' ? 2 : 1);
  function moved(e: PointerEvent): number {
    const { gap, from, by } = held!;
    const p = place(e);
    const [ax, ay] = gap.along;
    const per = ax * ax + ay * ay || 1;
    return by + (share * ((p[0] - from[0]) * ax + (p[1] - from[1]) * ay)) / per;
  }
  function move(e: PointerEvent) {
    if (held) job.hold(kerned(held.gap, moved(e)));
  }
  function letGo(e: PointerEvent) {
    if (!held) return;
    const [gap, by] = [held.gap, moved(e)];
    held = null;
    if (Math.round(by) === gap.by) job.drop();
    else job.change(kerned(gap, by));
  }
  function key(e: KeyboardEvent, gap: Gap) {
    const step =
      (e.shiftKey ? COARSE : STEP) * ({ ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1 }[e.key] ?? 0);
    if (!step && e.key !== 'Delete' && e.key !== 'Home') return;
    e.preventDefault();
    e.stopPropagation();
    job.change(kerned(gap, step ? gap.by + step : 0));
  }
  const LIFT = 0.35;
  const ROOM_PX = 24;
  /** Its figure is written where it has room, and where it was set by hand. */
  const shown = $derived(
    d.gaps.map((g, n) => {
      const near = (o: Gap | undefined) =>
        !!o && Math.hypot(o.foot[0] - g.foot[0], o.foot[1] - g.foot[1]) < ROOM_PX * px;
      return !!g.by || (!near(d.gaps[n - 1]) && !near(d.gaps[n + 1]));
    }),
  );
</script>

<svg class="pointer-events-none absolute inset-0 block h-full w-full overflow-visible" viewBox={view.box.join(' ')}>
  {#each d.gaps as gap, n (n)}
    {@const [x, y] = gap.foot}
    {@const [ux, uy] = gap.up}
    {@const top = [x + ux * (1 + LIFT), y + uy * (1 + LIFT)]}
    {@const low = [x - ux * LIFT, y - uy * LIFT]}
    {@const angle = (Math.atan2(-gap.along[1], gap.along[0]) * 180) / Math.PI}
    <g
      class="pointer-events-auto cursor-ew-resize outline-none"
      role="slider"
      tabindex="0"
      aria-label="Between {gap.words[0]} and {gap.words[1]}"
      aria-valuemin={LEAST}
      aria-valuemax={MOST}
      aria-valuenow={gap.by}
      aria-valuetext="{lengthText(gap.bare, session.style, 2)} bare, {gap.by} thousandths by hand"
      data-gap={n}
      onpointerdown={(e) => take(e, gap)}
      onpointermove={move}
      onpointerup={letGo}
      onkeydown={(e) => key(e, gap)}
    >
      <line x1={low[0]} y1={-low[1]!} x2={top[0]} y2={-top[1]!} stroke="transparent" stroke-width={14 * px} />
      <line
        x1={low[0]}
        y1={-low[1]!}
        x2={top[0]}
        y2={-top[1]!}
        stroke={gap.by ? 'var(--color-brass)' : 'var(--color-quiet)'}
        stroke-width={(gap.by ? 2 : 1) * px}
      />
      {#if shown[n]}<text
          x={top[0]}
          y={-top[1]!}
          dy={-4 * px}
          text-anchor="middle"
          font-size={11 * px}
          fill={gap.by ? 'var(--color-ink)' : 'var(--color-quiet)'}
          transform="rotate({angle} {top[0]} {-top[1]!})">{lengthText(gap.bare, session.style, 1)}</text
        >{/if}
    </g>
  {/each}
</svg>

<style>
  g:focus-visible line:last-of-type {
    stroke: var(--color-blue);
  }
</style>
