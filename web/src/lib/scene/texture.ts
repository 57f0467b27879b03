/** Decal contours painted on a canvas that wraps the object: u round the surface, v along the side. */
export type Patch = { left: number; right: number; low: number; high: number; turn: number };

/** Where what is painted lies, seen from where its contours do. */
export type Lies = { da: number; ds: number };

/** Flakes of a pattern, the same each time. */
function flake(n: number, of: number): number {
  return ((n * 16807 + 12345) % 2147483647) % of;
}

/** What tells a finish from another, laid over what is painted and nowhere else. */
function finishOver(g: CanvasRenderingContext2D, finish: string, w: number, h: number) {
  const unit = Math.max(1, w / 900);
  g.globalCompositeOperation = 'source-atop';
  if (finish === 'glitter') {
    let seed = 1;
    for (let i = 0; i < 9000; i++) {
      seed = flake(seed, 2147483647);
      const x = seed % w;
      seed = flake(seed, 2147483647);
      g.fillStyle = i % 3 ? 'rgba(255,255,255,0.75)' : 'rgba(0,0,0,0.4)';
      g.fillRect(x, seed % h, 1.6 * unit, 1.6 * unit);
    }
  } else if (finish === 'holographic') {
    const bands = ['#7fe3ff', '#c7a6ff', '#ffb0dc', '#fff0a0', '#a8f5c0', '#9ab8ff'];
    g.globalAlpha = 0.5;
    for (let i = -h; i < w; i += 9 * unit) {
      g.fillStyle = bands[Math.abs(Math.round(i / (9 * unit))) % bands.length]!;
      g.beginPath();
      g.moveTo(i, 0);
      g.lineTo(i + 9 * unit, 0);
      g.lineTo(i + 9 * unit + h, h);
      g.lineTo(i + h, h);
      g.fill();
    }
  } else if (finish === 'brushed') {
    for (let y = 0; y < h; y += 3 * unit) {
      g.fillStyle = (y / unit) % 2 < 1 ? 'rgba(255,255,255,0.28)' : 'rgba(0,0,0,0.14)';
      g.fillRect(0, y, w, unit);
    }
  } else if (finish === 'reflective') {
    g.strokeStyle = 'rgba(255,255,255,0.4)';
    g.lineWidth = unit;
    for (let y = 0; y < h; y += 7 * unit) {
      g.beginPath();
      for (let x = 0; x < w; x += 5 * unit) g.lineTo(x, y + ((x / (5 * unit)) % 2 < 1 ? 3 * unit : 0));
      g.stroke();
    }
  }
  g.globalAlpha = 1;
  g.globalCompositeOperation = 'source-over';
}

export function paintDecal(
  canvas: HTMLCanvasElement,
  rings: number[][],
  colour: string,
  finish: string,
  patch: Patch,
  lies: Lies,
) {
  const g = canvas.getContext('2d')!;
  const w = canvas.width;
  const h = canvas.height;
  g.clearRect(0, 0, w, h);
  g.fillStyle = colour;
  const sx = w / (patch.right - patch.left);
  const sy = h / (patch.high - patch.low);
  const shifts = patch.turn ? [-patch.turn, 0, patch.turn] : [0];
  const low = patch.low - lies.ds;
  for (const turn of shifts) {
    const left = patch.left - lies.da - turn;
    g.beginPath();
    for (const ring of rings) {
      for (let i = 0; i + 1 < ring.length; i += 2) {
        const x = (ring[i]! - left) * sx;
        const y = h - (ring[i + 1]! - low) * sy;
        if (i) g.lineTo(x, y);
        else g.moveTo(x, y);
      }
      g.closePath();
    }
    g.fill('evenodd');
  }
  finishOver(g, finish, w, h);
}
