/** What the hand holds: told to whoever moves with it, without anything else being painted. */
import type { JobDocument, Placement } from '../api/client';
import { at } from './paths';
import type { Placed } from './scene';

/** The hand is at rest when it has not moved for so long. */
export const REST_AFTER_MS = 90;

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
  const there = held?.path === d.path ? held.placement : (at(now, d.path) as Placement | undefined);
  return aheadOf(d, at(scene, d.path) as Placement | undefined, there);
}

export class Hand {
  held: Held | null = null;
  private last = 0;
  private followers = new Set<() => void>();
  private waiting: (() => void)[] = [];
  private timer: ReturnType<typeof setTimeout> | undefined;

  /** Hears of every move, until what it answers is called. */
  follow(hear: () => void): () => void {
    this.followers.add(hear);
    return () => this.followers.delete(hear);
  }

  move(held: Held) {
    this.held = held;
    this.last = performance.now();
    this.tell();
  }

  letGo() {
    this.held = null;
    this.last = 0;
    this.free();
    this.tell();
  }

  private tell() {
    for (const hear of this.followers) hear();
  }
  private free() {
    for (const go of this.waiting.splice(0)) go();
  }

  /** Is it in the middle of a move? */
  get moving() {
    return this.held !== null && performance.now() - this.last < REST_AFTER_MS;
  }

  /** Waits until it rests, so that nothing is painted while it moves. */
  async rest(): Promise<void> {
    while (this.moving) {
      clearTimeout(this.timer);
      await new Promise<void>((go) => {
        this.waiting.push(go);
        this.timer = setTimeout(() => this.free(), REST_AFTER_MS);
      });
    }
  }
}
