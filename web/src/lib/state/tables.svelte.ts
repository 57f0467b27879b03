/** The workshop's tables, blanks to start from and how much a document may hold, fetched once. */
import { client, Offline, takeAs, type Schemas } from '../api/client';

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
  blanks = $state.raw<Tables['blanks']>({});
  private limits = $state.raw<Tables['limits']>({});

  async load() {
    if (this.films.length) return;
    let found: Tables;
    try {
      found = await takeAs<Tables>(client.GET('/api/tables'));
    } catch (bad) {
      if (!(bad instanceof Offline)) throw bad;
      setTimeout(() => void this.load(), RETRY_AFTER_MS);
      return;
    }
    this.films = found.films;
    this.fonts = found.fonts;
    this.makes = found.makes;
    this.cutters = found.cutters;
    this.colours = found.colours;
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

  /** Write other colours down as those at hand. */
  async keepColours(colours: Tables['colours']) {
    this.colours = await takeAs<Tables['colours']>(client.PUT('/api/tables/colours', { body: { colours } }));
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
