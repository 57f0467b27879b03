<script lang="ts">
  /** The films as a hand lays them, on a layer of its own: each is painted once, and only its place changes. */
  import type { Scene } from '../state/scene';
  import { moveOf, type Pile } from '../state/pile.svelte';
  import type { View } from './view.svelte';

  let { scene, pile, view }: { scene: Scene; pile: Pile; view: View } = $props();
  const all = $derived(scene.layers!);
  const ground = $derived(scene.document.blank.colour);
  let canvas = $state<HTMLCanvasElement>();
  const dpr = Math.min(window.devicePixelRatio || 1, 2);
  let painted: HTMLCanvasElement[] = [];

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
  /** Each film on a sheet of its own, as it should lie. */
  function paint(): HTMLCanvasElement[] {
    const [x0, y0, w] = view.box;
    const scale = (view.width * dpr) / w;
    return all.layers.map((layer) => {
      const sheet = document.createElement('canvas');
      sheet.width = Math.max(1, Math.round(view.width * dpr));
      sheet.height = Math.max(1, Math.round(view.height * dpr));
      const g = sheet.getContext('2d')!;
      g.setTransform(scale, 0, 0, scale, -x0 * scale, -y0 * scale);
      g.fillStyle = layer.film_colour;
      g.fill(traced(layer.rings), 'evenodd');
      g.fillStyle = '#18202e';
      g.fill(traced(layer.marks), 'evenodd');
      return sheet;
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
      g.drawImage(painted[i]!, 0, 0);
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
