<script lang="ts">
  /** Corners of the keep-out polygons on a panel, dragged on the drawing or moved by the arrow keys. */
  import type { JobState } from '../state/job.svelte';
  import { at } from '../state/paths';
  import { turned, type Point } from './paper';
  import type { View } from './view.svelte';

  let { job, view }: { job: JobState; view: View } = $props();
  type Zone = { form: string; points?: Point[] };
  const zones = $derived((at(job.document, 'blank.zones') as Zone[] | undefined) ?? []);
  const px = $derived(view.px);
  let held: { zone: number; corner: number } | null = null;

  const round = (mm: number) => Math.round(mm * 10) / 10;
  function put(zone: number, corner: number, p: Point) {
    const points = zones[zone]!.points!.map((q, i) => (i === corner ? ([round(p[0]), round(p[1])] as Point) : q));
    job.set(`blank.zones.${zone}.points`, points);
  }
  function drag(e: PointerEvent) {
    if (!held) return;
    const box = (e.currentTarget as SVGElement).ownerSVGElement!.getBoundingClientRect();
    put(held.zone, held.corner, view.point(e.clientX - box.left, e.clientY - box.top));
  }
  function keydown(e: KeyboardEvent, zone: number, corner: number) {
    const step = (e.shiftKey ? 5 : 0.5) as number;
    const by: Record<string, Point> = {
      ArrowLeft: [-step, 0],
      ArrowRight: [step, 0],
      ArrowUp: [0, step],
      ArrowDown: [0, -step],
    };
    const d = by[e.key];
    if (!d) return;
    e.preventDefault();
    e.stopPropagation();
    const p = zones[zone]!.points![corner]!;
    put(zone, corner, [Number(p[0]) + d[0], Number(p[1]) + d[1]]);
  }
</script>

{#each zones as zone, z (z)}
  {#if zone.form === 'polygon'}
    {#each zone.points ?? [] as p, c (c)}
      {#if typeof p[0] === 'number' && typeof p[1] === 'number'}
        {@const at = turned(p)}
        <circle
          cx={at[0]}
          cy={at[1]}
          r={5.5 * px}
          fill="var(--color-sheet)"
          stroke="var(--color-brass)"
          stroke-width={1.8 * px}
          class="cursor-move"
          role="slider"
          aria-label="Zone {z + 1}, corner {c + 1}"
          aria-valuenow={p[0]}
          aria-valuetext="{p[0]} mm across, {p[1]} mm up"
          tabindex="0"
          onkeydown={(e) => keydown(e, z, c)}
          onpointerdown={(e) => {
            e.stopPropagation();
            held = { zone: z, corner: c };
            (e.currentTarget as Element).setPointerCapture(e.pointerId);
          }}
          onpointermove={drag}
          onpointerup={() => (held = null)}
          onpointercancel={() => (held = null)}
        />
      {/if}
    {/each}
  {/if}
{/each}
