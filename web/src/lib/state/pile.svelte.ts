/** How the pile of films is looked at: pulled apart, from below, one film alone, as a hand lays it, warm, in a
 * headlight. Nothing of it is of the job. */
export type Look = 'day' | 'headlight';

export class Pile {
  /** 0: on each other; 1: pulled apart. */
  apart = $state(1);
  below = $state(false);
  /** The place in the pile of the one film that is shown; -1: all are. */
  alone = $state(-1);
  /** So many times as wrong as this hand lays them; 0: as they should lie. */
  times = $state(0);
  /** Which of the simulated lay-ups. */
  hand = $state(0);
  /** What is looked at of one film: its place in the pile, and where. */
  spot = $state.raw<{ layer: number; at: [number, number] } | null>(null);
  degrees = $state(20);
  look = $state<Look>('day');

  get mislaid() {
    return this.times > 0;
  }
  /** Is this one of so many films shown? A film that is gone is not shown alone. */
  shows(place: number, count: number): boolean {
    return this.alone < 0 || this.alone >= count || this.alone === place;
  }
  /** Another lay-up, at random. */
  another(count: number) {
    if (count < 2) return;
    const by = 1 + Math.floor(Math.random() * (count - 1));
    this.hand = (this.hand + by) % count;
    if (!this.times) this.times = 1;
  }
}

/** Where a lay-up puts one film: its shift (mm) and its turn (deg) about the middle, so many times as wrong. */
export function moveOf(layUps: number[][], hand: number, layer: number, times: number): [number, number, number] {
  const one = layUps[Math.min(hand, layUps.length - 1)] ?? [];
  const [x, y, turn] = [one[3 * layer] ?? 0, one[3 * layer + 1] ?? 0, one[3 * layer + 2] ?? 0];
  return [x * times, y * times, turn * times];
}
