/** Elements of a document: what a maker calls them, and how a placement is changed, whatever they are made from. */
import type { JobDocument, Placement } from '../api/client';
import { at, put } from './paths';
import type { Placed } from './scene';

export type Element = NonNullable<JobDocument['elements']>[number];
const LEAST_MM = 0.5;
const SAME_MM = 0.001;

/** The name of its file, its first words, or what it is. */
export function nameOf(element: Element): string {
  const source = element.source as { kind: string; file?: string; text?: string; form?: { form: string } };
  return (source.file ?? source.text?.split('\n')[0] ?? source.form?.form ?? source.kind).replaceAll('_', ' ');
}

/** The first of the lengths that say how large something is, in a document; null where its placement's width does. */
export function sizeOf(document: JobDocument | null, d: Placed | undefined): number | null {
  const [first] = d?.sized_by ?? [];
  return first === undefined ? null : Number(at(document, first));
}

/** The document with some fields of a placement set. What has lengths of its own takes a width as a change of those, by
 * as much as the width it now has would change. */
export function placed(document: JobDocument, all: Placed[], path: string, values: Partial<Placement>): JobDocument {
  const d = all.find((p) => p.path === path);
  const was = at(document, path) as Placement;
  if (d && (was.once_round_mm ?? null) !== null && values.width_mm !== undefined) {
    // What goes once round is as wide as that makes it, until it is made wider or narrower.
    const same = Math.abs(Number(values.width_mm) - d.width) < SAME_MM;
    values = same ? { ...values, width_mm: was.width_mm } : { ...values, once_round_mm: null };
  }
  if (!d?.sized_by.length) return put(document, path, { ...was, ...values });
  const { width_mm, ...rest } = values;
  let out = put(document, path, { ...was, ...rest, width_mm: was.width_mm });
  if (width_mm === undefined) return out;
  for (const field of d.sized_by) {
    const next = (Number(at(document, field)) * Number(width_mm)) / d.width;
    out = put(out, field, Math.max(LEAST_MM, Number(next.toFixed(2))));
  }
  return out;
}
