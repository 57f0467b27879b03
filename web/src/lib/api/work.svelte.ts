/** Long work at the server: asked for once, asked about until it is over, stopped by the same hand. */
import { client, take, takeAs, wordsOf, type Schemas } from './client';

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

  /** Follow work to its end; answers it where it was done, and null where it failed, was stopped or got lost. */
  async run(start: () => Promise<Work>): Promise<Work | null> {
    this.trouble = '';
    this.now = null;
    this.busy = true;
    try {
      let work = (this.now = await start());
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

  async stop() {
    if (this.now)
      this.now = (await take(
        client.DELETE('/api/works/{work_id}', { params: { path: { work_id: this.now.id } } }),
      )) as Work;
  }
}
