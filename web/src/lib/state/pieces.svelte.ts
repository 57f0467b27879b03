/** Piece work: which pieces of the chosen element the hand has picked, and what is done to them as edits. */
import { client, take, wordsOf } from '../api/client';
import * as wish from './bill';
import { setOf, type Bill, type Names } from './bill';
import type { Element } from './elements';
import type { JobState } from './job.svelte';

export type { Bill };
export type Edit = NonNullable<Element['edits']>[number];
type Kind = Edit['kind'];
/** What an edit of a kind is begun with; the core knows the rest. */
type Begun = { kind: Kind } & Record<string, unknown>;
const NONE: Names = setOf([]);
/** Edits that take all pieces where none is picked. */
const OF_ALL: Kind[] = ['outline', 'shadow', 'background', 'bridges'];

export class PieceWork {
  /** Does the hand take pieces, rather than the whole drawing? */
  on = $state(false);
  /** Does the next drag part those picked along it? */
  parting = $state(false);
  /** What could not be done, in words. */
  trouble = $state('');
  private picked = $state.raw<Names>(NONE);

  constructor(private readonly job: JobState) {}

  private get path(): string {
    return (this.job.chosen?.path ?? '').split('.').slice(0, 2).join('.');
  }
  get editsPath(): string {
    return `${this.path}.edits`;
  }
  get edits(): Edit[] {
    return (this.path && (this.job.value(this.editsPath) as Edit[] | undefined)) || [];
  }
  get bill(): Bill | null {
    const element = this.job.value(this.path) as Element | undefined;
    return this.job.scene?.bill?.find((b) => b.element === element?.id) ?? null;
  }
  /** Those picked that are there. */
  get chosen(): string[] {
    const { bill } = this;
    if (!bill || !this.picked.size) return [];
    return bill.names.filter((n) => this.picked.has(n));
  }
  has(name: string): boolean {
    return this.picked.has(name);
  }

  /** Pick these and what goes with them, with those there are or instead of them; all of them picked already, with:
   * they are let go. */
  pick(names: string[], withOthers = false) {
    const all = this.bill ? wish.withTheirGroups(this.bill, names) : names;
    this.picked = wish.picking(this.picked, all, withOthers);
  }

  /** Pick what a wish makes of those picked. */
  private as(names: (bill: Bill, picked: Names) => string[]) {
    if (this.bill) this.pick(names(this.bill, this.picked));
  }
  readonly all = () => this.as((bill) => bill.names);
  readonly alike = () => this.as(wish.shapedAlike);
  readonly ofTheirColour = () => this.as(wish.ofTheirColour);
  readonly within = () => this.as(wish.withinThem);
  readonly upTo = (most: number, of: 'longest' | 'area') => this.as((bill) => wish.upTo(bill, most, of));
  /** The next in the bill, or the one before: for keys. */
  readonly step = (by: number) => this.as((bill, picked) => wish.nextTo(bill, picked, by));

  private put(edits: Edit[]) {
    this.job.set(this.editsPath, edits);
  }

  /** Do something to those picked: one edit more, or the last one carried on. */
  do(begun: Begun) {
    const pieces = this.chosen;
    if (!pieces.length && !OF_ALL.includes(begun.kind)) return;
    const { edits } = this;
    const last = edits[edits.length - 1] as (Edit & Record<string, unknown>) | undefined;
    const edit = { ...begun, pieces } as unknown as Edit & Record<string, unknown>;
    const same = last?.kind === edit.kind;
    const alikeIn = (field: string) => JSON.stringify(last?.[field]) === JSON.stringify(edit[field]);
    if (same && (edit.kind === 'leave_out' || (edit.kind === 'give' && alikeIn('colour')))) {
      edit.pieces = wish.together(last!.pieces!, pieces);
      this.put([...edits.slice(0, -1), edit]);
    } else if (same && edit.kind === 'move' && alikeIn('pieces') && !edit.mirrored && !last!.mirrored) {
      for (const f of ['across_mm', 'up_mm', 'turn_deg'])
        edit[f] = Number((Number(last![f] ?? 0) + Number(edit[f] ?? 0)).toFixed(4));
      this.put([...edits.slice(0, -1), edit]);
    } else this.put([...edits, edit]);
    if (edit.kind === 'leave_out') this.picked = NONE;
  }

  /** Moved by mm on the blank. */
  move(across: number, up: number) {
    const scale = this.bill?.scale ?? 1;
    this.do({ kind: 'move', across_mm: across / scale, up_mm: up / scale, turn_deg: 0, mirrored: false });
  }

  /** Parted by a line through the middle of those picked. */
  divide(upright: boolean) {
    const start = this.bill && wish.middleOf(this.bill, this.picked);
    if (!start) return;
    this.do({ kind: 'divide', start, end: upright ? [start[0], start[1] + 1] : [start[0] + 1, start[1]], gap_mm: 0.3 });
  }

  /** Parted along a line between two places of the template: all that are picked, or all of it. */
  async divideAlong(places: [number, number][]) {
    this.parting = false;
    this.trouble = '';
    const { bill } = this;
    if (!bill) return;
    if (!this.chosen.length) this.pick(bill.names);
    try {
      const [start, end] = await take(
        client.POST('/api/jobs/{job_id}/places', {
          params: this.job.params,
          body: { ...this.job.placementIn(), places },
        }),
      );
      this.do({ kind: 'divide', start, end, gap_mm: 0.3 });
    } catch (bad) {
      this.trouble = wordsOf(bad);
    }
  }

  /** The rest of the drawing loses the shape of those picked. */
  cutOut() {
    const rest = this.bill?.names.filter((n) => !this.picked.has(n)) ?? [];
    if (rest.length) this.do({ kind: 'cut_out', of: rest, gap_mm: 0, stay: true });
  }

  /** Pieces that were left out are there again. */
  putBack(names: string[]) {
    const back = setOf(names);
    const edits = this.edits.flatMap((e): Edit[] => {
      if (e.kind !== 'leave_out') return [e];
      const pieces = e.pieces.filter((n) => !back.has(n));
      return pieces.length ? [{ ...e, pieces }] : [];
    });
    this.put(edits);
  }

  takeBack(n: number) {
    this.put(this.edits.filter((_, k) => k !== n));
  }
}
