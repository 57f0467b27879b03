/** The hand on the artwork: what it takes hold of, and what its moves and keys make of a placement. */
import type { Placement } from '../api/client';
import { aheadIn, NOWHERE, type Ahead } from '../state/hand';
import type { JobState } from '../state/job.svelte';
import { placed } from '../state/elements';
import { at } from '../state/paths';
import type { Placed } from '../state/scene';
import { session } from '../state/session.svelte';
import { length } from '../units';
import type { Point } from './paper';
import type { View } from './view.svelte';

export type Grip = 'move' | 'size' | 'turn';
type Hold = { kind: Grip; d: Placed; from: Point; middle: Point; was: Placement };
const SIZE_STEP = 0.1;
const COARSE = 5;
const TURN_COARSE = 15;
/** So near (pixels) a drawing falls in with a line. */
const SNAP_PX = 6;

const round = (v: number, step: number) => Number((Math.round(v / step) * step).toFixed(3));

export class ArtworkHand {
  /** What is held, from the moment it is taken until it is let go. */
  hold = $state.raw<Hold | null>(null);
  /** What it fell in with on its way. */
  fallenIn = $state.raw<Placed['guides']>([]);
  constructor(
    private readonly job: JobState,
    readonly view: View,
  ) {}

  get placed(): Placed[] {
    return this.job.scene?.placed ?? [];
  }

  /** By how much a drawing is ahead of where it was last exact. */
  ahead(d: Placed | undefined): Ahead {
    const { scene, document } = this.job;
    return d && scene ? aheadIn(d, scene.document, document, this.job.hand.held) : NOWHERE;
  }

  private placement(path: string): Placement {
    const held = this.job.hand.held;
    if (held?.path === path) return held.placement;
    const there = at(this.job.document, path) as Placement;
    const d = this.placed.find((p) => p.path === path);
    const width = d?.sized_by.length || (there.once_round_mm ?? null) !== null ? d?.width : undefined;
    return width === undefined ? there : { ...there, width_mm: width };
  }

  take(index: number, kind: Grip, from: Point) {
    const d = this.placed[index];
    if (!d) return;
    this.job.selected = index;
    const { dx, dy } = this.ahead(d);
    this.hold = { kind, d, from, middle: [d.centre[0] + dx, d.centre[1] + dy], was: this.placement(d.path) };
  }

  /** The pointer is at a place of the drawing now. */
  move(to: Point, coarse: boolean, free = false) {
    if (!this.hold) return;
    this.fallenIn = [];
    const moved = this.moved(this.hold, to, coarse);
    const placement = this.hold.kind === 'move' && !coarse && !free ? this.snapped(this.hold.d, moved) : moved;
    // What the hand holds is asked for where it rests, and only the newest.
    this.job.hand.move({ index: this.job.selected, path: this.hold.d.path, placement }, () => this.build());
  }

  private build() {
    const held = this.job.hand.held;
    if (held && this.job.document) this.job.hold(placed(this.job.document, this.placed, held.path, held.placement));
  }

  letGo() {
    const held = this.job.hand.held;
    this.hold = null;
    this.fallenIn = [];
    if (held) this.job.place(held.path, held.placement);
    else this.job.drop();
    this.job.hand.letGo();
  }

  private moved(hold: Hold, to: Point, coarse: boolean): Placement {
    const { kind, was, from, middle } = hold;
    if (kind === 'move') return this.pulled(hold, [to[0] - from[0], to[1] - from[1]], coarse);
    const arm = (p: Point): Point => [p[0] - middle[0], p[1] - middle[1]];
    if (kind === 'size') {
      const factor = Math.hypot(...arm(to)) / Math.max(Math.hypot(...arm(from)), 1e-6);
      return { ...was, width_mm: Math.max(1, round((was.width_mm as number) * factor, SIZE_STEP)) };
    }
    const angle = (p: Point) => (Math.atan2(arm(p)[1], arm(p)[0]) * 180) / Math.PI;
    const turn = (was.turn_deg as number) + angle(to) - angle(from);
    return { ...was, turn_deg: round(((turn + 540) % 360) - 180, coarse ? TURN_COARSE : 0.1) };
  }

  /** Moved by that much on the template, in the fields the core names for it. */
  private pulled({ d, was }: Hold, by: Point, coarse: boolean): Placement {
    const [ax, ay] = d.across.along;
    const [ux, uy] = d.up.along;
    const det = ax * uy - ay * ux || 1;
    return this.stepped(d, was, (by[0] * uy - by[1] * ux) / det, (ax * by[1] - ay * by[0]) / det, coarse ? COARSE : 0);
  }

  private stepped(d: Placed, was: Placement, across: number, up: number, coarse = 0): Placement {
    const values = was as Record<string, unknown>;
    const { field, step, turns, least, most } = d.across;
    let a = round(Number(values[field] ?? 0) + across, coarse || step);
    if (turns && least !== null && most !== null) {
      const whole = most - least;
      a = round(((((a - least) % whole) + whole) % whole) + least, step);
    }
    const u = round(Number(values[d.up.field] ?? 0) + up, d.up.step);
    return { ...was, ...(!d.across.held && { [field]: a }), ...(!d.up.held && { [d.up.field]: u }) };
  }

  /** Fallen in with what is near: a face, the seam, an edge or the middle of what is free, another drawing. */
  private snapped(d: Placed, p: Placement): Placement {
    const out = { ...p } as Record<string, unknown>;
    for (const move of [d.across, d.up]) {
      if (move.held) continue;
      const now = Number(out[move.field] ?? 0);
      const whole = move.turns && move.least !== null && move.most !== null ? move.most - move.least : 0;
      let nearest = (SNAP_PX * this.view.px) / (Math.hypot(...(move.along as Point)) || 1);
      for (const g of d.guides) {
        if (g.field !== move.field) continue;
        const apart = g.value - now;
        const away = whole ? apart - whole * Math.round(apart / whole) : apart;
        if (Math.abs(away) >= nearest) continue;
        nearest = Math.abs(away);
        out[move.field] = Number((now + away).toFixed(3));
        this.fallenIn = [...this.fallenIn.filter((f) => f.field !== move.field), g];
      }
    }
    return out as Placement;
  }

  /** What the hand holds, in a few words. */
  get words(): string {
    const hold = this.hold;
    if (!hold) return '';
    const p = this.placement(hold.d.path) as unknown as Record<string, number>;
    if (hold.kind === 'size') return `${length(p.width_mm!, session.style)} wide`;
    if (hold.kind === 'turn') return `${p.turn_deg!.toFixed(1)}°`;
    const { field, unit } = hold.d.across;
    const across = unit === 'deg' ? `${p[field]!.toFixed(1)}°` : length(p[field]!, session.style);
    const where = `${across} · ${length(p[hold.d.up.field]!, session.style)} up`;
    return [where, ...this.fallenIn.map((g) => g.words)].join(' · ');
  }

  keydown(e: KeyboardEvent) {
    const d = this.placed[this.job.selected];
    if (!d) return;
    const was = this.placement(d.path);
    const step = e.shiftKey ? COARSE : 0.5;
    const per = step / (Math.hypot(...(d.across.along as Point)) || 1);
    const set = (placement: Placement) => this.job.place(d.path, placement);
    const turned = (by: number) => !d.stands && set({ ...was, turn_deg: Number(was.turn_deg) + by });
    const sized = (by: number) => set({ ...was, width_mm: Math.max(1, Number(was.width_mm) + by) });
    const keys: Record<string, () => void> = {
      ArrowLeft: () => (e.altKey ? turned(1) : set(this.stepped(d, was, -per, 0))),
      ArrowRight: () => (e.altKey ? turned(-1) : set(this.stepped(d, was, per, 0))),
      ArrowUp: () => set(this.stepped(d, was, 0, step)),
      ArrowDown: () => set(this.stepped(d, was, 0, -step)),
      '+': () => sized(step),
      '-': () => sized(-step),
      n: () => (this.job.selected = (this.job.selected + 1) % this.placed.length),
    };
    const go = keys[e.key];
    if (!go) return;
    e.preventDefault();
    go();
  }
}
