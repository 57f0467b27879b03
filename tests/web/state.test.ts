/** The open job, without a page: the newest wins, what is typed stays, nothing unsaved is lost. */
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { around, pathOf, roundLength, turned } from '../../web/src/lib/drawing/paper';
import { View } from '../../web/src/lib/drawing/view.svelte';
import { aheadIn } from '../../web/src/lib/state/hand';
import { piecesOf } from '../../web/src/lib/api/lines';
import { KnownParts, laterJudged, type Judged } from '../../web/src/lib/state/scene';
import { JobState } from '../../web/src/lib/state/job.svelte';
import { session } from '../../web/src/lib/state/session.svelte';

// Outside a browser a request needs a whole address; the client takes its Request when it is made.
vi.hoisted(() => {
  const Real = globalThis.Request;
  globalThis.Request = class extends Real {
    constructor(input: RequestInfo | URL, init?: RequestInit) {
      super(typeof input === 'string' ? new URL(input, 'http://wimple.test/') : input, init);
    }
  };
});

type Call = { method: string; path: string; body: Record<string, never> };
type Reply = { status: number; body: unknown } | 'gone';

/** A server of one job: it keeps the document, counts revisions, and can be told to answer otherwise. */
class Server {
  calls: Call[] = [];
  revision = 1;
  document: Record<string, unknown> = { title: 'Cup', blank: { kind: 'cup', upper: { readings: [260] } }, elements: [] };
  next: ((call: Call) => Reply | Promise<Reply> | undefined) | null = null;

  scene(document: unknown) {
    const measure = { digest: 'm', data: { closed: true, offers: {} } };
    const steps = ['measure', 'unwrap', 'artwork', 'layers', 'sheets', 'layup', 'price'];
    return { document, whole: true, levels: {}, told: steps, stopped: null, waiting: [], parts: { measure } };
  }
  job() {
    return { id: 1, revision: this.revision, document: this.document, drawings: [], can_undo: this.revision > 1, can_redo: false };
  }
  async answer(call: Call): Promise<Reply> {
    const said = await this.next?.(call);
    if (said) return said;
    if (call.path.endsWith('/build')) return { status: 200, body: this.scene(call.body.document) };
    if (call.method === 'PUT') {
      if ((call.body.revision as unknown as number) !== this.revision)
        return { status: 409, body: { code: 'stale', message: 'Changed elsewhere.', hint: 'Keep both.', faults: [], revision: this.revision } };
      this.document = call.body.document;
      this.revision++;
    }
    return { status: 200, body: this.job() };
  }
  fetch = async (request: Request): Promise<Response> => {
    const text = await request.text();
    const call = { method: request.method, path: new URL(request.url).pathname, body: text ? JSON.parse(text) : {} };
    this.calls.push(call);
    const left = new Promise<never>((_, no) =>
      request.signal.addEventListener('abort', () => no(new DOMException('left', 'AbortError'))),
    );
    const reply = await Promise.race([this.answer(call), left]);
    if (reply === 'gone') throw new TypeError('no network');
    // All that would mend a verdict was tried: there is no more to come.
    const through = call.path.endsWith('/build') && reply.status === 200 ? '\n{"remedies":[],"whole":true}\n' : '';
    return new Response(JSON.stringify(reply.body) + through, { status: reply.status, headers: { 'Content-Type': 'application/json' } });
  };
  count(what: string) {
    return this.calls.filter((c) => c.path.endsWith(what) || c.method === what).length;
  }
}

const store = new Map<string, string>();
let server: Server;

beforeEach(() => {
  vi.useFakeTimers();
  store.clear();
  server = new Server();
  vi.stubGlobal('localStorage', {
    getItem: (k: string) => store.get(k) ?? null,
    setItem: (k: string, v: string) => store.set(k, v),
    removeItem: (k: string) => store.delete(k),
  });
  vi.stubGlobal('fetch', server.fetch);
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

async function opened(): Promise<JobState> {
  const job = new JobState(1);
  await job.open('measure');
  return job;
}
const rest = (ms = 700) => vi.advanceTimersByTimeAsync(ms);

describe('an open job', () => {
  it('builds every change at once and saves a moment later', async () => {
    const job = await opened();
    job.set('title', 'Moon cup');
    expect(job.save).toBe('changed');
    await rest(50);
    expect(server.count('/build')).toBe(2);
    expect(server.count('PUT')).toBe(0);
    await rest();
    expect(job.save).toBe('saved');
    expect(server.document.title).toBe('Moon cup');
    expect(store.size).toBe(0);
  });

  it('builds nothing before the job has come, and then the step that was chosen meanwhile', async () => {
    const fresh = new JobState(1);
    const opened = fresh.open('artwork');
    fresh.goTo('layers');
    await opened;
    await fresh.build();
    const steps = server.calls.filter((c) => c.path.endsWith('/build')).map((c) => c.body.step);
    expect(new Set(steps)).toEqual(new Set(['layers']));
    expect(server.calls.every((c) => !c.path.endsWith('/build') || c.body.document)).toBe(true);
  });

  it('keeps one build in flight and lets only the newest wait', async () => {
    const job = await opened();
    let free: () => void = () => {};
    server.next = (c) => (c.path.endsWith('/build') ? new Promise<undefined>((r) => (free = () => r(undefined))) : undefined);
    for (const n of [1, 2, 3, 4, 5]) job.set('title', `Cup ${n}`);
    await rest(10);
    expect(server.count('/build')).toBe(2);
    server.next = null;
    free();
    await rest(10);
    expect(server.count('/build')).toBe(3);
    expect((server.calls.filter((c) => c.path.endsWith('/build')).at(-1)!.body.document as { title: string }).title).toBe('Cup 5');
    expect(job.document?.title).toBe('Cup 5');
  });

  it('drops the answer to what the hand held once it let go, and asks for what stands then', async () => {
    const job = await opened();
    server.next = (c) => (c.path.endsWith('/build') ? new Promise<undefined>(() => {}) : undefined);
    job.hold({ ...job.document!, title: 'Held' });
    await rest(10);
    expect([server.count('/build'), job.exact]).toEqual([2, false]);
    server.next = null;
    job.change({ ...job.document!, title: 'Let go' });
    await rest(10);
    expect([server.count('/build'), job.scene!.document.title, job.exact, job.faults]).toEqual([3, 'Let go', true, []]);
  });

  it('takes what is offered for the document as it is, not as it was', async () => {
    const job = await opened();
    let n = 0;
    server.next = (c) => {
      if (!c.path.endsWith('/build')) return undefined;
      const scene = server.scene(c.body.document);
      scene.parts.measure = { digest: `m${++n}`, data: { closed: true, offers: { next: c.body.document } } };
      return { status: 200, body: scene };
    };
    job.set('title', 'Typed just now');
    const taken = job.setOffered<{ title: string }>('note', 'next', (d) => d.title);
    await rest(20);
    await taken;
    expect((job.document as never as { note: string }).note).toBe('Typed just now');
    await job.setOffered('note', 'unheard of');
    expect((job.document as never as { note: string }).note).toBe('Typed just now');
  });

  it('takes the normalised document only where nothing was typed since', async () => {
    const job = await opened();
    server.next = (c) => (c.path.endsWith('/build') ? { status: 200, body: server.scene({ ...(c.body.document as object), title: 'normalised' }) } : undefined);
    job.set('title', '8 1/4');
    await rest(10);
    expect(job.document?.title).toBe('normalised');
  });

  it('keeps what cannot be read as it was typed, and says which field', async () => {
    const job = await opened();
    const fault = { field: 'blank.upper.readings.0', message: 'not a length', hint: 'Write 70 mm.' };
    server.next = () => ({ status: 422, body: { code: 'bad_document', ...fault, faults: [fault] } });
    const before = job.scene;
    job.set('blank.upper.readings.0', 'abc');
    await rest();
    expect(job.value('blank.upper.readings.0')).toBe('abc');
    expect(job.fault('blank.upper.readings.0')?.hint).toBe('Write 70 mm.');
    expect(job.scene).toBe(before);
    expect(job.save).toBe('unsaved');
    server.next = null;
    job.set('blank.upper.readings.0', 261);
    await rest();
    expect(job.save).toBe('saved');
    expect(job.faults).toEqual([]);
  });

  it('lays a drawing that came while nothing was drawn yet where the core says', async () => {
    const job = new JobState(1);
    server.next = (c) => (c.path.endsWith('/build') ? new Promise<undefined>(() => {}) : undefined);
    void job.open('artwork');
    await rest(10);
    expect(job.scene).toBe(null);
    const placement = { width_mm: 40, up_mm: 45 } as never;
    job.addDrawing({ file: 'moon.svg', width: 60, height: 40, placement });
    job.addDrawing({ file: 'sun.svg', width: 60, height: 40, placement });
    await rest();
    expect(job.save).toBe('saved');
    expect((server.document.elements as { source: { file: string } }[]).map((e) => e.source.file)).toEqual(['moon.svg', 'sun.svg']);
  });

  it('keeps what was done while an undo was on its way', async () => {
    const job = await opened();
    job.set('title', 'One');
    await rest();
    let free: () => void = () => {};
    server.next = (c) =>
      c.path.endsWith('/undo')
        ? new Promise((r) => (free = () => r({ status: 200, body: { ...server.job(), revision: ++server.revision } })))
        : undefined;
    const undone = job.history('undo');
    await rest(10);
    job.set('title', 'Two, while it was on its way');
    free();
    await undone;
    await rest();
    expect(job.document?.title).toBe('Two, while it was on its way');
    expect(server.document.title).toBe('Two, while it was on its way');
    expect(job.save).toBe('saved');
  });

  it('draws anew once the connection is back, without another change', async () => {
    const job = await opened();
    server.next = () => 'gone';
    job.set('title', 'Typed in the dark');
    await rest();
    expect(job.save).toBe('offline');
    expect((job.scene!.document as { title: string }).title).not.toBe('Typed in the dark');
    server.next = null;
    await rest(3500);
    expect(job.save).toBe('saved');
    expect((job.scene!.document as { title: string }).title).toBe('Typed in the dark');
  });

  it('keeps unsaved work in this browser until the connection is back', async () => {
    const job = await opened();
    server.next = () => 'gone';
    job.set('title', 'Typed in the cellar');
    await rest();
    expect(job.save).toBe('offline');
    expect(store.size).toBe(1);
    // The browser is closed; the work is found again.
    server.next = null;
    const again = await opened();
    expect(again.document?.title).toBe('Typed in the cellar');
    await rest();
    expect(server.document.title).toBe('Typed in the cellar');
    expect(store.size).toBe(0);
  });

  it('tries again by itself', async () => {
    const job = await opened();
    server.next = (c) => (c.method === 'PUT' ? 'gone' : undefined);
    job.set('title', 'Patience');
    await rest();
    server.next = null;
    await rest(3100);
    expect(job.save).toBe('saved');
    expect(server.document.title).toBe('Patience');
  });

  it('never overwrites what somebody else saved', async () => {
    const job = await opened();
    server.revision = 5;
    server.document = { ...server.document, title: 'Theirs' };
    job.set('title', 'Mine');
    await rest();
    expect(job.stale).not.toBeNull();
    expect(server.document.title).toBe('Theirs');
    job.set('customer', 'still typing');
    await rest();
    expect(server.document.title).toBe('Theirs');
    await job.takeNewer();
    expect(job.document?.title).toBe('Theirs');
    expect(job.stale).toBeNull();
    job.set('title', 'After');
    await rest();
    expect(server.document.title).toBe('After');
  });

  it('asks, where the kept work is older than the server’s', async () => {
    store.set('wimple.unsaved.1', JSON.stringify({ revision: 1, document: { ...server.document, title: 'Kept' } }));
    server.revision = 3;
    const job = await opened();
    expect(job.document?.title).toBe('Kept');
    expect(job.stale).toBe(3);
    await rest(5000);
    expect(server.count('PUT')).toBe(0);
  });

  it('saves what is typed before it undoes', async () => {
    const job = await opened();
    job.set('title', 'Just now');
    await job.history('undo');
    const order = server.calls.map((c) => c.path.split('/').at(-1)).filter((p) => p === '1' || p === 'undo');
    expect(order.slice(-2)).toEqual(['1', 'undo']);
  });
});

describe('the drawing', () => {
  it('turns y in one place', () => {
    expect(turned([3, 4])).toEqual([3, -4]);
    expect(pathOf([[0, 0, 10, 0, 10, 5]])).toBe('M0 0L10 0L10 -5Z');
    expect(around([[1, 2], [5, -3]], 1)).toEqual([0, -4, 6, 3]);
  });

  it('zooms about the pointer and pans with the hand', () => {
    const view = new View();
    view.width = 800;
    view.height = 600;
    view.fitTo([0, 0, 100, 50]);
    const at = view.point(200, 150);
    view.zoomBy(2.5, 200, 150);
    expect(view.point(200, 150)[0]).toBeCloseTo(at[0], 9);
    expect(view.point(200, 150)[1]).toBeCloseTo(at[1], 9);
    const before = view.point(400, 300);
    view.panBy(30, -20);
    expect(view.point(430, 280)[0]).toBeCloseTo(before[0], 9);
    expect(view.point(430, 280)[1]).toBeCloseTo(before[1], 9);
    view.reset();
    const [x, y, w, h] = view.box;
    expect(x + w / 2).toBeCloseTo(50, 9);
    expect(y + h / 2).toBeCloseTo(-25, 9);
    expect(w).toBeGreaterThan(100);
    expect(h).toBeGreaterThan(50);
  });

  it('chooses round lengths for the scale bar', () => {
    expect(roundLength(37, false)).toBe(20);
    expect(roundLength(60, true)).toBeCloseTo(50.8);
    expect(roundLength(0.2, false)).toBe(1);
  });

  it('moves the last exact result by what the hand is ahead', () => {
    const place = (centre_deg: number, up_mm: number, width_mm = 40) => ({ centre_deg, up_mm, width_mm, turn_deg: 0 });
    const document = (p: unknown) => ({ elements: [{ source: {}, placements: [p] }] }) as never;
    const degree = Math.PI / 180;
    const across = { field: 'centre_deg', along: [35 * degree, 0], on_surface: degree, least: -180, most: 180, turns: true };
    const up = { field: 'up_mm', along: [0, 1], on_surface: 1, least: null, most: null, turns: false };
    const placed = { path: 'elements.0.placements.0', across, up } as never;
    const ahead = aheadIn(placed, document(place(0, 40)), document(place(10, 45, 44)), null);
    expect(ahead.dx).toBeCloseTo(350 * degree, 9);
    expect(ahead.dy).toBeCloseTo(5, 9);
    expect(ahead.scale).toBeCloseTo(1.1, 9);
    const held = { index: 0, path: 'elements.0.placements.0', placement: place(-175, 40) } as never;
    expect(aheadIn(placed, document(place(175, 40)), document(place(175, 40)), held).da).toBeCloseTo(10 * degree, 9);
  });
});

describe('a scene in parts', () => {
  const part = (digest: string, data: unknown) => ({ digest, data });
  const answer = (parts: object, whole = true) =>
    ({ document: {}, whole, levels: { measure: 'ok' }, told: ['measure'], stopped: null, waiting: [], parts }) as never;

  it('takes what did not come again from what came before', () => {
    const known = new KnownParts();
    const rings = [{ colour: '#000', rings: [] }];
    const first = known.scene(answer({ worn: part('w1', rings), template: part('t1', { low: 0 }) }));
    expect(known.digests).toEqual(['w1', 't1']);
    const next = known.scene(answer({ worn: part('w1', null), template: part('t2', { low: 1 }) }));
    expect(next.worn).toBe(first.worn);
    expect(next.template).toEqual({ low: 1 });
    expect(next.layers).toBeNull();
    expect(next.placed).toEqual([]);
  });

  it('shows on what was there before while the rest is worked out', () => {
    const known = new KnownParts();
    const first = known.scene(answer({ worn: part('w1', [1]), lies: part('l1', { da: 1, ds: 2 }) }));
    const half = known.scene(answer({ placed: part('p1', [2]) }, false), first);
    expect([half.worn, half.lies]).toEqual([first.worn, first.lies]);
    expect(half.placed).toEqual([2]);
    // What the object wears may come after the open step is shown.
    const next = known.scene(answer({ placed: part('p2', [3]) }), half);
    expect([next.worn, next.lies, next.old]).toEqual([first.worn, first.lies, ['worn', 'lies', 'mending', 'ways']]);
    const later = known.later({ later: 'layers', parts: { worn: part('w2', [4]) } } as never, next);
    expect([later.worn, later.placed, later.old]).toEqual([[4], [3], ['lies', 'mending', 'ways']]);
    expect(known.later({ later: 'price', parts: {} } as never, later)).toBe(later);
  });

  it('keeps what was said of a step until it is looked at again, and says that it is old', () => {
    const known = new KnownParts();
    const said = (step: string, sentence: string) => ({ step, sentence }) as never;
    const before = {
      verdicts: [said('measure', 'old'), said('sheets', 'fits')],
      levels: { measure: 'look', sheets: 'ok' },
      told: ['measure', 'sheets'],
      faults: {},
    } as unknown as Judged;
    const now = known.judged(answer({ verdicts: part('v', [said('measure', 'new')]) }), before);
    expect(now.verdicts.map((v) => v.sentence)).toEqual(['new', 'fits']);
    expect([now.levels, now.told]).toEqual([{ measure: 'ok', sheets: 'ok' }, ['measure']]);
    const line = { later: 'sheets', levels: { sheets: 'stop' }, told: ['measure', 'sheets'], fault: null };
    const then = laterJudged({ ...line, verdicts: [said('sheets', 'too wide')] } as never, now);
    expect(then.verdicts.map((v) => v.sentence)).toEqual(['new', 'too wide']);
    expect([then.levels.sheets, then.told]).toEqual(['stop', ['measure', 'sheets']]);
  });
});

describe('an answer in lines', () => {
  it('is put together however it is cut', async () => {
    const words = '{"doing":"layers","share":0.5}\n{"whole":true}';
    for (const at of [1, 10, 31, 32, 40]) {
      const body = new ReadableStream<Uint8Array>({
        start(to) {
          for (const bit of [words.slice(0, at), words.slice(at)]) to.enqueue(new TextEncoder().encode(bit));
          to.close();
        },
      });
      const found = [];
      for await (const piece of piecesOf(body)) found.push(piece);
      expect(found).toEqual([{ doing: 'layers', share: 0.5 }, { whole: true }]);
    }
  });

  it('that breaks off, or ends before it is whole, is asked for again, and nothing waits for ever', async () => {
    const job = await opened();
    const real = server.fetch;
    const half = '{"doing":"artwork","share":0.5}\n';
    for (const broken of [true, false]) {
      const body = () =>
        new ReadableStream<Uint8Array>({
          start(to) {
            to.enqueue(new TextEncoder().encode(half));
            if (!broken) to.close();
          },
          pull(to) {
            if (broken) to.error(new TypeError('network error'));
          },
        });
      let asked = 0;
      vi.stubGlobal('fetch', async (request: Request) => {
        if (request.url.endsWith('/build') && !asked++) return new Response(body());
        return real(request);
      });
      job.set('title', `Moved ${broken}`);
      await rest(50);
      expect([asked, job.working, job.exact]).toEqual([1, false, false]);
      // At the next save that reaches the server, at the latest after a while.
      await rest(3800);
      expect([asked, job.working, job.exact]).toEqual([2, false, true]);
    }
    vi.stubGlobal('fetch', real);
  });

  it('is asked for again where it ends before all remedies were tried', async () => {
    const job = await opened();
    const real = server.fetch;
    let asked = 0;
    vi.stubGlobal('fetch', async (request: Request) => {
      if (!request.url.endsWith('/build') || asked++) return real(request);
      const { document } = (await request.json()) as { document: unknown };
      return new Response(JSON.stringify(server.scene(document)) + '\n');
    });
    job.set('title', 'Cut off');
    await rest(3800);
    expect([asked, job.exact]).toEqual([2, true]);
    vi.stubGlobal('fetch', real);
  });

  it('refused of one field stays typed, the rest is saved, and undo takes it back', async () => {
    const job = await opened();
    const reads = (d: Record<string, unknown>) => Number.isFinite((d.blank as { upper: { readings: number[] } }).upper.readings[0]);
    server.next = (call) => {
      const typed = call.method === 'PUT' || call.path.endsWith('/build') ? call.body.document : undefined;
      if (!typed || reads(typed as Record<string, unknown>)) return undefined;
      const fault = { field: 'blank.upper.readings.0', message: 'This is no length.', hint: '' };
      return { status: 422, body: { code: 'bad', ...fault, faults: [fault] } };
    };
    job.set('blank.upper.readings.0', 'a start');
    job.set('title', 'Named meanwhile');
    await rest();
    expect(job.value('blank.upper.readings.0')).toBe('a start');
    expect(job.fault('blank.upper.readings.0')?.message).toBe('This is no length.');
    expect([job.save, job.exact, server.document.title]).toEqual(['marked', true, 'Named meanwhile']);
    expect(job.scene?.document).toEqual(server.document);
    await job.history('undo');
    await rest();
    expect([job.value('blank.upper.readings.0'), job.save, job.faults]).toEqual([260, 'saved', []]);
    server.next = null;
  });

  it('no more calls wrong what is right again as soon as it is saved, however long the building takes', async () => {
    const job = await opened();
    const fault = { field: 'title', message: 'This is no title.', hint: '' };
    let held = false;
    server.next = (call) => {
      if (call.body.document?.['title'] === 'no') return { status: 422, body: { code: 'bad', ...fault, faults: [fault] } };
      return held && call.path.endsWith('/build') ? new Promise<undefined>(() => {}) : undefined;
    };
    job.set('title', 'no');
    await rest();
    expect([job.save, job.faults.length]).toEqual(['marked', 1]);
    held = true;
    job.set('title', 'Yes');
    await rest();
    expect([job.save, job.faults]).toEqual(['saved', []]);
  });

  it('saves the rest, too, where a save with the wrong value in it is answered last', async () => {
    const job = await opened();
    const fault = { field: 'title', message: 'This is no title.', hint: '' };
    const no: Reply = { status: 422, body: { code: 'bad', ...fault, faults: [fault] } };
    let answer: () => void = () => {};
    const late = new Promise<Reply>((take) => (answer = () => take(no)));
    server.next = (call) => {
      if (!call.body.document || call.body.document['title'] !== 'no') return undefined;
      return call.method === 'PUT' ? late : no;
    };
    job.set('title', 'no');
    void job.store();
    await rest(300);
    expect([job.save, job.fault('title')?.message]).toEqual(['saving', 'This is no title.']);
    answer();
    await rest();
    expect([job.save, job.value('title'), server.document.title]).toEqual(['marked', 'no', 'Cup']);
  });

  it('lets a viewer try things out and keeps nothing of it', async () => {
    const job = await opened();
    session.keep({ role: 'viewer', csrf: '' } as never);
    try {
      job.set('title', 'Tried');
      await rest();
      expect(job.save).toBe('looking');
      expect(server.document.title).not.toBe('Tried');
      expect(store.size).toBe(0);
      const asked = server.calls.length;
      await job.history('undo');
      expect(server.calls.length).toBe(asked);
    } finally {
      session.current = null;
    }
  });
});
