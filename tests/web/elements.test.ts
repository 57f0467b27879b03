/** What has a size of its own: a width given to it changes that, and the hand sees it grow. */
import { describe, expect, it } from 'vitest';
import type { JobDocument } from '../../web/src/lib/api/client';
import { nameOf, placed, sizeOf } from '../../web/src/lib/state/elements';
import { aheadIn } from '../../web/src/lib/state/hand';
import type { Placed } from '../../web/src/lib/state/scene';

const PATH = 'elements.1.placements.0';
const placement = { width_mm: 60, up_mm: 40, centre_deg: 0, turn_deg: 0 };
const document = {
  elements: [
    { id: 'e1', source: { kind: 'file', file: 'moon.svg', shades: 1 }, placements: [placement] },
    { id: 'e2', source: { kind: 'lettering', text: 'Two\nlines', size_mm: 10 }, placements: [placement] },
  ],
} as unknown as JobDocument;
const drawn = {
  path: PATH,
  width: 80,
  sized_by: ['elements.1.source.size_mm'],
  across: { field: 'centre_deg', along: [1, 0], on_surface: 1, turns: false, least: null, most: null },
  up: { field: 'up_mm', along: [0, 1], on_surface: 1, turns: false, least: null, most: null },
} as unknown as Placed;

describe('elements', () => {
  it('are called by their file or their first words', () => {
    expect(document.elements!.map((e) => nameOf(e as never))).toEqual(['moon.svg', 'Two']);
    expect([sizeOf(document, undefined), sizeOf(document, drawn)]).toEqual([null, 10]);
    expect(nameOf({ source: { kind: 'shape', form: { form: 'arc_band' } } } as never)).toBe('arc band');
  });

  it('take a width as a width, or as a change of their own size', () => {
    const file = placed(document, [drawn], 'elements.0.placements.0', { width_mm: 90, up_mm: 5 });
    expect(file.elements![0]!.placements![0]).toMatchObject({ width_mm: 90, up_mm: 5 });
    const words = placed(document, [drawn], PATH, { width_mm: 120, up_mm: 5 });
    expect(words.elements![1]!.source).toMatchObject({ size_mm: 15 });
    expect(words.elements![1]!.placements![0]).toMatchObject({ width_mm: 60, up_mm: 5 });
    expect(words.elements![0]).toBe(document.elements![0]);
    expect(placed(document, [drawn], PATH, { width_mm: 0.1 }).elements![1]!.source).toMatchObject({ size_mm: 0.5 });
  });

  it('go once round as wide as that makes them, until they are made wider', () => {
    const path = 'elements.0.placements.0';
    const round = placed(document, [], path, { once_round_mm: 0 });
    const drawnRound = { ...drawn, path, width: 225.96, sized_by: [] };
    const of = (values: object) => placed(round, [drawnRound], path, values).elements![0]!.placements![0];
    // Moved, the hand holds the width it is seen with: the one that was typed stays.
    expect(of({ up_mm: 5, width_mm: 225.96 })).toMatchObject({ up_mm: 5, width_mm: 60, once_round_mm: 0 });
    expect(of({ width_mm: 180 })).toMatchObject({ width_mm: 180, once_round_mm: null });
  });

  it('are seen to grow with the hand, and after it until the exact ones are there', () => {
    const held = { index: 1, path: PATH, placement: { ...placement, width_mm: 120 } as never };
    expect(aheadIn(drawn, document, document, held).scale).toBeCloseTo(1.5);
    const after = placed(document, [drawn], PATH, { width_mm: 120 });
    expect(aheadIn(drawn, document, after, null).scale).toBeCloseTo(1.5);
    expect(aheadIn(drawn, after, after, null).scale).toBe(1);
  });
});
