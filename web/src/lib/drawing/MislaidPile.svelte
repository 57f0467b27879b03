<script lang="ts">
  /** The films as a hand lays them, on a layer of its own: each is painted once, and only its place changes. */
  import type { Scene } from '../state/scene';
  import { moveOf, type Pile } from '../state/pile.svelte';
  import type { View } from './view.svelte';

  let { scene, pile, view }: { scene: Scene; pile: Pile; view: View } = $props();
  const all = $derived(scene.layers!);
  const ground = $derived(scene.document.blank.colour);
  let canvas = $state<HTMLCanvasElement>();
  /** So much of the screen's width beyond its edges is painted too. */
  const REACH = 0.1;
  const dpr = Math.min(window.devicePixelRatio || 1, 2);
  /** A film's sheet, no larger than the film is on the screen, and its left and top there. */
  type Sheet = { of: HTMLCanvasElement; x: number; y: number };
  let painted: Sheet[] = [];

  function traced(rings: number[][]): Path2D {
    const path = new Path2D();
    for (const ring of rings) {
      for (let i = 0; i + 1 < ring.length; i += 2)
        if (i) path.lineTo(ring[i]!, -ring[i + 1]!);
        else path.moveTo(ring[i]!, -ring[i + 1]!);
      path.closePath();
    }
    return path;
  }
  /** What of the screen rings lie on, in its pixels: left, top, right, bottom. */
  function span(every: number[][], scale: number, x0: number, y0: number): [number, number, number, number] {
    let [l, t, r, b] = [Infinity, Infinity, -Infinity, -Infinity];
    for (const ring of every)
      for (let i = 0; i + 1 < ring.length; i += 2) {
        const [x, y] = [(ring[i]! - x0) * scale, (-ring[i + 1]! - y0) * scale];
        [l, r, t, b] = [Math.min(l, x), Math.max(r, x), Math.min(t, y), Math.max(b, y)];
      }
    // What lies outside the screen comes in by as much as a hand misses.
    const [w, h] = [view.width * dpr, view.height * dpr];
    const clamp = (v: number, most: number) => Math.min(Math.max(v, -REACH * w), most + REACH * w);
    return [
      clamp(Math.floor(l) - 1, w),
      clamp(Math.floor(t) - 1, h),
      clamp(Math.ceil(r) + 1, w),
      clamp(Math.ceil(b) + 1, h),
    ];
  }
  /** Each film on a sheet of its own, as it should lie. */
  function paint(): Sheet[] {
    const [x0, y0, w] = view.box;
    const scale = (view.width * dpr) / w;
    return all.layers.map((layer) => {
      const [l, t, r, b] = span([...layer.rings, ...layer.marks], scale, x0, y0);
      const of = document.createElement('canvas');
      of.width = Math.max(1, r - l) || 1;
      of.height = Math.max(1, b - t) || 1;
      const g = of.getContext('2d')!;
      g.setTransform(scale, 0, 0, scale, -x0 * scale - l, -y0 * scale - t);
      g.fillStyle = layer.film_colour;
      g.fill(traced(layer.rings), 'evenodd');
      g.fillStyle = '#18202e';
      g.fill(traced(layer.marks), 'evenodd');
      return { of, x: l, y: t };
    });
  }
  function lay() {
    const g = canvas?.getContext('2d');
    const hand = all.hand;
    if (!g || !canvas || !hand) return;
    const [x0, y0, w] = view.box;
    const scale = (view.width * dpr) / w;
    g.setTransform(1, 0, 0, 1, 0, 0);
    g.clearRect(0, 0, canvas.width, canvas.height);
    const [l, b, r, t] = all.bounds;
    g.fillStyle = ground;
    const pad = 3;
    g.fillRect((l - pad - x0) * scale, (-t - pad - y0) * scale, (r - l + 2 * pad) * scale, (t - b + 2 * pad) * scale);
    const [cx, cy] = [(hand.middle[0] - x0) * scale, (-hand.middle[1] - y0) * scale];
    const order = pile.below ? all.layers.map((_, i) => i).toReversed() : all.layers.map((_, i) => i);
    for (const i of order) {
      if (!pile.shows(i, all.layers.length)) continue;
      const [dx, dy, turn] = moveOf(hand.lay_ups, pile.hand, i, pile.times);
      const a = (-turn * Math.PI) / 180;
      const [c, s] = [Math.cos(a), Math.sin(a)];
      g.setTransform(c, s, -s, c, cx + dx * scale - c * cx + s * cy, cy - dy * scale - s * cx - c * cy);
      const sheet = painted[i]!;
      g.drawImage(sheet.of, sheet.x, sheet.y);
    }
  }
  let frame = 0;
  $effect(() => {
    void [all, ground, view.box, view.width, view.height];
    if (!canvas) return;
    canvas.width = Math.max(1, Math.round(view.width * dpr));
    canvas.height = Math.max(1, Math.round(view.height * dpr));
    painted = paint();
    lay();
  });
  $effect(() => {
    void [pile.times, pile.hand, pile.alone, pile.below];
    cancelAnimationFrame(frame);
    frame = requestAnimationFrame(lay);
  });
</script>

<canvas bind:this={canvas} class="pointer-events-none absolute inset-0 h-full w-full" data-mislaid aria-hidden="true"
></canvas>
