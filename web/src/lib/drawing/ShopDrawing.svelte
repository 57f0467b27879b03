<script lang="ts">
  /** The dimensioned drawing of a blank as the core lays it out: strokes, dimension lines tied to their fields, marks. */
  import type { Scene } from '../state/scene';
  import type { JobState } from '../state/job.svelte';
  import CornerHandles from './CornerHandles.svelte';
  import Dimension from './Dimension.svelte';
  import Drawing from './Drawing.svelte';
  import { focusField, isLit } from './fields';
  import Hatch from './Hatch.svelte';
  import { line, pathOf, turned, type Point } from './paper';
  import { View } from './view.svelte';

  let { job, scene }: { job: JobState; scene: Scene } = $props();
  const view = new View();
  const s = $derived(scene.sketch!);
  const px = $derived(view.px);
  const along = $derived(scene.template?.along ?? []);
  const leaders = $derived(s.dimensions.filter((d) => d.leader));
  const longest = $derived(Math.max(0, ...leaders.map((d) => d.text.length)));
  $effect(() => {
    view.padding = [leaders.length ? Math.min(60 + longest * 5.1, 220) : 96, 74];
  });
  const STEP = 40;
  const out = (d: (typeof s.dimensions)[number], p: Point): Point => [
    p[0] + d.out[0] * d.row * STEP * px,
    p[1] + d.out[1] * d.row * STEP * px,
  ];
  const bad = (field: string) =>
    !!field &&
    job.judged.verdicts.some((v) => v.level !== 'ok' && (v.field === field || v.field.startsWith(`${field}.`)));

  /** Where figures beside the drawing stand: in order of height, never closer than a line of text. */
  const beside = $derived.by(() => {
    const placed: { d: (typeof s.dimensions)[number]; y: number; x: number; sign: number }[] = [];
    for (const side of ['left', 'right'] as const) {
      const mine = leaders.filter((d) => d.leader === side).sort((a, b) => a.start[1] - b.start[1]);
      const gap = 19 * px;
      let last = -Infinity;
      const ys = mine.map((d) => (last = Math.max(d.start[1], last + gap)));
      const over = ys.length ? Math.max(0, ys[ys.length - 1]! - (s.reach[3] + 30 * px)) : 0;
      mine.forEach((d, i) => {
        const sign = side === 'left' ? -1 : 1;
        const edge = side === 'left' ? s.reach[0] : s.reach[2];
        placed.push({ d, y: ys[i]! - over, x: edge + sign * 26 * px, sign });
      });
    }
    return placed;
  });
  const STYLE: Record<string, { stroke: string; width: number; dash?: number[] }> = {
    body: { stroke: 'var(--color-ink)', width: 1.8 },
    edge: { stroke: 'var(--color-edge)', width: 1.4 },
    fine: { stroke: 'var(--color-hairline)', width: 1 },
    centre: { stroke: 'var(--color-quiet)', width: 0.8, dash: [14, 4, 3, 4] },
    free: { stroke: 'var(--color-blue)', width: 0.9, dash: [5, 4] },
    zone: { stroke: 'var(--color-quiet)', width: 0.7 },
    section: { stroke: 'var(--color-blue)', width: 1.3 },
    found: { stroke: 'var(--color-brass)', width: 1.4, dash: [7, 3] },
    level: { stroke: 'var(--color-blue)', width: 1.2, dash: [2, 3] },
  };
</script>

<Drawing {view} bounds={s.reach} title={s.title} label="{s.title} with its dimensions">
  <defs><Hatch id="hatch-shop" {px} /></defs>
  {#each s.strokes.filter((x) => x.kind === 'body') as stroke, i (i)}
    <path d={pathOf(stroke.lines)} fill="var(--color-sheet)" fill-rule="evenodd" />
  {/each}
  {#each s.strokes as stroke, i (i)}
    {@const look = STYLE[stroke.kind]!}
    <path
      d={pathOf(stroke.lines, stroke.closed)}
      fill={stroke.kind === 'zone' ? 'url(#hatch-shop)' : stroke.kind === 'free' ? 'var(--color-wash)' : 'none'}
      fill-opacity={stroke.kind === 'free' ? 0.6 : 1}
      fill-rule="evenodd"
      stroke={look.stroke}
      stroke-width={look.width * px}
      stroke-dasharray={look.dash?.map((n) => n * px).join(' ')}
      stroke-linejoin="round"
    />
  {/each}
  {#each s.dimensions.filter((d) => !d.leader) as d, i (i)}
    {@const a = out(d, d.start)}
    {@const b = out(d, d.end)}
    {#if d.row}
      <path d={line(d.start, a) + line(d.end, b)} stroke="var(--color-hairline)" stroke-width={0.8 * px} />
    {/if}
    <Dimension {px} {job} field={d.field} from={a} to={b} text={d.text} bad={bad(d.field)} />
  {/each}
  {#each beside as { d, x, y, sign }, i (i)}
    {@const lit = isLit(job, d.field)}
    {@const colour = bad(d.field) ? 'var(--color-look-ink)' : lit ? 'var(--color-blue)' : 'var(--color-ink)'}
    <path
      d={line(d.start, [x - sign * 8 * px, y], [x, y])}
      fill="none"
      stroke={lit ? 'var(--color-blue)' : 'var(--color-quiet)'}
      stroke-width={(lit ? 1.5 : 0.7) * px}
    />
    {#if lit && d.end[0] !== 0}
      <path d={line(d.start, d.end)} stroke="var(--color-blue)" stroke-width={1.6 * px} />
    {/if}
    <!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_static_element_interactions -->
    <text
      x={x + sign * 4 * px}
      y={-y}
      font-size={13.5 * px}
      text-anchor={sign < 0 ? 'end' : 'start'}
      dominant-baseline="central"
      class="narrow {d.field ? 'cursor-pointer' : ''}"
      font-weight={lit ? 650 : 500}
      fill={colour}
      onclick={() => focusField(d.field)}
      onpointerdown={(e) => d.field && e.stopPropagation()}>{d.text}</text
    >
  {/each}
  {#each s.marks as mark (mark.field)}
    {@const lit = isLit(job, mark.field)}
    {@const p = turned(mark.at)}
    <!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_static_element_interactions -->
    <g class="cursor-pointer" onclick={() => focusField(mark.field)} onpointerdown={(e) => e.stopPropagation()}>
      <circle
        cx={p[0]}
        cy={p[1]}
        r={(lit ? 5 : 3) * px}
        fill={bad(mark.field) ? 'var(--color-look)' : 'var(--color-blue)'}
      />
      <text
        x={p[0] + 6 * px}
        y={p[1] - 7 * px}
        font-size={13.5 * px}
        class="narrow"
        font-weight={lit ? 650 : 500}
        fill={bad(mark.field) ? 'var(--color-look-ink)' : lit ? 'var(--color-blue)' : 'var(--color-ink)'}
        paint-order="stroke"
        stroke="var(--color-sheet)"
        stroke-width={3 * px}>{mark.text}</text
      >
    </g>
  {/each}
  {#if !scene.measure.closed}
    <CornerHandles {job} {view} />
  {/if}
  {#if along.length}
    {@const widest = Math.max(...along.map((p) => Math.abs(p.strain)), 0.01)}
    {@const wide = (s.reach[2] - s.reach[0]) * 0.16}
    <path
      d={pathOf([along.flatMap((p) => [(p.strain / widest) * wide, p.up])], false)}
      fill="none"
      stroke="var(--color-stop)"
      stroke-width={1.5 * px}
    />
    <text
      x={s.reach[0]}
      y={-s.reach[3] - 34 * px}
      font-size={13 * px}
      class="narrow"
      fill="var(--color-stop)"
      paint-order="stroke"
      stroke="var(--color-sheet)"
      stroke-width={3 * px}>strain: right stretches, left shortens; {widest.toFixed(1)} % at most</text
    >
  {/if}
  {#if s.note}
    <text x={s.reach[0]} y={-s.reach[3] - 30 * px} font-size={13 * px} class="narrow" fill="var(--color-quiet)"
      >{s.note}</text
    >
  {/if}
</Drawing>
