<script lang="ts">
  /** Corners of the keep-out polygons on a panel, dragged on the drawing or moved by the arrow keys. */
  import type { JobState } from '../state/job.svelte';
  import { at } from '../state/paths';
  import { session } from '../state/session.svelte';
  import { length } from '../units';
  import { pathOf, turned, type Point } from './paper';
  import type { View } from './view.svelte';

  let { job, view }: { job: JobState; view: View } = $props();
  type Zone = { form: string; points?: Point[] };
  /** Every outline whose corners a hand may move: polygon zones, and the loop round a patch. */
  const outlines = $derived.by(() => {
    const zones = (at(job.document, 'blank.zones') as Zone[] | undefined) ?? [];
    const out = zones.flatMap((z, i) =>
      z.form === 'polygon' ? [{ path: `blank.zones.${i}.points`, name: `Zone ${i + 1}`, points: z.points ?? [] }] : [],
    );
    const patch = at(job.document, 'wrap.patch') as { mode?: string; loop?: Point[] } | undefined;
    if (job.scene?.measure.wraps.includes('patch.mode'))
      return patch?.mode === 'loop' ? [{ path: 'wrap.patch.loop', name: 'Loop', points: patch.loop ?? [] }] : [];
    return out;
  });
  const px = $derived(view.px);
  let held: { outline: number; corner: number } | null = null;

  const round = (mm: number) => Math.round(mm * 10) / 10;
  function put(outline: number, corner: number, p: Point) {
    const it = outlines[outline]!;
    job.set(
      it.path,
      it.points.map((q, i) => (i === corner ? ([round(p[0]), round(p[1])] as Point) : q)),
    );
  }
  function drag(e: PointerEvent) {
    if (!held) return;
    const box = (e.currentTarget as SVGElement).ownerSVGElement!.getBoundingClientRect();
    put(held.outline, held.corner, view.point(e.clientX - box.left, e.clientY - box.top));
  }
  function keydown(e: KeyboardEvent, outline: number, corner: number) {
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
    const p = outlines[outline]!.points[corner]!;
    put(outline, corner, [Number(p[0]) + d[0], Number(p[1]) + d[1]]);
  }
</script>

{#each outlines as outline, z (outline.path)}
  {#if outline.name === 'Loop'}
    <path
      d={pathOf([outline.points.flat()])}
      fill="none"
      stroke="var(--color-brass)"
      stroke-width={1.6 * px}
      stroke-dasharray="{6 * px} {3 * px}"
    />
  {/if}
  {#each outline.points as p, c (c)}
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
        aria-label="{outline.name}, corner {c + 1}"
        aria-valuenow={p[0]}
        aria-valuetext="{length(p[0], session.style)} across, {length(p[1], session.style)} up"
        tabindex="0"
        onkeydown={(e) => keydown(e, z, c)}
        onpointerdown={(e) => {
          e.stopPropagation();
          held = { outline: z, corner: c };
          (e.currentTarget as Element).setPointerCapture(e.pointerId);
        }}
        onpointermove={drag}
        onpointerup={() => (held = null)}
        onpointercancel={() => (held = null)}
      />
    {/if}
  {/each}
{/each}
