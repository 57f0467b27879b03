<script lang="ts">
  /** The photograph: the outline found in it, and the ends of the known length and of the axis, dragged by hand. */
  import type { Scene } from '../state/scene';
  import type { JobState } from '../state/job.svelte';

  let { job, scene }: { job: JobState; scene: Scene } = $props();
  type Pixel = [number, number];
  type Photo = { file: string; known: [Pixel, Pixel]; axis: [Pixel, Pixel] };
  const photo = $derived(job.value('blank.photo') as Photo | null);
  const found = $derived(scene.measure.photo);
  let natural = $state.raw<Pixel>([1600, 1200]);
  const size = $derived<Pixel>(found ? [found.width, found.height] : natural);
  let svg = $state<SVGSVGElement>();
  let held: { of: 'known' | 'axis'; end: 0 | 1 } | null = null;
  const unit = $derived(Math.max(size[0], size[1]) / 900);

  function put(of: 'known' | 'axis', end: 0 | 1, p: Pixel) {
    const pair = [...photo![of]] as [Pixel, Pixel];
    pair[end] = [Math.round(p[0] * 100) / 100, Math.round(p[1] * 100) / 100];
    job.set(`blank.photo.${of}`, pair);
  }
  function move(e: PointerEvent) {
    if (!held || !svg) return;
    const matrix = svg.getScreenCTM();
    if (!matrix) return;
    const p = new DOMPoint(e.clientX, e.clientY).matrixTransform(matrix.inverse());
    put(held.of, held.end, [p.x, p.y]);
  }
  function keydown(e: KeyboardEvent, of: 'known' | 'axis', end: 0 | 1) {
    const step = e.shiftKey ? 10 : 1;
    const by: Record<string, Pixel> = {
      ArrowLeft: [-step, 0],
      ArrowRight: [step, 0],
      ArrowUp: [0, -step],
      ArrowDown: [0, step],
    };
    const d = by[e.key];
    if (!d) return;
    e.preventDefault();
    const p = photo![of][end];
    put(of, end, [p[0] + d[0], p[1] + d[1]]);
  }
  const NAMES = {
    known: ['one end of the known length', 'the other end of the known length'],
    axis: ['axis at the foot', 'axis at the rim'],
  };
  const path = (ring: number[]) => {
    let d = '';
    for (let i = 0; i + 1 < ring.length; i += 2) d += `${i ? 'L' : 'M'}${ring[i]} ${ring[i + 1]}`;
    return d + 'Z';
  };
</script>

{#if photo}
  <svg
    bind:this={svg}
    class="block h-full w-full touch-none select-none"
    viewBox="0 0 {size[0]} {size[1]}"
    role="group"
    aria-label="Photograph with known length and axis"
    onpointermove={move}
    onpointerup={() => (held = null)}
  >
    <image
      href="/api/jobs/{job.id}/pictures/{encodeURIComponent(photo.file)}"
      width={size[0]}
      height={size[1]}
      onload={(e) => {
        const box = (e.target as SVGImageElement).getBBox();
        if (box.width) natural = [box.width, box.height];
      }}
    />
    {#each found?.outline ?? [] as ring, i (i)}
      <path d={path(ring)} fill="none" stroke={i ? '#f6f6f2' : '#e0b45a'} stroke-width={1.6 * unit} />
    {/each}
    {#each ['axis', 'known'] as const as of (of)}
      {@const [a, b] = photo[of]}
      <path
        d="M{a[0]} {a[1]}L{b[0]} {b[1]}"
        stroke="#18202e"
        stroke-width={3.4 * unit}
        stroke-linecap="round"
        opacity="0.55"
      />
      <path
        d="M{a[0]} {a[1]}L{b[0]} {b[1]}"
        stroke={of === 'axis' ? '#b7cdf7' : '#ffffff'}
        stroke-width={1.6 * unit}
        stroke-dasharray={of === 'axis' ? `${14 * unit} ${4 * unit} ${3 * unit} ${4 * unit}` : undefined}
      />
      {#each [a, b] as p, end (end)}
        <circle
          cx={p[0]}
          cy={p[1]}
          r={8 * unit}
          fill="#b98a2f"
          fill-opacity="0.35"
          stroke="#ffffff"
          stroke-width={1.8 * unit}
          class="cursor-move"
          role="slider"
          aria-label={NAMES[of][end]}
          aria-valuenow={Math.round(p[0])}
          aria-valuetext="{Math.round(p[0])} pixels across, {Math.round(p[1])} down"
          tabindex="0"
          onkeydown={(e) => keydown(e, of, end as 0 | 1)}
          onpointerdown={(e) => {
            held = { of, end: end as 0 | 1 };
            svg?.setPointerCapture(e.pointerId);
          }}
        />
        <circle cx={p[0]} cy={p[1]} r={1.6 * unit} fill="#ffffff" pointer-events="none" />
      {/each}
    {/each}
  </svg>
{/if}
