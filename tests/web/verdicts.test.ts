/** Verdicts told apart, though two say the same. */
import { describe, expect, it } from 'vitest';
import type { Verdict } from '../../web/src/lib/api/client';
import type { Judged } from '../../web/src/lib/state/scene';
import { keyOf, verdictShown } from '../../web/src/lib/state/verdicts';

const verdict = (field: string, places: [number, number][] = []) =>
  ({ code: 'artwork.readable', field, sentence: 'All 40.0 mm are readable.', places }) as unknown as Verdict;

describe('verdicts', () => {
  it('of two drawings that say the same are two', () => {
    const [a, b] = [verdict('elements.0.placements.0'), verdict('elements.1.placements.0', [[1, 2]])];
    expect(keyOf(a!)).not.toBe(keyOf(b!));
    const judged = { verdicts: [a, b] } as unknown as Judged;
    expect(verdictShown(judged, keyOf(b!))?.places).toEqual([[1, 2]]);
    expect(verdictShown(judged, '')).toBe(undefined);
  });
});
