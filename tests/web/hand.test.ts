/** The hand, without a page: when it rests, and what the object does while it moves. */
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { Pace } from '../../web/src/lib/scene/pace';
import { Hand, type Held } from '../../web/src/lib/state/hand';

const held = { index: 0, path: 'elements.0.placements.0', placement: {} } as Held;
let frames: (() => void)[];

beforeEach(() => {
  vi.useFakeTimers();
  frames = [];
  vi.stubGlobal('requestAnimationFrame', (f: () => void) => frames.push(f));
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});
const frame = () => frames.splice(0).forEach((f) => f());

describe('the hand', () => {
  it('rests when it has not moved for a while, and what waited for it goes on', async () => {
    const hand = new Hand();
    const rested = vi.fn();
    hand.move(held, rested);
    vi.advanceTimersByTime(80);
    hand.move(held, rested);
    let free = false;
    void hand.rest().then(() => (free = true));
    vi.advanceTimersByTime(80);
    frame();
    await vi.advanceTimersByTimeAsync(0);
    expect([free, rested.mock.calls.length]).toEqual([false, 0]);
    vi.advanceTimersByTime(80);
    frame();
    await vi.advanceTimersByTimeAsync(0);
    expect([free, rested.mock.calls.length, hand.moving]).toEqual([true, 1, false]);
  });

  it('has not rested where the page was held up and hears of its move with the next frame', () => {
    const hand = new Hand();
    const rested = vi.fn();
    hand.move(held, rested);
    vi.advanceTimersByTime(500);
    hand.move(held, rested);
    frame();
    expect([rested.mock.calls.length, hand.moving]).toEqual([0, true]);
  });

  it('is at rest, and asks for nothing, once it let go', async () => {
    const hand = new Hand();
    const rested = vi.fn();
    hand.move(held, rested);
    hand.letGo();
    await hand.rest();
    vi.advanceTimersByTime(1000);
    frame();
    expect([rested.mock.calls.length, hand.moving, hand.held]).toEqual([0, false, null]);
  });
});

describe('the object’s pace', () => {
  it('paints a cheap object with every move, a dear one seldom and coarser, a very dear one not at all', () => {
    const of = (cost: number) => {
      const pace = new Pace();
      pace.took(cost, 1);
      let painted = 0;
      for (let now = 10_000; now < 12_000; now += 10) painted += Number(pace.follows(now));
      return { painted, size: pace.size };
    };
    expect(of(4)).toEqual({ painted: 200, size: 1 });
    const dear = of(180);
    expect(dear.size).toBeCloseTo(0.5, 1);
    expect(dear.painted).toBeGreaterThan(0);
    expect(dear.painted).toBeLessThan(5);
    expect(of(3000).painted).toBe(0);
  });
});
