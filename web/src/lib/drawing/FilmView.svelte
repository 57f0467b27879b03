<script lang="ts">
  /** The film that loads are cut out of: each piece with its edge, its direction and what lies on it, as on a timber
   * cutter's sheet. */
  import type { Scene } from '../state/scene';
  import { session } from '../state/session.svelte';
  import { lengthText } from '../units';
  import Dimension from './Dimension.svelte';
  import Drawing from './Drawing.svelte';
  import Hatch from './Hatch.svelte';
  import { pathOf, type Bounds } from './paper';
  import { View } from './view.svelte';

  let { scene, load }: { scene: Scene; load: number } = $props();
  const view = new View();
  view.padding = [58, 54];
  const px = $derived(view.px);
  const s = $derived(scene.sheets!);
  const GAP = 60;
  const BEYOND = 60;
  /** Those this load is cut out of, side by side; of a roll as much as all loads take and a little more. */
  const pieces = $derived.by(() => {
    const mine = new Set(s.loads[load]?.taken.map((t) => t.piece));
    let x = 0;
    return s.pieces
      .filter((p) => mine.has(p.piece.id))
      .map((p) => {
        const on = s.loads.flatMap((l, n) => l.taken.filter((t) => t.piece === p.piece.id).map((t) => ({ t, n, l })));
        const top = Math.max(...on.map(({ t }) => t.box[3] as number));
        const long = p.piece.form === 'roll' ? Math.min(p.piece.length_mm, top + BEYOND) : p.piece.length_mm;
        const at = x;
        x += p.piece.width_mm + GAP;
        return { p, on, at, long, broken: long < p.piece.length_mm - 0.01 };
      });
  });
  const bounds = $derived<Bounds>([
    0,
    0,
    Math.max(...pieces.map((q) => q.at + q.p.piece.width_mm), 100),
    Math.max(...pieces.map((q) => q.long), 100),
  ]);
  const text = (mm: number) => lengthText(mm, session.style);
  const ring = (x: number, [l, b, r, t]: number[]) => [x + l!, b!, x + r!, b!, x + r!, t!, x + l!, t!];
  const turnsOf = (q: (typeof pieces)[number]) => q.on[0]?.l.patches[q.on[0].t.patch]?.directional;
</script>

<Drawing {view} {bounds} title="Film this load is cut out of, beginning below" label="Film of one load">
  <defs><Hatch id="hatch-film" {px} /></defs>
  {#each pieces as q (q.p.piece.id)}
    {@const w = q.p.piece.width_mm}
    {@const bare = q.p.piece.bare_edge_mm ?? 0}
    {#if q.p.rings.length && !q.broken && q.p.piece.form !== 'roll'}
      <path
        d={pathOf(q.p.rings.map((r) => r.map((v, i) => (i % 2 ? v : v + q.at))))}
        fill="var(--color-paper)"
        fill-rule="evenodd"
        stroke="var(--color-ink)"
        stroke-width={1.6 * px}
      />
    {:else}
      <path
        d="M{q.at} {-q.long}V0H{q.at + w}V{-q.long}"
        fill="var(--color-paper)"
        stroke="var(--color-ink)"
        stroke-width={1.6 * px}
      />
      <path
        d="M{q.at} {-q.long}l{w * 0.3} {-7 * px}l{w * 0.2} {14 * px}l{w * 0.2} {-14 * px}L{q.at + w} {-q.long}"
        fill="none"
        stroke="var(--color-ink)"
        stroke-width={1 * px}
      />
    {/if}
    {#if bare > 0}
      <path
        d={pathOf([ring(q.at, [0, 0, w, bare])])}
        fill="url(#hatch-film)"
        stroke="var(--color-edge)"
        stroke-width={0.8 * px}
      />
    {/if}
    {#each q.on as { t, n, l }, k (k)}
      {@const box = t.box as number[]}
      <path
        d={pathOf([ring(q.at, box)])}
        data-taken={n}
        fill={l.patches[t.patch]?.colour}
        fill-opacity={n === load ? 0.9 : 0.16}
        stroke={n === load ? 'var(--color-ink)' : 'var(--color-edge)'}
        stroke-width={(n === load ? 1.4 : 0.8) * px}
      />
      {#if (box[2]! - box[0]!) / px > 40 && (box[3]! - box[1]!) / px > 30}
        <rect
          x={q.at + (box[0]! + box[2]!) / 2 - 34 * px}
          y={-(box[1]! + box[3]!) / 2 - 11 * px}
          width={68 * px}
          height={22 * px}
          fill="var(--color-sheet)"
          stroke="var(--color-edge)"
          stroke-width={0.6 * px}
        />
        <text
          x={q.at + (box[0]! + box[2]!) / 2}
          y={-(box[1]! + box[3]!) / 2 + 5 * px}
          font-size={13 * px}
          text-anchor="middle"
          class="narrow">load {n + 1}{l.times > 1 ? `, ${t.copy_of + 1}.` : ''}</text
        >
      {/if}
    {/each}
    {#if turnsOf(q)}
      {@const x = q.at + w - 9 * px}
      <path
        d="M{x} {-8 * px}V{-42 * px}M{x - 4 * px} {-35 * px}L{x} {-42 * px}L{x + 4 * px} {-35 * px}"
        fill="none"
        stroke="var(--color-quiet)"
        stroke-width={1.4 * px}
      />
    {/if}
    <Dimension {px} from={[q.at, -22 * px]} to={[q.at + w, -22 * px]} text={text(w)} />
    {#if !q.broken}
      <Dimension {px} from={[q.at - 18 * px, 0]} to={[q.at - 18 * px, q.long]} text={text(q.long)} />
    {:else}
      {@const used = Math.max(...q.on.map(({ t }) => t.box[3] as number))}
      <Dimension {px} from={[q.at - 18 * px, 0]} to={[q.at - 18 * px, used]} text={text(used)} />
    {/if}
  {/each}
</Drawing>
