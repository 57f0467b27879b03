/** The scene of a step, put together from its parts: each is fetched once and known by its digest. */
import type { Schemas } from '../api/client';

type PartsIn = Required<Schemas['Parts']>;
type DataOf<P> = NonNullable<P> extends { data?: infer D } ? NonNullable<D> : never;
type Data = { [K in keyof PartsIn]: DataOf<PartsIn[K]> };
type Always = 'measure' | 'solid' | 'placed' | 'paints' | 'worn' | 'lies' | 'rows' | 'verdicts';
export type Scene = Omit<Schemas['Scene'], 'parts'> & { [K in Always]: Data[K] } & {
  [K in Exclude<keyof Data, Always>]: Data[K] | null;
};
export type Placed = Data['placed'][number];
export type Measure = Data['measure'];

const MOST_KNOWN = 120;
const LISTS = ['placed', 'paints', 'worn', 'rows', 'verdicts'] as const;
const NONE = [
  'sketch',
  'skin',
  'template',
  'strain',
  'layers',
  'sheets',
  'layup',
  'price',
  'gone',
  'bill',
  'names',
] as const;
/** What is shown on from before while it is worked out anew. */
const AS_IT_WAS = ['worn', 'lies', 'rows', 'verdicts', 'levels'] as const;
const EMPTY: never[] = [];
const AT_HOME = { da: 0, ds: 0 };

/** The parts that were fetched, the least used forgotten first. */
export class KnownParts {
  private known = new Map<string, unknown>();

  get digests(): string[] {
    return [...this.known.keys()];
  }

  /** The whole scene: what is new in the answer is kept, what is not comes from what was kept. One that is still being
   * built shows on what was there before. */
  scene(answer: Schemas['Scene'], before: Scene | null = null): Scene {
    const { parts, ...head } = answer;
    const out: Record<string, unknown> = { ...head, lies: AT_HOME };
    for (const name of LISTS) out[name] = EMPTY;
    for (const name of NONE) out[name] = null;
    for (const [name, part] of Object.entries(parts)) {
      if (!part) continue;
      const data = part.data ?? this.known.get(part.digest) ?? null;
      this.known.delete(part.digest);
      this.known.set(part.digest, data);
      out[name] = data;
    }
    if (!answer.whole && before) for (const name of AS_IT_WAS) out[name] = before[name];
    while (this.known.size > MOST_KNOWN) this.known.delete(this.known.keys().next().value!);
    return out as Scene;
  }
}
