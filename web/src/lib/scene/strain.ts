/** Shades of strain, the same on drawing and object: pale below the film's limit, then warm where stretched and dark where shortened;
 * lightness alone tells how bad it is, so that no colour vision is needed. */
type Shade = [number, number, number];
const CALM: Shade = [0.93, 0.94, 0.96];
const STRETCHED: Shade[] = [CALM, [0.88, 0.84, 0.74], [0.8, 0.69, 0.47], [0.66, 0.45, 0.16], [0.42, 0.2, 0.05]];
const SHORTENED: Shade[] = [CALM, [0.78, 0.83, 0.91], [0.57, 0.67, 0.83], [0.27, 0.4, 0.64], [0.08, 0.15, 0.35]];

/** Linear red, green, blue of a step of severity, positive where the film stretches. */
export function shadeOf(step: number): Shade {
  const s = (step > 0 ? STRETCHED : SHORTENED)[Math.abs(step)]!;
  return s.map((c) => c ** 2.2) as Shade;
}

/** The same for a drawing. */
export function paintOf(step: number, stretched: boolean): string {
  const s = (stretched ? STRETCHED : SHORTENED)[step]!;
  return `rgb(${s.map((c) => Math.round(c * 255)).join(' ')})`;
}
