/** The picture to work by in the hand: moved, a colour taken from it, a drawing or its pieces brought to it. */
import { client, take, wordsOf, type Placement } from '../api/client';
import type { JobState } from './job.svelte';

/** A place on the template, mm, and the one it belongs to. */
export type Pair = [[number, number], [number, number]];
const SAME_SIZE_PERCENT = 0.5;

export class PictureWork {
  /** Is it in the hand, and what for? */
  hand = $state<'' | 'move' | 'colour' | 'bring'>('');
  /** The colour taken from it last, and what it went to. */
  taken = $state('');
  takenFor = $state('');
  /** Where the first place that was brought came to lie: the next one turns about it. */
  anchor = $state.raw<[number, number] | null>(null);
  /** What is to be said of what was brought to it. */
  brought = $state('');

  constructor(private readonly job: JobState) {}

  /** A colour taken from it: for the pieces that are picked, or what has one colour of its own. */
  takeColour(colour: string) {
    const { job } = this;
    this.taken = colour;
    this.hand = '';
    const path = job.chosen?.path.split('.').slice(0, 2).join('.');
    const own = path && job.value(`${path}.source.colour`);
    if (job.pieces.on && job.pieces.chosen.length) {
      this.takenFor = 'given to the pieces picked';
      job.pieces.do({ kind: 'give', colour });
    } else if (own) {
      this.takenFor = `was ${own as string}`;
      job.set(`${path}.source.colour`, colour);
    } else this.takenFor = 'pick pieces, and it is given to them';
  }

  /** What is chosen, or the pieces picked of it, brought to it: one of its places to another, or two. */
  async bring(pairs: Pair[]) {
    this.brought = '';
    try {
      await this.brings(pairs);
    } catch (bad) {
      this.brought = wordsOf(bad);
    }
  }

  private async brings(pairs: Pair[]) {
    const { job } = this;
    if (!job.exact) await job.build();
    const pieces = job.pieces.on ? job.pieces.chosen : [];
    const by = await take(
      client.POST('/api/jobs/{job_id}/match', { params: job.params, body: { ...job.placementIn(), pairs, pieces } }),
    );
    if (by.sets) {
      job.place(job.chosen!.path, by.sets as Partial<Placement>);
      return;
    }
    const { across_mm, up_mm, turn_deg } = by;
    job.pieces.do({ kind: 'move', across_mm, up_mm, turn_deg, mirrored: false });
    const more = 100 * (by.larger - 1);
    if (Math.abs(more) > SAME_SIZE_PERCENT)
      this.brought = `On the picture they are ${Math.abs(more).toFixed(1)} % ${more > 0 ? 'larger' : 'smaller'}.`;
  }
}
