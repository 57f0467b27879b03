/** Long work at the server: asked for once, then asked about until it is over. */
type Work = { id: number; status: string };
const ASK_AFTER_MS = 220;

export const isOver = (work: Work | null) => work !== null && work.status !== 'waiting' && work.status !== 'running';
export const isBusy = (work: Work | null) => work !== null && !isOver(work);

/** Hears of every state of the work, the last one included, which it answers. */
export async function follow<W extends Work>(
  start: Promise<W>,
  ask: (id: number) => Promise<W>,
  hear: (work: W) => void,
  after = ASK_AFTER_MS,
): Promise<W> {
  let work = await start;
  hear(work);
  while (!isOver(work)) {
    await new Promise((r) => setTimeout(r, after));
    work = await ask(work.id);
    hear(work);
  }
  return work;
}
