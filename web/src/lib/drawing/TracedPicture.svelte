<script lang="ts">
  /** The picture that a drawing was traced from, where it lies, and over it the outlines that were found. */
  import { at } from '../state/paths';
  import type { JobState } from '../state/job.svelte';
  import type { Scene } from '../state/scene';
  import { pathOf, type Point } from './paper';
  import type { View } from './view.svelte';

  let { job, scene, view, index }: { job: JobState; scene: Scene; view: View; index: number } = $props();
  const d = $derived(scene.placed[index]!);
  const file = $derived(String(at(job.document, `elements.${d.path.split('.')[1]}.source.file`) ?? ''));
  const href = $derived(`/api/jobs/${job.id}/pictures/${encodeURIComponent(file)}`);
  const LAP = 1.01;
  type Field = { matrix: string; box: string };
  /** The picture in fields: each cut out of a square of one and brought to the paper, y down, by three of its corners. */
  const fields = $derived.by((): Field[] => {
    const { across: n, places } = d.page!;
    const corner = (row: number, column: number): Point => {
      const k = 2 * (row * (n + 1) + column);
      return [places[k]!, places[k + 1]!];
    };
    const out: Field[] = [];
    for (let row = 0; row < n; row++)
      for (let column = 0; column < n; column++) {
        const [a, b, c] = [corner(row, column), corner(row, column + 1), corner(row + 1, column)];
        const to = [b[0] - a[0], a[1] - b[1], a[0] - c[0], c[1] - a[1], c[0], -c[1]];
        out.push({ matrix: to.join(' '), box: `${column / n} ${1 - (row + 1) / n} ${1 / n} ${1 / n}` });
      }
    return out;
  });
</script>

<svg class="pointer-events-none absolute inset-0 block h-full w-full" viewBox={view.box.join(' ')} data-traced>
  {#each fields as f, k (k)}
    <!-- A hair more than a field, so that no gap shows between two. -->
    <g transform="matrix({f.matrix})">
      <svg width={LAP} height={LAP} viewBox={f.box} preserveAspectRatio="none">
        <image {href} width="1" height="1" preserveAspectRatio="none" />
      </svg>
    </g>
  {/each}
  <g transform="translate({d.moved[0]} {-d.moved[1]})" fill="none" stroke-linejoin="round">
    {#each scene.paints[index] ?? [] as paint (paint.colour)}
      <path d={pathOf(paint.rings)} stroke="var(--color-sheet)" stroke-width={2.4 * view.px} />
      <path d={pathOf(paint.rings)} stroke="var(--color-brass)" stroke-width={1.2 * view.px} />
    {/each}
  </g>
</svg>
