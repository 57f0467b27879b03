/** Decal contours painted on a canvas that wraps the object: u round the surface, v along the side. */
export type Patch = { left: number; right: number; low: number; high: number; turn: number };

/** Where what is painted lies, seen from where its contours do. */
export type Lies = { da: number; ds: number };

export function paintDecal(canvas: HTMLCanvasElement, rings: number[][], colour: string, patch: Patch, lies: Lies) {
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
}
