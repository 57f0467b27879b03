/** Verdicts told apart: two may say the same of two drawings. */
import type { Verdict } from '../api/client';
import type { Scene } from './scene';

export const keyOf = (v: Verdict) => `${v.code} ${v.field} ${v.sentence}`;

/** The verdict that was clicked. */
export const verdictShown = (scene: Scene, shown: string) =>
  shown ? scene.verdicts.find((v) => keyOf(v) === shown) : undefined;
