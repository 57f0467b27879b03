/** Saving: a moment after every change; what is not saved yet is also kept in this browser until it is. */
import { ApiError, client, Offline, take, takeAs, type Fault, type JobDocument, type Schemas } from '../api/client';
import { session } from './session.svelte';

/** `looking`: whoever is here may try things out, but changes nothing; `marked`: all is saved but for what was refused. */
export type SaveState = 'saved' | 'marked' | 'changed' | 'saving' | 'offline' | 'unsaved' | 'looking';
type JobOut = Schemas['JobOut'];
type Kept = { revision: number; document: JobDocument };

const SAVE_AFTER_MS = 600;
const RETRY_AFTER_MS = 3000;

export interface Saved {
  /** What is to be saved now, what was typed, and how many edits it is old. */
  wanted(): { document: JobDocument | null; typed: JobDocument | null; edits: number };
  /** The core could not read it; true where the rest of it is to be saved. */
  misread(faults: Fault[], sent: JobDocument): boolean;
  /** The server answered: what it missed may be asked for again. */
  reached(): void;
}

export class Saving {
  state = $state<SaveState>('saved');
  /** The revision somebody else saved meanwhile. */
  stale = $state<number | null>(null);
  canUndo = $state(false);
  canRedo = $state(false);
  revision = 0;

  private timer: ReturnType<typeof setTimeout> | undefined;
  private under: Promise<void> | null = null;

  constructor(
    private readonly id: number,
    private readonly of: Saved,
  ) {}

  private get key() {
    return `wimple.unsaved.${this.id}`;
  }

  /** What was not saved when this browser was last closed. */
  kept(): Kept | null {
    try {
      return JSON.parse(localStorage.getItem(this.key) ?? 'null') as Kept | null;
    } catch {
      return null;
    }
  }

  taken(job: JobOut) {
    this.revision = job.revision;
    this.canUndo = job.can_undo;
    this.canRedo = job.can_redo;
  }

  changed() {
    if (!session.makes) {
      this.state = 'looking';
      return;
    }
    this.state = 'changed';
    this.keep();
    this.later(SAVE_AFTER_MS);
  }

  /** What was typed is kept in this browser too. */
  private keep() {
    try {
      localStorage.setItem(this.key, JSON.stringify({ revision: this.revision, document: this.of.wanted().typed }));
    } catch {
      // A full or forbidden store: the server still gets every change.
    }
  }

  /** Nothing of what is here is wanted any more. */
  forget() {
    localStorage.removeItem(this.key);
    this.stale = null;
    this.state = 'saved';
  }

  private later(ms: number) {
    clearTimeout(this.timer);
    this.timer = setTimeout(() => void this.now(), ms);
  }

  /** Save now, after any save that is under way. */
  async now(): Promise<void> {
    clearTimeout(this.timer);
    if (this.under) {
      await this.under;
      if (this.state !== 'changed') return;
    }
    if (this.state === 'saved' || this.state === 'marked' || this.state === 'looking' || this.stale !== null) return;
    this.under = this.once().finally(() => (this.under = null));
    await this.under;
  }

  private async once() {
    this.state = 'saving';
    await session.styled;
    const { document, edits } = this.of.wanted();
    try {
      const job = await takeAs<JobOut>(
        client.PUT('/api/jobs/{job_id}', {
          params: { path: { job_id: this.id } },
          body: { revision: this.revision, document: document as never },
        }),
      );
      this.taken(job);
      this.of.reached();
      if (edits === this.of.wanted().edits) {
        const { document: now, typed } = this.of.wanted();
        this.state = now === typed ? 'saved' : 'marked';
        // What was refused of it is only here.
        if (now === typed) localStorage.removeItem(this.key);
        else this.keep();
      } else this.changed();
    } catch (bad) {
      if (bad instanceof Offline || (bad instanceof ApiError && bad.status >= 500)) {
        this.state = 'offline';
        this.later(RETRY_AFTER_MS);
      } else if (bad instanceof ApiError && bad.status === 409) {
        this.state = 'unsaved';
        this.stale = this.revision + 1;
      } else if (bad instanceof ApiError) {
        this.state = 'unsaved';
        if (document && this.of.misread(bad.faults, document)) this.changed();
      } else throw bad;
    }
  }

  /** Mine as a job of its own; answers its number. */
  async keepBoth(): Promise<number> {
    const twin = await take(
      client.POST('/api/jobs/{job_id}/copy', {
        params: { path: { job_id: this.id } },
        body: { document: this.of.wanted().document as never },
      }),
    );
    this.forget();
    return twin.id;
  }

  /** One step back or forward; null where it could not be taken. */
  step(which: 'undo' | 'redo'): Promise<JobOut | null> {
    return this.move(() =>
      client.POST(`/api/jobs/{job_id}/${which}` as const, {
        params: { path: { job_id: this.id } },
        body: { revision: this.revision },
      }),
    );
  }

  /** A revision brought back as the newest; null where that could not be. */
  restore(to: number): Promise<JobOut | null> {
    return this.move(() =>
      client.POST('/api/jobs/{job_id}/restore', {
        params: { path: { job_id: this.id } },
        body: { revision: this.revision, to },
      }),
    );
  }

  private async move(how: () => Promise<{ data?: unknown; error?: unknown; response: Response }>) {
    await this.now();
    if (!['saved', 'marked'].includes(this.state) || !session.makes) return null;
    try {
      return await takeAs<JobOut>(how());
    } catch (bad) {
      if (bad instanceof ApiError && bad.status === 409) this.stale = this.revision + 1;
      else if (!(bad instanceof Offline)) throw bad;
      return null;
    }
  }
}
