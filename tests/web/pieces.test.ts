/** Pieces picked from a bill and found on the drawing, and balloons that keep apart. */
import { describe, expect, it } from 'vitest';
import { apart, known, PiecesThere } from '../../web/src/lib/drawing/pieces';
import { middleOf, nextTo, ofTheirColour, picking, setOf, shapedAlike, upTo, withinThem, withTheirGroups, type Bill } from '../../web/src/lib/state/bill';

const bill = {
  element: 'e1',
  scale: 2,
  lines: [
    { colour: '#000000', words: 'ring', pieces: [0] },
    { colour: '#ff0000', words: 'dots', pieces: [1, 3] },
    { colour: '#000000', words: 'bar', pieces: [2] },
  ],
  names: ['1', '2', '3', '2.2'],
  alike: [0, 1, 2, 1],
  area: [9, 1, 1, 1],
  longest: [30, 3, 8, 3],
  within: [-1, 0, 1, -1],
  middles: [0, 0, 10, 4, 20, 8, 30, 0],
  gone: [],
  groups: [[1, 2]],
} as unknown as Bill;

describe('a bill', () => {
  it('is picked from by shape, colour, size, containment and place', () => {
    expect(shapedAlike(bill, setOf(['2']))).toEqual(['2', '2.2']);
    expect(ofTheirColour(bill, setOf(['1']))).toEqual(['1', '3']);
    expect(withinThem(bill, setOf(['1']))).toEqual(['2', '3']);
    expect(upTo(bill, 3, 'longest')).toEqual(['2', '2.2']);
    expect(upTo(bill, 8.5, 'area')).toEqual(['2', '3', '2.2']);
    expect(nextTo(bill, setOf(['2']), 1)).toEqual(['2.2']);
    expect(nextTo(bill, setOf(['3']), 1)).toEqual(['1']);
    expect(nextTo(bill, setOf([]), -1)).toEqual(['3']);
    expect(middleOf(bill, setOf(['2', '3']))).toEqual([15, 6]);
    expect(middleOf(bill, setOf(['gone']))).toBeNull();
  });
  it('picks what goes together by any of it', () => {
    expect(withTheirGroups(bill, ['1'])).toEqual(['1']);
    expect(withTheirGroups(bill, ['1', '3']).toSorted()).toEqual(['1', '2', '3']);
  });
  it('takes more, and lets go what all was picked already', () => {
    expect([...picking(setOf(['1']), ['2'], false)]).toEqual(['2']);
    expect([...picking(setOf(['1']), ['2'], true)]).toEqual(['1', '2']);
    expect([...picking(setOf(['1', '2']), ['2'], true)]).toEqual(['1']);
  });
});

const square = (x: number, y: number, s: number) => [x, y, x + s, y, x + s, y + s, x, y + s];

describe('pieces on the drawing', () => {
  const paints = [
    { colour: '#000000', rings: [square(0, 0, 30), square(10, 10, 10)], of: [0, 0], names: ['1#2:2'] },
    { colour: '#ff0000', rings: [square(14, 14, 1)], of: [0], names: ['2:2'] },
  ];
  const there = new PiecesThere(paints as never, ['1', '2', '2:2'], [100, 0]);
  it('are known by their names before they were cut and copied', () => {
    expect(known('1#2:2', setOf(['1']))).toBe('1');
    expect(known('2:2#3', setOf(['2', '2:2']))).toBe('2:2');
  });
  it('are found where they lie, holes left out, the tiny also from near', () => {
    expect(there.at([105, 5], 0.5)).toBe('1');
    expect(there.at([112, 12], 0.5)).toBeNull();
    expect(there.at([113.7, 14.5], 0.5)).toBe('2:2');
    expect(there.at([5, 5], 0.5)).toBeNull();
    expect(there.within([113, 13, 116, 16])).toEqual(['2:2']);
    expect(there.within([99, -1, 131, 31])).toEqual(['1', '2:2']);
    expect(there.rings((n) => n === '1')).toHaveLength(2);
  });
  it('has balloons in their order that keep apart', () => {
    expect(apart([50, 52, 10], 10, 0, 100)).toEqual([50, 60, 10]);
    expect(apart([98, 99], 10, 0, 100)).toEqual([90, 100]);
  });
});
