/** What the hand holds: told to whoever moves with it, without anything else being painted. */
import type { JobDocument, Placement } from '../api/client';
import { sizeOf } from './elements';
import { at } from './paths';
import type { Placed } from './scene';

/** The hand is at rest when it has not moved for so long. */
const REST_AFTER_MS = 120;

export type Held = { index: number; path: string; placement: Placement };
/** By how much a drawing is ahead of where it was last exact: on the template (mm, degrees), and on the surface. */
export type Ahead = { dx: number; dy: number; turn: number; scale: number; da: number; ds: number };
export const NOWHERE: Ahead = { dx: 0, dy: 0, turn: 0, scale: 1, da: 0, ds: 0 };

/** How far a placement is from another, as the core says its fields move it. */
export function aheadOf(d: Placed, was: Placement | undefined, now: Placement | undefined): Ahead {
  if (!was || !now) return NOWHERE;
  const by = (field: string) => {
    const [a, b] = [(now as Record<string, unknown>)[field], (was as Record<string, unknown>)[field]];
    return typeof a === 'number' && typeof b === 'number' ? a - b : 0;
  };
  const along = (move: Placed['across']) => {
    const delta = by(move.field);
    if (!move.turns || move.least === null || move.most === null) return delta;
    const whole = move.most - move.least;
    return delta - whole * Math.round(delta / whole);
  };
  const [a, s] = [along(d.across), along(d.up)];
  const width = typeof was.width_mm === 'number' ? was.width_mm : 1;
  return {
    dx: d.across.along[0] * a + d.up.along[0] * s,
    dy: d.across.along[1] * a + d.up.along[1] * s,
    turn: by('turn_deg'),
    scale: (width + by('width_mm')) / width,
    da: a * d.across.on_surface,
    ds: s * d.up.on_surface,
  };
}

/** The same for a drawing of a scene: where the hand holds it, or where the document has it now. */
export function aheadIn(d: Placed | undefined, scene: JobDocument, now: JobDocument | null, held: Held | null): Ahead {
  if (!d) return NOWHERE;
  const mine = held?.path === d.path ? held.placement : undefined;
  const was = at(scene, d.path) as Placement | undefined;
  const there = mine ?? (at(now, d.path) as Placement | undefined);
  const [before, after] = [sizeOf(scene, d), sizeOf(now, d)];
  if (before === null || after === null || !was || !there) return aheadOf(d, was, there);
  // What has a size of its own is as wide as it was drawn; its placement's width says nothing.
  const width_mm = mine ? Number(mine.width_mm) : (d.width * after) / before;
  return aheadOf(d, { ...was, width_mm: d.width }, { ...there, width_mm });
}

export class Hand {
  held: Held | null = null;
  /** Is it in the middle of a move? */
  moving = false;
  private followers = new Set<() => void>();
  private waiting: (() => void)[] = [];
  private timer: ReturnType<typeof setTimeout> | undefined;

  /** Hears of every move, until what it answers is called. */
  follow(hear: () => void): () => void {
    this.followers.add(hear);
    return () => this.followers.delete(hear);
  }

  /** It moves; `rested` is called once it rests there without being let go. */
  move(held: Held, rested?: () => void) {
    this.held = held;
    this.moving = true;
    this.wait(rested);
    this.tell();
  }

  letGo() {
    this.held = null;
    clearTimeout(this.timer);
    this.free();
    this.tell();
  }

  /** Moves are heard of with the next frame: a page that was held up hears of them late, and asks once more. */
  private wait(rested?: () => void) {
    clearTimeout(this.timer);
    const timer = setTimeout(() => {
      requestAnimationFrame(() => {
        if (this.timer !== timer || !this.held) return;
        this.free();
        rested?.();
      });
    }, REST_AFTER_MS);
    this.timer = timer;
  }

  private tell() {
    for (const hear of this.followers) hear();
  }
  private free() {
    this.moving = false;
    for (const go of this.waiting.splice(0)) go();
  }

  /** Waits until it rests, so that nothing is painted while it moves. */
  async rest(): Promise<void> {
    if (this.moving) await new Promise<void>((go) => this.waiting.push(go));
  }
}
