/** The workshop's drawings and fonts: listed, brought in, and fetched into a job. */
import { client, fileForm, takeAs, type Schemas } from '../api/client';

export type FolioItem = Schemas['FolioCardOut'];
export type Folio = Schemas['FolioOut'];
export const FILES =
  '.svg,.svgz,.dxf,.pdf,.png,.jpg,.jpeg,.webp,image/svg+xml,image/png,image/jpeg,image/webp,application/pdf';
export const FONT_FILES = '.ttf,.otf,.woff,.woff2';

type Query = { q?: string; tag?: string; kind?: '' | 'drawing' | 'font'; start?: number };
export const listFolio = (query: Query) => takeAs<Folio>(client.GET('/api/folio', { params: { query } }));

export const addToFolio = (file: File) => takeAs<FolioItem>(client.POST('/api/folio', fileForm(file)));

/** Brought into a job: the name its file has there. */
export async function fetchInto(item: number, job: number): Promise<string> {
  const path = { item_id: item, job_id: job };
  return (await takeAs<{ file: string }>(client.POST('/api/folio/{item_id}/jobs/{job_id}', { params: { path } }))).file;
}
