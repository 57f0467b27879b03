/** Building: the newest document at the server, one answer awaited at a time. */
import { ApiError, client, Offline, takeAs, type Fault, type JobDocument, type Schemas } from '../api/client';
import { KnownParts, laterJudged, NOT_JUDGED, type Scene } from './scene';
import { piecesOf, LINES } from '../api/lines';
import { session } from './session.svelte';
import { DOING, type Step } from './steps';

type Line =
  Schemas['Scene'] | Schemas['DoingView'] | Schemas['LaterView'] | Schemas['RemediesView'] | Schemas['RestedView'];

const RETRY_AFTER_MS = 3000;
/** So often what is left to look at is asked for again where it ended before its end. */
const MOST_TRIES = 5;
/** Computing that takes longer than this is said. */
export const SAY_AFTER_MS = 300;

export interface Built {
  /** What is to be built now, how many edits it is old, and whether the hand only holds it so. */
  wanted(): { document: JobDocument | null; step: Step; edits: number; held: boolean };
  /** The core read the document that was `edits` old: so it stands, if nobody went on since. */
  normalised(document: JobDocument, edits: number): void;
  /** The core could not read it; true where the rest of it is to be asked for. */
  misread(faults: Fault[], sent: JobDocument): boolean;
  /** It was built, but for what is wrong with it. */
  refused(faults: Fault[]): void;
  /** Waits until the hand rests: while it moves nothing else is painted. */
  quiet(): Promise<void>;
}

export class Building {
  scene = $state.raw<Scene | null>(null);
  /** What is said of each step, and which of them stand so for what is drawn. */
  judged = $state.raw(NOT_JUDGED);
  /** Is an answer on its way to what the hand did last? */
  working = $state(false);
  /** Has it been so for so long that it is said? */
  slow = $state(false);
  /** What it is doing, and how much of the way it has come. */
  doing = $state('');
  share = $state(0);
  /** Was the last one asked for not answered? */
  missed = false;

  private known = new KnownParts();
  private again = false;
  private run: Promise<void> | null = null;
  /** Drops the answer that is awaited to what the hand holds. */
  private awaited: AbortController | null = null;
  /** Drops what is still looked at of the last answer. */
  private lane: AbortController | null = null;
  private tries = 0;
  private triedAt = -1;
  /** Tells this page from others of the same member. */
  private readonly page = Math.random().toString(36).slice(2);
  private retry: ReturnType<typeof setTimeout> | undefined;

  constructor(
    private readonly id: number,
    private readonly of: Built,
  ) {}

  /** Build what is there now, and be done when it is shown. While one answer is awaited, only the newest document waits
   * behind it. */
  ask(): Promise<void> {
    if (this.run) this.again = true;
    else this.run = this.all().finally(() => (this.run = null));
    return this.run;
  }

  private async all() {
    this.working = true;
    const say = setTimeout(() => (this.slow = true), SAY_AFTER_MS);
    do {
      this.again = false;
      await this.once();
    } while (this.again);
    clearTimeout(say);
    this.slow = this.working = false;
  }

  /** The hand let go: where it held something on its way is not asked for any more. */
  overtake() {
    this.awaited?.abort();
  }

  /** Nothing is wanted any more: the page is left. */
  close() {
    clearTimeout(this.retry);
    this.lane?.abort();
    this.lane = null;
  }

  private async once() {
    await session.styled;
    const { document, step, edits, held } = this.of.wanted();
    // A step may be chosen before the job has come; it is built as soon as it has.
    if (!document) return;
    this.close();
    if (edits !== this.triedAt) [this.tries, this.triedAt] = [0, edits];
    const overtaken = new AbortController();
    this.awaited = held ? overtaken : null;
    this.doing = DOING[step];
    this.share = 0;
    try {
      const body = await takeAs<ReadableStream<Uint8Array>>(
        client.POST('/api/jobs/{job_id}/build', {
          params: { path: { job_id: this.id } },
          // What the hand holds is looked at further once it lets go.
          body: { document: document as never, step, have: this.known.digests, page: this.page, rest: !held },
          headers: { Accept: LINES },
          parseAs: 'stream',
          signal: overtaken.signal,
        }),
      );
      const lines = piecesOf<Line>(body);
      for (let next = await lines.next(); !next.done; next = await lines.next()) {
        const line = next.value;
        if ('doing' in line) {
          this.doing = DOING[line.doing as Step];
          this.share = line.share;
        }
        if (!('document' in line)) continue;
        await this.of.quiet();
        if (overtaken.signal.aborted) return;
        this.scene = this.known.scene(line, this.scene);
        this.judged = line.whole ? this.known.judged(line, this.judged) : { ...this.judged, told: [], remedies: [] };
        this.of.normalised(line.document as JobDocument, edits);
        if (!line.whole) continue;
        this.missed = false;
        this.of.refused(line.stopped ? [line.stopped.fault] : []);
        if (held) return;
        this.lane = overtaken;
        void this.hear(lines, overtaken.signal);
        return;
      }
      // It ended before all of it had come.
      this.later();
    } catch (bad) {
      if (overtaken.signal.aborted) return;
      if (bad instanceof ApiError) this.again = this.of.misread(bad.faults, document) || this.again;
      else if (bad instanceof Offline) this.later();
      else throw bad;
    }
  }

  /** What is looked at once the open step is shown: each line as it comes, until another answer is asked for. */
  private async hear(lines: AsyncGenerator<Line>, signal: AbortSignal) {
    let again = RETRY_AFTER_MS;
    let through = false;
    try {
      for await (const line of lines) {
        await this.of.quiet();
        if (signal.aborted) return;
        if ('again_after' in line) again = line.again_after * 1000;
        if ('remedies' in line) {
          this.judged = { ...this.judged, remedies: line.remedies };
          through = line.whole;
        }
        if (!('later' in line) || !this.scene) continue;
        this.scene = this.known.later(line, this.scene);
        this.judged = laterJudged(line, this.judged);
      }
    } catch {
      // The connection was lost in the middle of it: it is asked for again.
    }
    if (signal.aborted) return;
    if (!through && this.tries++ < MOST_TRIES) this.retry = setTimeout(() => void this.ask(), again);
  }

  /** No answer came: what the drawing shows is old until one does, and it is asked for again. */
  private later() {
    this.missed = true;
    clearTimeout(this.retry);
    this.retry = setTimeout(() => this.missed && void this.ask(), RETRY_AFTER_MS);
  }
}
