<script lang="ts">
  /** A load as it is cut: the trace grows along the wanted line; below, how far the tip strays and how deep it goes. */
  import { onMount } from 'svelte';
  import Dimension from '../drawing/Dimension.svelte';
  import Drawing from '../drawing/Drawing.svelte';
  import PrintedFace from '../drawing/PrintedFace.svelte';
  import { View } from '../drawing/view.svelte';
  import type { Scene } from '../state/scene';
  import { session } from '../state/session.svelte';
  import { lengthText } from '../units';
  import type { OnCutterState } from './oncutter.svelte';
  import Strips from './Strips.svelte';

  type Page = NonNullable<Scene['sheets']>['pages'][number];
  let { on, page }: { on: OnCutterState; page?: Page } = $props();
  const view = new View();
  view.padding = [50, 66];
  const px = $derived(view.px);
  const CHUNK = 60;
  const pass = $derived(on.pass);
  const now = $derived(on.now!);
  const lineOf = (s: number[]) => {
    let d = `M${s[0]} ${-s[1]!}`;
    for (let i = 2; i < s.length; i += 2) d += `L${s[i]} ${-s[i + 1]!}`;
    return d;
  };
  /** Lines of so many strokes at a time: what is drawn once is not drawn anew while the trace grows. */
  const chunks = $derived.by(() => {
    const out: string[] = [];
    for (let n = 0; n < (pass?.strokes.length ?? 0); n += CHUNK)
      out.push(
        pass!.strokes
          .slice(n, n + CHUNK)
          .map(lineOf)
          .join(''),
      );
    return out;
  });
  /** How much is shown as cut, mm: it runs after what the machine has said. */
  let shown = $state(0);
  onMount(() => {
    let last = performance.now();
    let frame = requestAnimationFrame(function step(t) {
      const wanted = on.cut;
      const behind = wanted - shown;
      if (behind < 0) shown = wanted;
      else if (behind > 0) shown = Math.min(wanted, shown + Math.max(behind * (1 - Math.exp(-(t - last) / 180)), 0.05));
      last = t;
      frame = requestAnimationFrame(step);
    });
    return () => cancelAnimationFrame(frame);
  });
  const stroke = $derived.by(() => {
    const begins = pass?.begins ?? [0];
    let [a, b] = [0, begins.length - 1];
    while (b - a > 1) {
      const m = (a + b) >> 1;
      if (begins[m]! <= shown) a = m;
      else b = m;
    }
    return shown >= (pass?.total ?? 0) ? begins.length - 1 : a;
  });
  const whole = $derived(Math.floor(stroke / CHUNK));
  const current = $derived(
    (pass?.strokes ?? [])
      .slice(whole * CHUNK, stroke)
      .map(lineOf)
      .join(''),
  );
  /** The stroke under the blade, as far as it is cut, and where the blade stands. */
  const tip = $derived.by(() => {
    const s = pass?.strokes[stroke];
    if (!s || !pass) return null;
    let left = shown - pass.begins[stroke]!;
    let d = `M${s[0]} ${-s[1]!}`;
    let [x, y] = [s[0]!, s[1]!];
    for (let i = 2; i < s.length && left > 0; i += 2) {
      const [dx, dy] = [s[i]! - x, s[i + 1]! - y];
      const l = Math.hypot(dx, dy);
      const t = l > left ? left / l : 1;
      x += dx * t;
      y += dy * t;
      left -= l;
      d += `L${x} ${-y}`;
    }
    return { d, x, y };
  });
  const [w, h] = $derived(page ? [page.load.width, page.load.height] : on.size);
  const text = (mm: number) => lengthText(mm, session.style);
</script>

<div class="grid h-full grid-cols-[minmax(0,1fr)] grid-rows-[minmax(0,1fr)_auto]">
  <div class="relative min-h-0">
    <Drawing
      {view}
      bounds={[0, 0, w, h]}
      title="{now.name}, contour {Math.min(stroke + 1, pass?.strokes.length ?? 0)} of {pass?.strokes.length ?? 0}"
      label="The load as it is cut"
    >
      {#if page}<g opacity="0.3"><PrintedFace {page} {px} /></g>{/if}
      {#each chunks as d, n (n)}
        <path
          {d}
          fill="none"
          stroke={n < whole ? 'var(--color-blue)' : 'var(--color-edge)'}
          stroke-opacity={n < whole ? 1 : 0.55}
          stroke-width={(n < whole ? 1.7 : 1) * px}
          stroke-linejoin="round"
        />
      {/each}
      <path
        d={current}
        fill="none"
        stroke="var(--color-blue)"
        stroke-width={1.7 * px}
        stroke-linejoin="round"
        data-cut
      />
      {#if tip && now.stage !== 'loading' && now.stage !== 'ready'}
        <path d={tip.d} fill="none" stroke="var(--color-brass)" stroke-width={2.2 * px} />
        <circle cx={tip.x} cy={-tip.y} r={4.5 * px} fill="var(--color-brass)" />
      {/if}
      <Dimension {px} from={[0, -20 * px]} to={[w, -20 * px]} text={text(w)} />
      <Dimension {px} from={[-20 * px, 0]} to={[-20 * px, h]} text={text(h)} />
    </Drawing>
  </div>
  <Strips {on} />
</div>
