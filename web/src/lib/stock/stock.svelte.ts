/** The workshop's film: what is counted of it, written down, changed and taken off. */
import { Asking } from '../api/asking.svelte';
import { client, takeAs, type Schemas } from '../api/client';
import { session } from '../state/session.svelte';
import { fieldText } from '../units';

export type Stock = Schemas['StockView'];
export type StockFilm = Stock['films'][number];
export type Piece = StockFilm['pieces'][number]['piece'];
type Typed = Record<string, unknown>;

/** What the form shows of a piece: as typed, or as it is written down in the workshop's units. */
export type PieceForm = {
  film: string;
  name: string;
  form: Piece['form'];
  width_mm: string;
  length_mm: string;
  sheets: string;
  bare_edge_mm: string;
  bought_on: string;
  note: string;
  corners: string;
};

export const emptyForm = (film: string, name: string): PieceForm => ({
  film,
  name,
  form: 'roll',
  width_mm: fieldText(305, session.style),
  length_mm: '',
  sheets: '1',
  bare_edge_mm: '0',
  bought_on: '',
  note: '',
  corners: '',
});

export function formOf(p: Piece): PieceForm {
  const text = (mm: number) => fieldText(mm, session.style);
  return {
    film: p.film,
    name: p.name,
    form: p.form,
    width_mm: text(p.width_mm),
    length_mm: text(p.length_mm),
    sheets: String(p.sheets ?? 1),
    bare_edge_mm: text(p.bare_edge_mm ?? 0),
    bought_on: p.bought_on ?? '',
    note: p.note ?? '',
    corners: (p.outline ?? []).map((c) => `${text(c[0] as number)}, ${text(c[1] as number)}`).join('; '),
  };
}

/** The piece as it is sent: lengths as typed, which the core reads. */
function typed(f: PieceForm): Typed {
  const corners = f.corners
    .split(';')
    .map((c) => c.trim())
    .filter(Boolean)
    .map((c) => c.split(',').map((x) => x.trim()));
  return {
    film: f.film,
    name: f.name,
    form: f.form,
    width_mm: f.width_mm,
    length_mm: f.length_mm,
    sheets: f.form === 'sheet' ? f.sheets : 1,
    bare_edge_mm: f.bare_edge_mm,
    bought_on: f.bought_on || null,
    note: f.note,
    outline: f.form === 'remnant' ? corners : [],
  };
}

class StockState extends Asking {
  now = $state.raw<Stock | null>(null);

  load() {
    return this.show(() => client.GET('/api/stock'));
  }
  write(id: string | null, form: PieceForm) {
    const body = { piece: typed(form) };
    return this.show(() =>
      id
        ? client.PUT('/api/stock/pieces/{piece_id}', { params: { path: { piece_id: id } }, body })
        : client.POST('/api/stock/pieces', { body }),
    );
  }
  takeOff(id: string) {
    return this.show(() => client.DELETE('/api/stock/pieces/{piece_id}', { params: { path: { piece_id: id } } }));
  }
  keepOver(text: string) {
    return this.show(() => client.PUT('/api/stock/remnant', { body: { remnant_mm: text as never } }));
  }
  fault(field: string) {
    return this.faults.find((f) => f.field.split('.')[0] === field);
  }
  /** Ask, and show what comes back; whether it was taken. What was typed stays where it was not. */
  private async show(what: () => Parameters<typeof takeAs>[0]): Promise<boolean> {
    const found = await this.ask(() => takeAs<Stock>(what()));
    if (found) this.now = found;
    return !!found;
  }
}
export const stock = new StockState();
