/** From the core's millimetres, y up, to the screen's, y down: here and nowhere else. */
export type Point = [number, number];
export type Bounds = [number, number, number, number];

/** Millimetres to a pixel of a screen of 96 to the inch: what 1 : 1 is. */
export const MM_PER_PX = 25.4 / 96;

export const turned = ([x, y]: Point): Point => [x, -y];

/** Path data of flat rings (x0, y0, x1, y1, ...). */
export function pathOf(rings: number[][], close = true): string {
  let d = '';
  for (const ring of rings) {
    for (let i = 0; i + 1 < ring.length; i += 2) d += `${i ? 'L' : 'M'}${ring[i]} ${-ring[i + 1]!}`;
    if (close) d += 'Z';
  }
  return d;
}

export const line = (...points: Point[]) => pathOf([points.flat()], false);

/** The box of points, grown by a margin. */
export function around(points: Point[], margin = 0): Bounds {
  const xs = points.map((p) => p[0]);
  const ys = points.map((p) => p[1]);
  return [Math.min(...xs) - margin, Math.min(...ys) - margin, Math.max(...xs) + margin, Math.max(...ys) + margin];
}

/** A length that reads well on a scale bar, about `wanted` mm long. */
export function roundLength(wanted: number, inch: boolean): number {
  const unit = inch ? 25.4 : 1;
  const steps = inch ? [0.125, 0.25, 0.5, 1, 2, 4, 8, 16, 32] : [1, 2, 5, 10, 20, 50, 100, 200, 500, 1000];
  return unit * (steps.findLast((s) => s * unit <= wanted) ?? steps[0]!);
}
