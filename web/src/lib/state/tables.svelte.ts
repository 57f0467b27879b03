/** The shipped tables of films and cutters, fetched once. */
import { client, take, type Schemas } from '../api/client';

class TablesState {
  films = $state.raw<Schemas['Film'][]>([]);
  cutters = $state.raw<Schemas['Cutter'][]>([]);
  async load() {
    if (this.films.length) return;
    const found = await take(client.GET('/api/tables'));
    this.films = found.films;
    this.cutters = found.cutters;
  }
}
export const tables = new TablesState();
