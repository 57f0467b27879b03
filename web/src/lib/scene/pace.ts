/** How large and how often the object is painted: what this machine manages, by the time its frames take. */
const AIM_MS = 45;
/** While the hand moves, painting the object takes no more than this share of the time, where it is not cheap. */
const SHARE = 0.06;
/** Where one frame takes longer than this, the object waits until the hand rests. */
const TOO_DEAR_MS = 60;
/** A frame that takes less than this is painted with every move. */
const CHEAP_MS = 8;
const COARSEST = 0.35;

export class Pace {
  /** What a frame at full size takes, ms; 0 until one was measured. */
  private cost = 0;
  private last = 0;

  /** A frame painted at a size (1: full) took so long. */
  took(ms: number, size: number) {
    const whole = ms / Math.max(size * size, 0.05);
    this.cost = this.cost ? 0.6 * this.cost + 0.4 * whole : whole;
  }

  /** At which size to paint while something moves, so that a frame takes about as long as it should. */
  get size(): number {
    if (this.cost <= AIM_MS) return 1;
    return Math.max(COARSEST, Math.sqrt(AIM_MS / this.cost));
  }

  /** May the object follow the hand now? */
  follows(now: number): boolean {
    const dear = this.cost * this.size * this.size;
    if (dear > TOO_DEAR_MS || (dear > CHEAP_MS && now - this.last < dear / SHARE)) return false;
    this.last = now;
    return true;
  }
}
