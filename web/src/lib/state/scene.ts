/** The scene of a step, put together from its parts: each is fetched once and known by its digest. */
import type { Schemas } from '../api/client';
import type { Step } from './steps';

type PartsIn = Required<Schemas['Parts']>;
type DataOf<P> = NonNullable<P> extends { data?: infer D } ? NonNullable<D> : never;
type Data = { [K in keyof PartsIn]: DataOf<PartsIn[K]> };
type Always = 'measure' | 'solid' | 'placed' | 'paints' | 'worn' | 'lies' | 'rows';
type Head = Omit<Schemas['Scene'], 'parts' | 'levels' | 'told'>;
export type Scene = Head & { [K in Always]: Data[K] } & {
  [K in Exclude<keyof Data, Always | 'verdicts'>]: Data[K] | null;
} & {
  /** The parts that are shown on from before until they come anew. */
  old: string[];
};
/** What is judged of a job: of each step the last that was said of it, and which steps (`told`) stand so for what is
 * drawn; the others are being looked at again. `faults` are what steps broke on, `remedies` what was tried and mends a
 * verdict. */
export type Judged = {
  verdicts: Data['verdicts'];
  levels: Schemas['Scene']['levels'];
  told: Step[];
  faults: Partial<Record<Step, Schemas['FaultView']>>;
  remedies: Schemas['RemedyView'][];
};
export type Placed = Data['placed'][number];
export type Measure = Data['measure'];

const MOST_KNOWN = 120;
const LISTS = ['placed', 'paints', 'worn', 'rows'] as const;
const NONE = [
  'sketch',
  'skin',
  'template',
  'strain',
  'layers',
  'mending',
  'sheets',
  'ways',
  'layup',
  'price',
  'gone',
  'bill',
  'names',
] as const;
/** What is shown on from before while it is worked out anew. */
const AS_IT_WAS = ['worn', 'lies', 'rows'] as const;
/** What comes after the open step is shown: shown on from before until it does. */
const LATER = ['worn', 'lies', 'mending', 'ways'] as const;
export const NOT_JUDGED: Judged = { verdicts: [], levels: {}, told: [], faults: {}, remedies: [] };
const EMPTY: never[] = [];
const AT_HOME = { da: 0, ds: 0 };

/** The parts that were fetched, the least used forgotten first. */
export class KnownParts {
  private known = new Map<string, unknown>();

  get digests(): string[] {
    return [...this.known.keys()];
  }

  /** The whole scene: what is new in the answer is kept, what is not comes from what was kept. One that is still being
   * built shows on what was there before, and so does what the object wears until that comes. */
  scene(answer: Schemas['Scene'], before: Scene | null = null): Scene {
    const { parts, levels: _levels, told: _told, ...head } = answer;
    const out: Record<string, unknown> = { ...head, lies: AT_HOME, old: EMPTY };
    for (const name of LISTS) out[name] = EMPTY;
    for (const name of NONE) out[name] = null;
    const came = this.take(parts);
    Object.assign(out, came);
    delete out.verdicts;
    const kept = !before ? [] : answer.whole ? (answer.stopped ? [] : LATER) : AS_IT_WAS;
    const old = kept.filter((name) => !answer.whole || !(name in came));
    for (const name of old) out[name] = before![name];
    out.old = old;
    while (this.known.size > MOST_KNOWN) this.known.delete(this.known.keys().next().value!);
    return out as Scene;
  }

  /** What is judged once an answer came: what it says nothing of stands as it was said last. */
  judged(answer: Schemas['Scene'], before: Judged): Judged {
    const said = (step: string) => step in answer.levels;
    const mine = (answer.parts.verdicts && this.dataOf(answer.parts.verdicts)) as Judged['verdicts'] | null;
    return {
      verdicts: [...(mine ?? []), ...before.verdicts.filter((v) => !said(v.step))],
      levels: { ...before.levels, ...answer.levels },
      told: answer.told as Step[],
      faults: {},
      remedies: [],
    };
  }

  /** The scene once more of it came; the same where nothing of it did. */
  later(line: Schemas['LaterView'], scene: Scene): Scene {
    const came = this.take(line.parts);
    if (!Object.keys(came).length) return scene;
    return { ...scene, ...came, old: scene.old.filter((name) => !(name in came)) } as Scene;
  }

  private dataOf(part: { digest: string; data?: unknown }): unknown {
    return part.data ?? this.known.get(part.digest) ?? null;
  }

  private take(parts: Schemas['Parts']): Record<string, unknown> {
    const out: Record<string, unknown> = {};
    for (const [name, part] of Object.entries(parts)) {
      if (!part) continue;
      const data = this.dataOf(part);
      this.known.delete(part.digest);
      this.known.set(part.digest, data);
      out[name] = data;
    }
    return out;
  }
}

/** What is judged once a later step was looked at. */
export function laterJudged(line: Schemas['LaterView'], before: Judged): Judged {
  const step = line.later as Step;
  return {
    verdicts: [...before.verdicts.filter((v) => v.step !== step), ...line.verdicts],
    levels: { ...before.levels, ...line.levels },
    told: line.told as Step[],
    remedies: before.remedies,
    faults: line.fault ? { ...before.faults, [step]: line.fault } : before.faults,
  };
}
