/** A load on a machine: where it stands, what is to be cut, and what is done next. */
import { Asking } from '../api/asking.svelte';
import { client, takeAs, wordsOf, type Schemas } from '../api/client';

export type OnCutter = Schemas['OnCutterOut'];
type Lines = Schemas['LinesOut'];
type Next = Schemas['NextIn'];
type Found = [number, number, number];
const ASK_AFTER_MS = 240;

/** The strokes of one pass, and how far along all of them each begins, mm. */
export type Pass = { strokes: number[][]; begins: number[]; total: number };

function passOf(strokes: number[][]): Pass {
  const begins = [0];
  for (const s of strokes) {
    let length = 0;
    for (let i = 2; i < s.length; i += 2) length += Math.hypot(s[i]! - s[i - 2]!, s[i + 1]! - s[i - 1]!);
    begins.push(begins.at(-1)! + length);
  }
  return { strokes, begins, total: begins.at(-1)! };
}

export class OnCutterState extends Asking {
  now = $state.raw<OnCutter | null>(null);
  passes = $state.raw<Pass[]>([]);
  size = $state.raw<[number, number]>([100, 100]);
  /** What the stand-in really cut so far: mm of each stroke, stray, depth. */
  found = $state.raw<Found[]>([]);
  private asking = false;
  private ended = false;

  constructor(private readonly job: number) {
    super();
  }

  get open() {
    return this.now !== null && this.now.stage !== 'over';
  }
  get pass(): Pass | undefined {
    return this.passes[this.now?.at_pass ?? 0];
  }
  /** How much of the pass is cut, mm. */
  get cut(): number {
    const { now, pass } = this;
    if (!now || !pass) return 0;
    const points = (pass.strokes[now.done]?.length ?? 0) / 2;
    const begun = pass.begins[now.done] ?? pass.total;
    const whole = (pass.begins[now.done + 1] ?? begun) - begun;
    return Math.min(begun + (points > 1 ? Math.min(now.place / (points - 1), 1) * whole : 0), pass.total);
  }

  async load() {
    await this.ask(async () => {
      const params = { path: { job_id: this.job } };
      const now = await takeAs<OnCutter | null>(client.GET('/api/jobs/{job_id}/cutting', { params }));
      if (now) await this.take(now, true);
    });
  }
  begin(load: string) {
    return this.ask(async () => {
      const params = { path: { job_id: this.job } };
      await this.take(
        await takeAs<OnCutter>(client.POST('/api/jobs/{job_id}/cutting', { params, body: { load } })),
        true,
      );
    });
  }
  next(what: Omit<Next, 'blade' | 'tore'> & { blade?: string; tore?: string }) {
    return this.ask(async () => {
      const params = { path: { on_id: this.now!.id } };
      const body = { blade: '', tore: '', ...what };
      await this.take(await takeAs<OnCutter>(client.POST('/api/cutting/{on_id}/next', { params, body })), false);
    });
  }
  /** A test row round a force and at a speed, as they were typed. */
  trial(force: string, speed: string) {
    const params = { path: { on_id: this.now!.id } };
    const body = { force_gf: force, speed_mm_s: speed.trim() || null } as never;
    return this.ask(() => takeAs<Schemas['TrialOut']>(client.POST('/api/cutting/{on_id}/trial', { params, body })));
  }
  tapped(forces: number[], corners: ('right' | 'not_through' | 'into_liner')[]) {
    return this.ask(() =>
      takeAs<Schemas['TappedOut']>(client.POST('/api/cutting/tapped', { body: { forces, corners } })),
    );
  }
  close() {
    this.now = null;
    this.passes = [];
    this.found = [];
  }
  /** Nobody looks any more. */
  end() {
    this.ended = true;
  }

  private async take(now: OnCutter, lines: boolean) {
    this.now = now;
    this.found = now.found as Found[];
    if (lines) {
      const params = { path: { on_id: now.id } };
      const found = await takeAs<Lines>(client.GET('/api/cutting/{on_id}/lines', { params }));
      this.passes = (found.passes as number[][][]).map(passOf);
      this.size = [found.width, found.length];
    }
    void this.follow();
  }
  /** Ask how far it is until it is not under way any more. */
  private async follow() {
    if (this.asking) return;
    this.asking = true;
    try {
      while (this.now?.stage === 'cutting' && !this.ended) {
        await new Promise((r) => setTimeout(r, ASK_AFTER_MS));
        const { id } = this.now;
        const params = { path: { on_id: id }, query: { since: this.found.length } };
        const now = await takeAs<OnCutter>(client.GET('/api/cutting/{on_id}', { params }));
        if (this.now?.id !== id) return;
        this.found = [...this.found, ...(now.found as Found[])];
        this.now = now;
      }
      this.trouble = '';
    } catch (bad) {
      this.trouble = wordsOf(bad);
      if (!this.ended) setTimeout(() => void this.follow(), 2000);
    } finally {
      this.asking = false;
    }
  }
}
