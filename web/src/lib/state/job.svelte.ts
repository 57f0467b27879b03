/**
 * An open job: the document as typed, the last exact scene, and how both stay in step with the server.
 *
 * Every change is built at once (the newest request wins) and saved a moment later. What was typed stays, whether
 * it can be built or not; what is not saved yet is also kept in this browser until it is.
 */
import {
  ApiError,
  client,
  Offline,
  take,
  takeAs,
  type Fault,
  type JobDocument,
  type Scene,
  type Schemas,
} from '../api/client';
import { at, put } from './paths';

export const STEPS = ['measure', 'unwrap', 'artwork', 'layers', 'sheets', 'layup', 'price'] as const;
export type Step = (typeof STEPS)[number];
export const STEP_NAMES: Record<Step, string> = {
  measure: 'Measure',
  unwrap: 'Unwrap',
  artwork: 'Artwork',
  layers: 'Layers',
  sheets: 'Sheets',
  layup: 'Lay-up',
  price: 'Price',
};
export type SaveState = 'saved' | 'changed' | 'saving' | 'offline' | 'unsaved';

const SAVE_AFTER_MS = 600;
const RETRY_AFTER_MS = 3000;

type Kept = { revision: number; document: JobDocument };

export class JobState {
  document = $state.raw<JobDocument | null>(null);
  scene = $state.raw<Scene | null>(null);
  step = $state<Step>('measure');
  faults = $state.raw<Fault[]>([]);
  save = $state<SaveState>('saved');
  stale = $state<number | null>(null);
  canUndo = $state(false);
  canRedo = $state(false);
  focused = $state('');
  shown = $state('');
  selected = $state(0);
  /** Is the photograph shown in place of the drawing? */
  photo = $state(false);
  revision = 0;

  /** Is an answer on its way to what the hand did last? */
  working = $state(false);

  private edits = 0;
  private building = false;
  private buildAgain = false;
  private buildMissed = false;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private rebuild: ReturnType<typeof setTimeout> | undefined;
  private saving: Promise<void> | null = null;

  constructor(readonly id: number) {}

  private get key() {
    return `wimple.unsaved.${this.id}`;
  }

  async open(step: Step) {
    this.step = step;
    const job = await takeAs<Schemas['JobOut']>(
      client.GET('/api/jobs/{job_id}', { params: { path: { job_id: this.id } } }),
    );
    this.take(job);
    const kept = this.kept();
    if (kept) {
      this.document = kept.document;
      this.edits++;
      if (kept.revision === job.revision) this.changed();
      else this.stale = job.revision;
    }
    await this.build();
  }

  private kept(): Kept | null {
    try {
      return JSON.parse(localStorage.getItem(this.key) ?? 'null') as Kept | null;
    } catch {
      return null;
    }
  }

  private take(job: { revision: number; document: JobDocument; can_undo: boolean; can_redo: boolean }) {
    this.revision = job.revision;
    this.document = job.document;
    this.canUndo = job.can_undo;
    this.canRedo = job.can_redo;
  }

  goTo(step: Step) {
    if (this.step === step) return;
    this.step = step;
    this.shown = '';
    void this.build();
  }

  value(path: string): unknown {
    return at(this.document, path);
  }

  fault(path: string): Fault | undefined {
    return this.faults.find((f) => f.field === path);
  }

  /** A drawing that was taken in joins those there are now, where the core says it goes first. */
  addDrawing(added: Schemas['DrawingOut']) {
    const drawings = this.document?.drawings ?? [];
    this.selected = drawings.length;
    this.set('drawings', [...drawings, { file: added.file, placement: added.placement }]);
  }

  set(path: string, value: unknown) {
    if (!this.document) return;
    this.change(put(this.document, path, value));
  }

  change(document: JobDocument) {
    this.document = document;
    this.edits++;
    this.changed();
    void this.build();
  }

  private changed() {
    this.save = 'changed';
    try {
      localStorage.setItem(this.key, JSON.stringify({ revision: this.revision, document: this.document }));
    } catch {
      // A full or forbidden store: the server still gets every change.
    }
    this.later(SAVE_AFTER_MS);
  }

  private later(ms: number) {
    clearTimeout(this.timer);
    this.timer = setTimeout(() => void this.store(), ms);
  }

  /** Build what is there now. While one answer is awaited, only the newest document waits behind it. */
  async build() {
    if (this.building) {
      this.buildAgain = true;
      return;
    }
    this.building = true;
    this.working = true;
    do {
      this.buildAgain = false;
      const edits = this.edits;
      try {
        const scene = (await take(
          client.POST('/api/jobs/{job_id}/build', {
            params: { path: { job_id: this.id } },
            body: { document: this.document as never, step: this.step },
          }),
        )) as Scene;
        this.scene = scene;
        this.buildMissed = false;
        this.faults = scene.fault ? [scene.fault] : [];
        if (edits === this.edits) this.document = scene.document;
      } catch (bad) {
        if (bad instanceof ApiError) this.faults = bad.faults;
        else if (bad instanceof Offline) this.missed();
        else throw bad;
      }
    } while (this.buildAgain);
    this.building = false;
    this.working = false;
  }

  /** No answer came: what the drawing shows is old until one does, and it is asked for again. */
  private missed() {
    this.buildMissed = true;
    clearTimeout(this.rebuild);
    this.rebuild = setTimeout(() => this.buildMissed && void this.build(), RETRY_AFTER_MS);
  }

  /** Save now, after any save that is under way. */
  async store(): Promise<void> {
    clearTimeout(this.timer);
    if (this.saving) {
      await this.saving;
      if (this.save !== 'changed') return;
    }
    if (this.save === 'saved' || this.stale !== null) return;
    this.saving = this.storeOnce().finally(() => (this.saving = null));
    await this.saving;
  }

  private async storeOnce() {
    const edits = this.edits;
    this.save = 'saving';
    try {
      const job = await takeAs<Schemas['JobOut']>(
        client.PUT('/api/jobs/{job_id}', {
          params: { path: { job_id: this.id } },
          body: { revision: this.revision, document: this.document as never },
        }),
      );
      this.revision = job.revision;
      this.canUndo = job.can_undo;
      this.canRedo = job.can_redo;
      if (this.buildMissed) void this.build();
      if (edits === this.edits) {
        this.save = 'saved';
        localStorage.removeItem(this.key);
      } else this.changed();
    } catch (bad) {
      if (bad instanceof Offline || (bad instanceof ApiError && bad.status >= 500)) {
        this.save = 'offline';
        this.later(RETRY_AFTER_MS);
      } else if (bad instanceof ApiError && bad.status === 409) {
        this.save = 'unsaved';
        this.stale = this.revision + 1;
      } else if (bad instanceof ApiError) {
        this.save = 'unsaved';
        this.faults = bad.faults;
      } else throw bad;
    }
  }

  /** Mine as a job of its own; answers its number. */
  async keepBoth(): Promise<number> {
    const twin = await take(
      client.POST('/api/jobs/{job_id}/copy', {
        params: { path: { job_id: this.id } },
        body: { document: this.document as never },
      }),
    );
    localStorage.removeItem(this.key);
    this.stale = null;
    this.save = 'saved';
    return twin.id;
  }

  async takeNewer() {
    localStorage.removeItem(this.key);
    this.stale = null;
    this.save = 'saved';
    this.edits++;
    this.take(
      await takeAs<Schemas['JobOut']>(client.GET('/api/jobs/{job_id}', { params: { path: { job_id: this.id } } })),
    );
    await this.build();
  }

  async history(which: 'undo' | 'redo') {
    await this.store();
    if (this.save !== 'saved') return;
    const path = `/api/jobs/{job_id}/${which}` as const;
    const edits = this.edits;
    try {
      const job = await takeAs<Schemas['JobOut']>(
        client.POST(path, { params: { path: { job_id: this.id } }, body: { revision: this.revision } }),
      );
      if (edits !== this.edits) {
        // The hand went on while the step was taken: what it did stands, on top of where the step led.
        this.revision = job.revision;
        this.changed();
        return;
      }
      this.take(job);
      this.edits++;
      await this.build();
    } catch (bad) {
      if (bad instanceof ApiError && bad.status === 409) this.stale = this.revision + 1;
      else if (!(bad instanceof Offline)) throw bad;
    }
  }
}
