/** The workshop's tables, blanks to start from and how much a document may hold, fetched once. */
import { client, Offline, takeAs, type Schemas } from '../api/client';
import { session } from './session.svelte';

type Tables = Schemas['TablesOut'];
export type FilmColour = Tables['colours'][number];
const RETRY_AFTER_MS = 3000;

class TablesState {
  films = $state.raw<Tables['films']>([]);
  fonts = $state.raw<Tables['fonts']>([]);
  makes = $state.raw<Tables['makes']>([]);
  cutters = $state.raw<Tables['cutters']>([]);
  /** The colours of film at hand. */
  colours = $state.raw<Tables['colours']>([]);
  /** What the workshop wrote down of its own hands. */
  log = $state.raw<Tables['log']>({ misses: [], weeding: [], accuracy: {}, pace: 1 } as unknown as Tables['log']);
  blanks = $state.raw<Tables['blanks']>({});
  private sending: Promise<unknown> = Promise.resolve();
  /** The workshop whose tables these are. */
  private of: number | undefined;
  private limits = $state.raw<Tables['limits']>({});

  async load() {
    const workshop = session.current?.workshop?.id;
    if (this.films.length && this.of === workshop) return;
    let found: Tables;
    try {
      found = await takeAs<Tables>(client.GET('/api/tables'));
    } catch (bad) {
      if (!(bad instanceof Offline)) throw bad;
      setTimeout(() => void this.load(), RETRY_AFTER_MS);
      return;
    }
    this.of = workshop;
    this.films = found.films;
    this.fonts = found.fonts;
    this.makes = found.makes;
    this.cutters = found.cutters;
    this.colours = found.colours;
    this.log = found.log;
    this.blanks = found.blanks;
    this.limits = found.limits;
  }

  /** Each colour at hand once, those of one film first. */
  palette(film = ''): Tables['colours'] {
    const [first, rest] = [this.colours.filter((c) => c.film === film), this.colours.filter((c) => c.film !== film)];
    return [...new Map([...rest, ...first].map((c) => [c.colour, c])).values()].toSorted(
      (a, b) => Number(b.film === film) - Number(a.film === film),
    );
  }

  /** Write other colours down as those at hand. They stand at once, and one list is sent after another, so that of two
   * quick changes none is lost; where it is refused, those there were stand again. */
  async keepColours(colours: Tables['colours']) {
    const before = this.colours;
    this.colours = colours;
    const sent = this.sending.then(() =>
      takeAs<Tables['colours']>(client.PUT('/api/tables/colours', { body: { colours } })),
    );
    this.sending = sent.catch(() => undefined);
    try {
      await sent;
    } catch (bad) {
      if (this.colours === colours) this.colours = before;
      throw bad;
    }
  }

  /** Write one thing more into the log: by how much a film missed, or how long weeding took. */
  async writeDown(more: { miss?: Tables['log']['misses'][number]; took?: Tables['log']['weeding'][number] }) {
    const sent = this.sending.then(async () => {
      const misses = more.miss ? [...this.log.misses, more.miss] : this.log.misses;
      const weeding = more.took ? [...this.log.weeding, more.took] : this.log.weeding;
      const body = { misses: misses.slice(-500), weeding: weeding.slice(-500) };
      this.log = await takeAs<Tables['log']>(client.PUT('/api/tables/log', { body }));
    });
    this.sending = sent.catch(() => undefined);
    await sent;
  }

  /** What a source that needs no file is, by its kind and form. */
  madeAs(source: { kind: string; form?: { form?: string } } | undefined) {
    return this.makes.find((m) => m.kind === source?.kind && m.form === (source?.form?.form ?? ''));
  }

  /** The most entries of a list. */
  most(list: string): number {
    return this.limits[list]?.[1] ?? Infinity;
  }

  /** May the list take another entry? */
  hasRoom(list: string, now: number): boolean {
    return now < this.most(list);
  }

  /** May the list let one go? */
  canSpare(list: string, now: number): boolean {
    return now > (this.limits[list]?.[0] ?? 0);
  }
}
export const tables = new TablesState();
