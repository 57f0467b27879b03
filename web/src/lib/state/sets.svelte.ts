/** Sets that the hand moves and turns on their film: what lies on a load stays where it is, but for the one it holds. */
import type { Schemas } from '../api/client';
import type { JobState } from './job.svelte';
import { put } from './paths';

export type Patch = Schemas['PatchView'];
type Place = Schemas['HandPlace'];

/** A turn in degrees, from -180 to 180. */
const within = (deg: number) => ((((deg + 180) % 360) + 360) % 360) - 180;

export class SetsByHand {
  /** The set that is in the hand: its film, and which of that film's it is. */
  chosen = $state.raw<{ film: string; index: number } | null>(null);

  constructor(private readonly job: JobState) {}

  private get places(): Place[] {
    return (this.job.value('sheets.by_hand') ?? []) as Place[];
  }

  /** The path of the chosen set's place, where it has one. */
  get path(): string {
    const { chosen } = this;
    const of = this.places.map((p, n) => (p.film === chosen?.film ? n : -1)).filter((n) => n >= 0);
    const n = chosen ? of[chosen.index] : undefined;
    return n === undefined ? '' : `sheets.by_hand.${n}`;
  }

  /** The places by hand with every set of a patch in its own: the chosen one's moved and turned. */
  private moved(patch: Patch, index: number, to: Partial<Place>): Place[] {
    const others = this.places.filter((p) => p.film !== patch.name);
    const mine = patch.items.map((i, n) => ({
      film: patch.name,
      x_mm: i.x,
      y_mm: i.y,
      turn_deg: within(i.turn),
      ...(n === index ? to : {}),
    }));
    // The one in the hand first: it keeps its place where another would have to give way.
    return [...others, mine[index]!, ...mine.filter((_, n) => n !== index)];
  }

  /** See a set of a patch where the hand holds it. */
  hold(patch: Patch, index: number, to: Partial<Place>) {
    this.job.hold(put(this.job.document!, 'sheets.by_hand', this.moved(patch, index, to)));
  }

  /** Leave it there. */
  place(patch: Patch, index: number, to: Partial<Place>) {
    this.chosen = { film: patch.name, index: 0 };
    this.job.set('sheets.by_hand', this.moved(patch, index, to));
  }

  /** Let all others of its film lie round it by themselves. */
  keepOnly() {
    const { chosen } = this;
    const mine = this.places.filter((p) => p.film === chosen?.film)[chosen?.index ?? 0];
    this.job.set('sheets.by_hand', [...this.places.filter((p) => p.film !== chosen?.film), ...(mine ? [mine] : [])]);
    this.chosen = mine ? { film: mine.film, index: 0 } : null;
  }

  /** Let the sets of a film lie by themselves again. */
  release(film: string) {
    this.chosen = null;
    this.job.set(
      'sheets.by_hand',
      this.places.filter((p) => p.film !== film),
    );
  }
}
