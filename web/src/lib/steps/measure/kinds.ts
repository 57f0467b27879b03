/** The kinds of blank by the name a maker asks for; a mug is a cup with its handle. */
export const KINDS: [string, string][] = [
  ['cup', 'straight or tapered cup'],
  ['mug', 'mug with a handle'],
  ['stack', 'bottle in sections'],
  ['revolution', 'turned body, with a belly'],
  ['dome', 'dome'],
  ['panel', 'flat panel'],
  ['curved_panel', 'panel bent one way'],
  ['rise_panel', 'panel bent both ways'],
  ['insert', 'insert or lid'],
  ['mesh', 'scanned body'],
];
export const SHAPES: [string, string][] = [
  ['rectangle', 'rectangle'],
  ['rounded', 'rounded rectangle'],
  ['circle', 'circle'],
  ['ellipse', 'ellipse'],
  ['hexagon', 'hexagon'],
  ['polygon', 'regular polygon'],
  ['outline', 'from a drawing'],
];
export const ROUND_READS: [string, string][] = [
  ['circumference', 'round it'],
  ['diameter', 'across it'],
];
export const SIDE_READS: [string, string][] = [
  ['slant', 'along the side'],
  ['upright', 'upright'],
];
export const kindOf = (blank: { kind?: string; handle?: unknown } | undefined) =>
  blank?.kind === 'cup' && blank.handle ? 'mug' : (blank?.kind ?? 'cup');
export const kindName = (kind: string) => KINDS.find(([k]) => k === kind)?.[1] ?? kind;
