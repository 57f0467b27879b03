/** Long work at the server: asked for once, asked about until it is over, stopped by the same hand. */
import { client, takeAs, wordsOf, type Schemas } from './client';

export type Work = Schemas['WorkOut'];
export type Wanted = Schemas['WorkIn'];
const ASK_AFTER_MS = 220;

const isOver = (work: Work) => work.status !== 'waiting' && work.status !== 'running';

/** Start long work. */
export const startWork = (wanted: Wanted) => takeAs<Work>(client.POST('/api/works', { body: wanted }));

export class Task {
  now = $state.raw<Work | null>(null);
  trouble = $state('');
  /** Is it asked for, or under way? */
  busy = $state(false);
  /** Was it stopped before the server knew of it? */
  private ending = false;

  /** Follow work to its end; answers it where it was done, and null where it failed, was stopped or got lost. */
  async run(start: () => Promise<Work>): Promise<Work | null> {
    this.trouble = '';
    this.now = null;
    this.busy = true;
    this.ending = false;
    try {
      let work = (this.now = await start());
      if (this.ending) work = (await this.stop()) ?? work;
      while (!isOver(work)) {
        await new Promise((r) => setTimeout(r, ASK_AFTER_MS));
        const id = work.id;
        work = this.now = await takeAs<Work>(client.GET('/api/works/{work_id}', { params: { path: { work_id: id } } }));
      }
      if (work.error) this.trouble = `${work.error.message} ${work.error.hint}`;
      return work.status === 'done' ? work : null;
    } catch (bad) {
      this.trouble = wordsOf(bad);
      return null;
    } finally {
      this.busy = false;
    }
  }

  /** Stop it: one that is asked for only now, as soon as the server knows of it. */
  async stop(): Promise<Work | null> {
    this.ending = true;
    if (!this.now) return null;
    try {
      const asked = client.DELETE('/api/works/{work_id}', { params: { path: { work_id: this.now.id } } });
      return (this.now = await takeAs<Work>(asked));
    } catch (bad) {
      this.trouble = wordsOf(bad);
      return null;
    }
  }
}
