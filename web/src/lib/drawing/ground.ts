/** Lines on the blank's own colour: dark on a light one, light on a dark one, whatever the theme. */

const DARK =
  '--color-ink: #18202e; --color-quiet: #596273; --color-edge: #7b8494; --color-hairline: #cdd2da; --color-blue: #1c3d7a; --color-stop: #b3261e; --color-look: #b86e00';
const LIGHT =
  '--color-ink: #eef2f8; --color-quiet: #b9c4d6; --color-edge: #8ea0bf; --color-hairline: #3f5478; --color-blue: #b7cdf7; --color-stop: #ff8f86; --color-look: #ffbd59';
/** So bright, of 255, a ground is light. */
const BRIGHT = 128;

/** The colours of lines (as a style) that are drawn on a ground, `#rrggbb`. */
export function linesOn(ground: string): string {
  const [red, green, blue] = [1, 3, 5].map((i) => parseInt(ground.slice(i, i + 2), 16));
  return 0.299 * red! + 0.587 * green! + 0.114 * blue! >= BRIGHT ? DARK : LIGHT;
}
