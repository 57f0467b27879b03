/** Picking from a bill of pieces: which of its names a wish means. */
import type { Schemas } from '../api/client';

export type Bill = Schemas['BillView'];
export type Names = ReadonlySet<string>;

export const setOf = (names: Iterable<string>): Names => new Set(names);
const numbers = (bill: Bill, picked: Names) => bill.names.flatMap((name, n) => (picked.has(name) ? [n] : []));
const where = (bill: Bill, test: (n: number) => boolean) => bill.names.filter((_, n) => test(n));

/** With those picked or instead of them; all of them picked already, with: they are let go. */
export function picking(before: Names, names: string[], withOthers: boolean): Names {
  if (!withOthers) return new Set(names);
  const out = new Set(before);
  const letGo = names.length > 0 && names.every((n) => before.has(n));
  for (const n of names)
    if (letGo) out.delete(n);
    else out.add(n);
  return out;
}

/** Those names with all that go with one of them. */
export function withTheirGroups(bill: Bill, names: string[]): string[] {
  if (!bill.groups.length) return names;
  const some = new Set(names);
  for (const group of bill.groups.map((g) => g.map((n) => bill.names[n]!)))
    if (group.some((n) => some.has(n))) group.forEach((n) => some.add(n));
  return [...some];
}

/** Shaped like one of those picked. */
export function shapedAlike(bill: Bill, picked: Names): string[] {
  const shapes = new Set(numbers(bill, picked).map((n) => bill.alike[n]));
  return where(bill, (n) => shapes.has(bill.alike[n]!));
}

export function ofTheirColour(bill: Bill, picked: Names): string[] {
  const mine = new Set(numbers(bill, picked));
  const colours = new Set(bill.lines.filter((l) => l.pieces.some((n) => mine.has(n))).map((l) => l.colour));
  const wanted = new Set(bill.lines.filter((l) => colours.has(l.colour)).flatMap((l) => l.pieces));
  return where(bill, (n) => wanted.has(n));
}

/** What lies within those picked, however deep. */
export function withinThem(bill: Bill, picked: Names): string[] {
  const mine = new Set(numbers(bill, picked));
  return where(bill, (n) => {
    for (let at = bill.within[n]!; at >= 0; at = bill.within[at]!) if (mine.has(at)) return true;
    return false;
  });
}

/** Whose longest side (mm), or whose area (mm2), is no more than that. */
export const upTo = (bill: Bill, most: number, of: 'longest' | 'area') => where(bill, (n) => bill[of][n]! <= most);

/** The piece after, or before, those picked, in the order of the bill. */
export function nextTo(bill: Bill, picked: Names, by: number): string[] {
  const order = bill.lines.flatMap((l) => l.pieces);
  if (!order.length) return [];
  const at = order.findIndex((n) => picked.has(bill.names[n]!));
  const next = at < 0 ? (by > 0 ? 0 : order.length - 1) : (at + by + order.length) % order.length;
  return [bill.names[order[next]!]!];
}

/** The middle of all those picked, in the drawing's own mm. */
export function middleOf(bill: Bill, picked: Names): [number, number] | null {
  const mine = numbers(bill, picked);
  const mean = (k: number) => mine.reduce((sum, n) => sum + bill.middles[2 * n + k]!, 0) / mine.length;
  return mine.length ? [Number(mean(0).toFixed(3)), Number(mean(1).toFixed(3))] : null;
}

/** Both, each once. */
export const together = (a: readonly string[], b: readonly string[]) => [...new Set([...a, ...b])];
