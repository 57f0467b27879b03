/** Verdicts told apart: two may say the same of two drawings. */
import type { Verdict } from '../api/client';
import type { Judged } from './scene';

export const keyOf = (v: Pick<Verdict, 'code' | 'field' | 'sentence'>) => `${v.code} ${v.field} ${v.sentence}`;

/** The verdict that was clicked. */
export const verdictShown = (judged: Judged, shown: string) =>
  shown ? judged.verdicts.find((v) => keyOf(v) === shown) : undefined;

/** What was tried and mends a verdict. */
export const remedyOf = (judged: Judged, v: Verdict) => judged.remedies.find((r) => keyOf(r) === keyOf(v));
