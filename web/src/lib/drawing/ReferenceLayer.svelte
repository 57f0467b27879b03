<script lang="ts">
  /** The picture to work by, under or over the artwork; in the hand it is moved and sized, or a colour is taken from it. */
  import type { JobState } from '../state/job.svelte';
  import type { Pair } from '../state/picture.svelte';
  import { line, type Point } from './paper';

  let { job, px, place }: { job: JobState; px: number; place: (e: PointerEvent) => Point } = $props();
  const r = $derived(job.document?.reference ?? null);
  /** What stands in its fields is any text while it is typed: until it is a number the last one holds. */
  let [wide, turned] = [1, 0];
  const width = $derived.by(() => {
    const typed = Number(r?.width_mm ?? 1);
    return typed > 0 && typed < 1e6 ? (wide = typed) : wide;
  });
  const tall = $derived(width * Number(r?.ratio ?? 1));
  const x = $derived(Number(r?.x_mm ?? 0));
  const y = $derived(Number(r?.y_mm ?? 0));
  const turn = $derived.by(() => {
    const typed = Number(r?.turn_deg ?? 0);
    return Number.isFinite(typed) ? (turned = typed) : turned;
  });
  const url = $derived(r ? `/api/jobs/${job.id}/pictures/${encodeURIComponent(r.file)}` : '');
  let from = $state.raw<{ p: Point; x: number; y: number; width: number; size: boolean } | null>(null);
  let by = $state.raw<Record<string, number>>({});
  const now = $derived({ x: by.x_mm ?? x, y: by.y_mm ?? y, width: by.width_mm ?? width });
  const high = $derived((now.width * tall) / width);
  const round = (v: number) => Number(v.toFixed(2));

  /** From a place of the drawing to where it belongs, while it is drawn. */
  let arrow = $state.raw<[Point, Point] | null>(null);
  const anchor = $derived(job.picture.anchor);
  $effect(() => {
    if (job.picture.hand !== 'bring') job.picture.anchor = null;
  });
  function bring(drawn: [Point, Point]) {
    arrow = null;
    if (Math.hypot(drawn[1][0] - drawn[0][0], drawn[1][1] - drawn[0][1]) < 2 * px) return;
    const pairs: Pair[] = anchor ? [[anchor, anchor], drawn] : [drawn];
    job.picture.anchor ??= drawn[1];
    void job.picture.bring(pairs);
  }

  function take(e: PointerEvent, size: boolean) {
    if (e.button !== 0) return;
    e.stopPropagation();
    if (job.picture.hand === 'colour') {
      void pickColour(place(e));
      return;
    }
    if (job.picture.hand === 'bring') {
      (e.currentTarget as Element).setPointerCapture(e.pointerId);
      arrow = [place(e), place(e)];
      return;
    }
    (e.currentTarget as Element).setPointerCapture(e.pointerId);
    from = { p: place(e), x, y, width, size };
  }
  function move(e: PointerEvent) {
    if (arrow) arrow = [arrow[0], place(e)];
    if (!from) return;
    const p = place(e);
    if (from.size) {
      const arm = (q: Point) => Math.hypot(q[0] - from!.x, q[1] - from!.y);
      by = { width_mm: Math.max(2, round((from.width * arm(p)) / Math.max(arm(from.p), 1e-6))) };
    } else by = { x_mm: round(from.x + p[0] - from.p[0]), y_mm: round(from.y + p[1] - from.p[1]) };
  }
  function letGo() {
    if (arrow) bring(arrow);
    if (from && Object.keys(by).length) job.merge('reference', by);
    from = null;
    by = {};
  }
  function key(e: KeyboardEvent) {
    const step = e.shiftKey ? 5 : 0.5;
    const go: Record<string, Record<string, number>> = {
      ArrowLeft: { x_mm: x - step },
      ArrowRight: { x_mm: x + step },
      ArrowUp: { y_mm: y + step },
      ArrowDown: { y_mm: y - step },
      '+': { width_mm: width + step },
      '-': { width_mm: Math.max(2, width - step) },
    };
    const set = go[e.key];
    if (!set) return;
    e.preventDefault();
    e.stopPropagation();
    job.merge('reference', Object.fromEntries(Object.entries(set).map(([k, v]) => [k, round(v)])));
  }
  const LABEL = {
    move: 'The picture: arrow keys move it, plus and minus size it',
    colour: 'The picture: a click takes its colour there',
    bring: 'The picture: drag from a place of the drawing to where it belongs',
  };
  const FAR = 1e5;
  const AROUND = 1;
  /** The mean of a few pixels where the picture was touched. */
  async function pickColour(p: Point) {
    const picture = new Image();
    picture.src = url;
    await picture.decode();
    const a = (-turn * Math.PI) / 180;
    const [dx, dy] = [p[0] - x, p[1] - y];
    const u = ((dx * Math.cos(a) - dy * Math.sin(a)) / width + 0.5) * picture.naturalWidth;
    const v = (0.5 - (dx * Math.sin(a) + dy * Math.cos(a)) / tall) * picture.naturalHeight;
    if (u < 0 || v < 0 || u >= picture.naturalWidth || v >= picture.naturalHeight) return;
    const canvas = document.createElement('canvas');
    canvas.width = canvas.height = 2 * AROUND + 1;
    const pen = canvas.getContext('2d')!;
    pen.drawImage(picture, AROUND - Math.floor(u), AROUND - Math.floor(v));
    const { data } = pen.getImageData(0, 0, canvas.width, canvas.height);
    const sum = [0, 0, 0, 0];
    for (let i = 0; i < data.length; i += 4) {
      if (!data[i + 3]) continue;
      for (let c = 0; c < 3; c++) sum[c]! += data[i + c]!;
      sum[3]! += 1;
    }
    const hex = (v: number) =>
      Math.round(v / (sum[3] || 1))
        .toString(16)
        .padStart(2, '0');
    job.picture.takeColour(`#${hex(sum[0]!)}${hex(sum[1]!)}${hex(sum[2]!)}`);
  }
</script>

{#if r && r.lies !== 'hidden'}
  <g transform="translate({now.x} {-now.y}) rotate({-turn})" opacity={Number(r.seen_percent) / 100}>
    <image
      href={url}
      x={-now.width / 2}
      y={-high / 2}
      width={now.width}
      height={high}
      preserveAspectRatio="none"
      pointer-events="none"
    />
  </g>
  {#if job.picture.hand}
    <g
      transform="translate({now.x} {-now.y}) rotate({-turn})"
      class={job.picture.hand === 'move' ? 'cursor-move' : 'cursor-crosshair'}
      role="button"
      tabindex="0"
      aria-label={LABEL[job.picture.hand]}
      onpointerdown={(e) => take(e, false)}
      onpointermove={move}
      onpointerup={letGo}
      onkeydown={key}
      data-reference
    >
      <rect
        x={-now.width / 2}
        y={-high / 2}
        width={now.width}
        height={high}
        fill="transparent"
        stroke="var(--color-brass)"
        stroke-width={1.4 * px}
        stroke-dasharray="{6 * px} {4 * px}"
      />
      {#if job.picture.hand === 'move'}
        <!-- svelte-ignore a11y_no_static_element_interactions -->
        <circle
          class="cursor-nwse-resize"
          cx={now.width / 2}
          cy={high / 2}
          r={6 * px}
          fill="var(--color-sheet)"
          stroke="var(--color-brass)"
          stroke-width={2 * px}
          onpointerdown={(e) => take(e, true)}
        />
      {/if}
    </g>
  {/if}
  {#if job.picture.hand === 'bring'}
    <!-- svelte-ignore a11y_no_static_element_interactions -->
    <rect
      class="cursor-crosshair"
      x={-FAR}
      y={-FAR}
      width={2 * FAR}
      height={2 * FAR}
      fill="transparent"
      onpointerdown={(e) => take(e, false)}
      onpointermove={move}
      onpointerup={letGo}
    />
    <g pointer-events="none" data-bringing>
      {#if anchor}<circle
          cx={anchor[0]}
          cy={-anchor[1]}
          r={5 * px}
          fill="none"
          stroke="var(--color-brass)"
          stroke-width={2 * px}
        />{/if}
      {#if arrow}
        <path d={line(...arrow)} stroke="var(--color-brass)" stroke-width={2 * px} fill="none" />
        <circle cx={arrow[1][0]} cy={-arrow[1][1]} r={3.5 * px} fill="var(--color-brass)" />
      {/if}
    </g>
  {/if}
{/if}
