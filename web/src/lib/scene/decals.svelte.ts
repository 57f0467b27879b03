/** What the layers of film are painted on: one canvas each, shifted on the object while the hand is ahead of it. */
import * as THREE from 'three';
import { NOWHERE, type Ahead } from '../state/hand';
import type { Scene } from '../state/scene';
import { paintDecal, type Patch } from './texture';

type Layer = { canvas: HTMLCanvasElement; texture: THREE.CanvasTexture };
const LARGE = 4096;
const SMALL = 1536;

export class Decals {
  /** The scene that is painted on them. */
  painted = $state.raw<Scene | null>(null);
  private layers: Layer[] = [];
  private key = '';

  layer(i: number): Layer {
    if (!this.layers[i]) {
      const canvas = document.createElement('canvas');
      const texture = new THREE.CanvasTexture(canvas);
      texture.colorSpace = THREE.SRGBColorSpace;
      texture.wrapS = THREE.RepeatWrapping;
      texture.generateMipmaps = false;
      texture.minFilter = THREE.LinearFilter;
      this.layers[i] = { canvas, texture };
    }
    return this.layers[i];
  }

  /** Paint all layers, unless they are painted so already; `tall` is how high the patch is for its width. */
  paint(next: Scene, patch: Patch, tall: number, large: boolean, colours: string[]) {
    const key = JSON.stringify([next.lies, patch, tall, large, colours]);
    if (this.painted?.worn === next.worn && this.key === key) {
      this.painted = next;
      return;
    }
    this.key = key;
    const width = large ? LARGE : SMALL;
    const height = Math.max(16, Math.min(Math.round(width * tall), LARGE));
    next.worn.forEach((worn, i) => {
      const { canvas, texture } = this.layer(i);
      if (canvas.width !== width || canvas.height !== height) {
        canvas.width = width;
        canvas.height = height;
        texture.dispose();
      }
      paintDecal(canvas, worn.rings, colours[i] ?? worn.colour, worn.finish, patch, next.lies);
      texture.needsUpdate = true;
    });
    this.painted = next;
    this.shift(NOWHERE, patch);
  }

  /** Shift what is painted by what the hand is ahead: it costs nothing. */
  shift({ da, ds }: Ahead, patch: Patch) {
    for (const { texture } of this.layers)
      texture.offset.set(-da / (patch.right - patch.left), -ds / (patch.high - patch.low));
  }

  /** Lay each film where a hand puts it, so many times as wrong: a map of the surface's own coordinates, upside down. */
  mislay(worn: Scene['worn'], hand: number, times: number, patch: Patch) {
    const [w, h] = [patch.right - patch.left, patch.high - patch.low];
    this.layers.forEach(({ texture }, i) => {
      const m = times > 0 ? worn[i]?.moves[hand] : undefined;
      texture.matrixAutoUpdate = !m;
      if (!m) return;
      const k = times;
      // a' = A a + t, of which a texture wants the way back, in its own units.
      const [p, q, x] = [1 + k * (m[0]! - 1), k * m[1]!, k * m[2]!];
      const [r, s, y] = [k * m[3]!, 1 + k * (m[4]! - 1), k * m[5]!];
      const unit = new THREE.Matrix3().set(w, 0, patch.left, 0, h, patch.low, 0, 0, 1);
      const back = new THREE.Matrix3().set(p, q, x, r, s, y, 0, 0, 1).invert();
      texture.matrix.copy(unit.clone().invert()).multiply(back).multiply(unit);
    });
  }

  drop() {
    for (const { texture } of this.layers) texture.dispose();
    this.layers = [];
  }
}
