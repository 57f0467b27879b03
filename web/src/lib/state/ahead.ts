/** The job at whose address the page was opened: asked for together with the session, not after it. */
import { client, takeAs, type Schemas } from '../api/client';

type JobOut = Schemas['JobOut'];
export const fetchJob = (id: number) =>
  takeAs<JobOut>(client.GET('/api/jobs/{job_id}', { params: { path: { job_id: id } } }));

let asked: { id: number; job: Promise<JobOut | null> } | null = null;

export function askAhead(path: string) {
  const id = Number(/^\/jobs\/(\d+)\//.exec(path)?.[1] ?? NaN);
  // Where it is refused it is asked for again, and what went wrong is said then.
  if (!Number.isNaN(id)) asked = { id, job: fetchJob(id).catch(() => null) };
}

/** The job that was asked for ahead, once; else it is fetched. */
export async function jobAhead(id: number): Promise<JobOut> {
  const found = asked?.id === id ? await asked.job : null;
  asked = null;
  return found ?? fetchJob(id);
}
