/** Reading and changing a document by a path such as `blank.upper.readings.0`. */
type Json = unknown;

export function at(root: Json, path: string): Json {
  return path
    .split('.')
    .reduce<Json>((v, k) => (v && typeof v === 'object' ? (v as Record<string, Json>)[k] : undefined), root);
}

/** A copy of the document with one value changed; what is not on the path is shared. `undefined` takes it out. */
export function put<T>(root: T, path: string, value: Json): T {
  const [head = '', ...rest] = path.split('.');
  const copy = (Array.isArray(root) ? [...root] : { ...(root as object) }) as Record<string, Json> & Json[];
  const next = rest.length ? put((root as Record<string, Json>)?.[head] ?? {}, rest.join('.'), value) : value;
  if (next === undefined && Array.isArray(copy)) copy.splice(Number(head), 1);
  else if (next === undefined) delete copy[head];
  else copy[head as never] = next as never;
  return copy as T;
}
