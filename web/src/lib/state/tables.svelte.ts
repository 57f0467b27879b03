/** The shipped tables of films and cutters, fetched once. */
import { client, takeAs, type Schemas } from '../api/client';

class TablesState {
  films = $state.raw<Schemas['Film'][]>([]);
  cutters = $state.raw<Schemas['Cutter'][]>([]);
  blanks = $state.raw<Schemas['Tables']['blanks']>({});
  async load() {
    if (this.films.length) return;
    const found = await takeAs<Schemas['Tables']>(client.GET('/api/tables'));
    this.films = found.films;
    this.cutters = found.cutters;
    this.blanks = found.blanks;
  }
}
export const tables = new TablesState();
