/** Pieces on the drawing: found by a place or a frame, and where their balloons stand. */
import type { Bill } from '../state/bill';
import type { PieceWork } from '../state/pieces.svelte';
import type { Scene } from '../state/scene';
import type { Bounds, Point } from './paper';

type Paints = Scene['paints'][number];
type Found = { name: string; rings: number[][]; box: Bounds };

/** A piece as it was cut and copied round, by the name its element knows it by. */
export function known(name: string, names: ReadonlySet<string>): string {
  let at = name.replace(/#\d+/, '');
  while (!names.has(at) && /:\d+$/.test(at)) at = at.replace(/:\d+$/, '');
  return at;
}

function boxOf(ring: number[]): Bounds {
  let [l, b, r, t] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let i = 0; i + 1 < ring.length; i += 2) {
    l = Math.min(l, ring[i]!);
    r = Math.max(r, ring[i]!);
    b = Math.min(b, ring[i + 1]!);
    t = Math.max(t, ring[i + 1]!);
  }
  return [l, b, r, t];
}

/** Is a place inside an odd number of the rings? */
function inside([x, y]: Point, rings: number[][]): boolean {
  let odd = false;
  for (const ring of rings)
    for (let i = 0, j = ring.length - 2; i < ring.length; j = i, i += 2) {
      const [x0, y0, x1, y1] = [ring[i]!, ring[i + 1]!, ring[j]!, ring[j + 1]!];
      if (y0 > y !== y1 > y && x < ((x1 - x0) * (y - y0)) / (y1 - y0) + x0) odd = !odd;
    }
  return odd;
}

/** The pieces of one drawing where they lie on the sheet (`moved`: by how much their rings are moved there). */
export class PiecesThere {
  private readonly all: Found[];
  constructor(
    paints: Paints,
    names: string[],
    private readonly moved: Point = [0, 0],
  ) {
    const there = new Set(names);
    this.all = paints.flatMap((p) => {
      const out: Found[] = p.names.map((n) => ({
        name: known(n, there),
        rings: [],
        box: [Infinity, Infinity, -Infinity, -Infinity],
      }));
      p.rings.forEach((ring, k) => {
        const piece = out[p.of[k]!]!;
        const [l, b, r, t] = boxOf(ring);
        piece.rings.push(ring);
        piece.box = [
          Math.min(piece.box[0], l),
          Math.min(piece.box[1], b),
          Math.max(piece.box[2], r),
          Math.max(piece.box[3], t),
        ];
      });
      return out.filter((piece) => piece.rings.length);
    });
  }

  /** The piece at a place; of small ones also the nearest within `near` mm. */
  at(p: Point, near: number): string | null {
    const [x, y] = [p[0] - this.moved[0], p[1] - this.moved[1]];
    let best: { name: string; away: number } | null = null;
    for (const { name, rings, box } of this.all) {
      const away = Math.max(box[0] - x, x - box[2], box[1] - y, y - box[3]);
      if (away > near) continue;
      if (away <= 0 && inside([x, y], rings)) return name;
      const tiny = Math.max(box[2] - box[0], box[3] - box[1]) < 4 * near;
      if (tiny && (!best || away < best.away)) best = { name, away };
    }
    return best?.name ?? null;
  }

  /** The pieces that lie whole in a frame. */
  within([l, b, r, t]: Bounds): string[] {
    const [dx, dy] = this.moved;
    const found = this.all.filter(
      ({ box }) => box[0] + dx >= l && box[1] + dy >= b && box[2] + dx <= r && box[3] + dy <= t,
    );
    return [...new Set(found.map((f) => f.name))];
  }

  /** The rings of some pieces, as they are sent. */
  rings(has: (name: string) => boolean): number[][] {
    return this.all.flatMap((f) => (has(f.name) ? f.rings : []));
  }

  /** For each line of the bill where its balloon points: the middle of its piece furthest to the right. */
  ends(bill: Bill): (Point | null)[] {
    const line = new Map<string, number>();
    bill.lines.forEach((l, k) => l.pieces.forEach((n) => line.set(bill.names[n]!, k)));
    const out: (Point | null)[] = bill.lines.map(() => null);
    for (const { name, box, rings } of this.all) {
      const k = line.get(name);
      if (k === undefined) continue;
      const ring = rings[0]!;
      const middle: Point = [(box[0] + box[2]) / 2, (box[1] + box[3]) / 2];
      // A ring's middle is empty: its balloon points at its edge.
      const p: Point = inside(middle, rings) ? middle : [ring[0]!, ring[1]!];
      const at: Point = [p[0] + this.moved[0], p[1] + this.moved[1]];
      if (!out[k] || at[0] > out[k][0]) out[k] = at;
    }
    return out;
  }
}

/** Heights of balloons beside the drawing: each as near to its end as the next leaves room, in order. */
export function apart(ends: number[], gap: number, low: number, high: number): number[] {
  const order = ends.map((_, k) => k).toSorted((a, b) => ends[a]! - ends[b]!);
  const out = [...ends];
  let last = low - gap;
  for (const k of order) last = out[k] = Math.max(ends[k]!, last + gap);
  let next = high + gap;
  for (const k of order.toReversed()) next = out[k] = Math.min(out[k]!, next - gap);
  return out;
}

/** A key while pieces are worked on: from piece to piece, those picked moved or taken out. */
export function pieceKey(e: KeyboardEvent, work: PieceWork) {
  const step = e.shiftKey ? 5 : 0.5;
  const keys: Record<string, () => void> = {
    ArrowLeft: () => work.move(-step, 0),
    ArrowRight: () => work.move(step, 0),
    ArrowUp: () => work.move(0, step),
    ArrowDown: () => work.move(0, -step),
    Delete: () => work.do({ kind: 'leave_out' }),
    Backspace: () => work.do({ kind: 'leave_out' }),
    Escape: () => (work.parting ? (work.parting = false) : work.pick([])),
    n: () => work.step(1),
    p: () => work.step(-1),
    a: () => work.all(),
  };
  const go = e.ctrlKey || e.metaKey ? undefined : keys[e.key];
  if (!go) return;
  e.preventDefault();
  go();
}
