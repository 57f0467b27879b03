/** The front end writes lengths as the core does: cases made by the core itself. */
import { execFileSync } from 'node:child_process';
import { describe, expect, it } from 'vitest';
import { at, put } from '../../web/src/lib/state/paths';
import { fieldText, length, volumeText } from '../../web/src/lib/units';

const PYTHON = `
import json
from wimple_core.figures import format_length
mm = [0, 0.05, 0.1, 1, 3.175, 12.7, 25.4, 69.85, 69.9, 209.55, 262.5, -3.2, 304.8, 1234.56] + [i * 1.9 for i in range(60)]
print(json.dumps([[v, s, d, format_length(v, s, d)] for v in mm for s in ("mm", "in_fraction", "in_decimal") for d in (1, 2)]))`;

describe('lengths', () => {
  const cases = JSON.parse(execFileSync('python', ['-c', PYTHON], { encoding: 'utf-8' })) as [number, 'mm' | 'in_fraction' | 'in_decimal', number, string][];
  it('are written as the core writes them', () => {
    expect(cases.length).toBeGreaterThan(400);
    for (const [mm, style, digits, text] of cases) expect(length(mm, style, digits), `${mm} ${style}`).toBe(text);
  });
  it('stand in fields with every figure they have', () => {
    expect(fieldText(266.7, 'in_fraction')).toBe('10 1/2');
    expect(fieldText(70, 'in_fraction')).toBe('2.7559');
    expect(fieldText(262.525, 'mm')).toBe('262.525');
  });
});

describe('paths', () => {
  it('change one value and share the rest', () => {
    const was = { a: { b: [1, 2, 3] }, c: { d: 4 } };
    const now = put(was, 'a.b.1', 9);
    expect(now).toEqual({ a: { b: [1, 9, 3] }, c: { d: 4 } });
    expect(was.a.b[1]).toBe(2);
    expect(now.c).toBe(was.c);
    expect(at(now, 'a.b.1')).toBe(9);
    expect(at(now, 'a.x.y')).toBeUndefined();
    expect(put(was, 'a.b.0', undefined).a.b).toEqual([2, 3]);
  });
});

describe('volumes', () => {
  const SAID = `
import json
from wimple_core.units import parse_volume
print(json.dumps([parse_volume(f"{n} fl oz", "ml") for n in (1, 8, 12, 20)]))`;
  it('are in the fluid ounces that the core reads', () => {
    const ml = JSON.parse(execFileSync('python', ['-c', SAID], { encoding: 'utf-8' })) as number[];
    expect(ml.map((v) => Number(volumeText(v, 'in_fraction')))).toEqual([1, 8, 12, 20]);
  });
});
