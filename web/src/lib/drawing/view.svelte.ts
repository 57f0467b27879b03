/** What part of the drawing is seen: fit, pan and zoom, in millimetres. */
import type { Bounds, Point } from './paper';

export class View {
  width = $state(600);
  height = $state(400);
  private bounds = $state.raw<Bounds>([0, 0, 100, 100]);
  private zoom = $state(1);
  private pan = $state.raw<Point>([0, 0]);
  /** Pixels kept free round the drawing, across and up, for its dimensions. */
  padding = $state.raw<Point>([44, 62]);

  fitTo(bounds: Bounds) {
    this.bounds = bounds;
  }
  reset() {
    this.zoom = 1;
    this.pan = [0, 0];
  }
  get moved() {
    return this.zoom !== 1 || this.pan[0] !== 0 || this.pan[1] !== 0;
  }
  /** Millimetres to one pixel of the screen. */
  get px(): number {
    const [l, b, r, t] = this.bounds;
    const room = (n: number, kept: number) => Math.max(n - 2 * kept, 60);
    return (
      Math.max((r - l) / room(this.width, this.padding[0]), (t - b) / room(this.height, this.padding[1]), 1e-6) /
      this.zoom
    );
  }
  /** Upper left corner and size of what is seen, screen orientation. */
  get box(): [number, number, number, number] {
    const [l, b, r, t] = this.bounds;
    const w = this.width * this.px;
    const h = this.height * this.px;
    return [(l + r) / 2 + this.pan[0] - w / 2, -(b + t) / 2 + this.pan[1] - h / 2, w, h];
  }
  /** Where on the drawing (mm, y up) a place on the screen is, from the drawing's upper left corner in pixels. */
  point(x: number, y: number): Point {
    const [x0, y0] = this.box;
    return [x0 + x * this.px, -(y0 + y * this.px)];
  }
  panBy(dx: number, dy: number) {
    this.pan = [this.pan[0] - dx * this.px, this.pan[1] - dy * this.px];
  }
  zoomBy(factor: number, x = this.width / 2, y = this.height / 2) {
    const before = this.point(x, y);
    this.zoom = Math.min(60, Math.max(0.2, this.zoom * factor));
    const after = this.point(x, y);
    this.pan = [this.pan[0] + before[0] - after[0], this.pan[1] - before[1] + after[1]];
  }
}
