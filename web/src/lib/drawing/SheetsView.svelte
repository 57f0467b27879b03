<script lang="ts">
  /** One load on its film, inside the cutter's safe area. */
  import type { JobState } from '../state/job.svelte';
  import type { Scene } from '../state/scene';
  import { session } from '../state/session.svelte';
  import { lengthText } from '../units';
  import Dimension from './Dimension.svelte';
  import Drawing from './Drawing.svelte';
  import Hatch from './Hatch.svelte';
  import PrintedFace from './PrintedFace.svelte';
  import SetsByHand from './SetsByHand.svelte';
  import { pathOf, type Bounds } from './paper';
  import { View } from './view.svelte';

  let { job, scene, load }: { job: JobState; scene: Scene; load: number } = $props();
  const view = new View();
  view.padding = [62, 68];
  const px = $derived(view.px);
  const s = $derived(scene.sheets!);
  const page = $derived(s.pages[load - s.loads.length] ?? (s.loads.length ? undefined : s.pages[0]));
  const sheet = $derived(page ? page.load : s.loads[load]);
  const edge = $derived((s.width - s.safe_width) / 2);
  const long = $derived(
    s.medium === 'mat' ? s.length : Math.min(s.length, Math.max((sheet?.height ?? 0) + 2 * edge + 40, s.width * 0.4)),
  );
  const bounds = $derived<Bounds>([
    -edge,
    -edge,
    Math.max(s.width - edge, sheet?.width ?? 0),
    Math.max(long - edge, sheet?.height ?? 0),
  ]);
  const film = $derived([[-edge, -edge, s.width - edge, -edge, s.width - edge, long - edge, -edge, long - edge]]);
  const safeLong = $derived(s.medium === 'mat' ? s.safe_length : long - 2 * edge);
  const safe = $derived([[0, 0, s.safe_width, 0, s.safe_width, safeLong, 0, safeLong]]);
  const boxRing = ([l, b, r, t]: number[]) => [l!, b!, r!, b!, r!, t!, l!, t!, l!, b!];
  /** The mat's own rule along its lower and its left edge: every so many mm a tick, a figure at every fifth or second. */
  const inches = $derived(session.style !== 'mm');
  const step = $derived(inches ? 12.7 : 10);
  const every = $derived(inches ? 4 : 5);
  const ticks = $derived(
    s.medium === 'mat' ? Array.from({ length: Math.floor(s.width / step + 1e-6) + 1 }, (_, i) => i) : [],
  );
  const upTicks = $derived(
    s.medium === 'mat' ? Array.from({ length: Math.floor(s.length / step + 1e-6) + 1 }, (_, i) => i) : [],
  );
  const ruled = $derived(!!sheet && sheet.patches.length > 1);
  /** How far the height is written from the mat: beside the figures of its rule. */
  const beside = $derived(ruled && s.medium === 'mat' ? 38 : 22);
  const figure = (i: number) => String(inches ? i / 2 : i * 10);
  /** A piece so large on the screen bears its number; beside smaller ones it stands where the gap has room for it. */
  const BEARS = 13;
  const least = $derived(Number(job.value('sheets.gap_mm')) > 12 * px ? 7 : BEARS);
  const text = (mm: number) => lengthText(mm, session.style);
</script>

<Drawing
  {view}
  {bounds}
  title="{page ? 'Printed page' : 'Load'} on the {s.medium === 'mat' ? 'mat' : 'roll, feed upward'}"
  label="One load on its film"
>
  <defs><Hatch id="hatch-sheet" {px} /></defs>
  <path d={pathOf(film)} fill="var(--color-sheet)" stroke="var(--color-ink)" stroke-width={1.6 * px} />
  <path d={pathOf([...film, ...safe])} fill="url(#hatch-sheet)" fill-rule="evenodd" />
  {#if sheet}
    {#if ruled}
      <path
        d={[
          ...ticks.map((i) => `M${i * step - edge} ${edge}v${(i % every ? -3 : -6) * px}`),
          ...upTicks.map((i) => `M${-edge} ${edge - i * step}h${(i % every ? 3 : 6) * px}`),
        ].join('')}
        fill="none"
        stroke="var(--color-ink)"
        stroke-width={0.8 * px}
      />
      {#each ticks.filter((i) => i && i % every === 0) as i (i)}
        <text x={i * step - edge} y={edge + 12 * px} font-size={11 * px} text-anchor="middle" class="narrow"
          >{figure(i)}</text
        >
      {/each}
      {#each upTicks.filter((i) => i && i % every === 0) as i (i)}
        <text x={-edge - 4 * px} y={edge - i * step + 4 * px} font-size={11 * px} text-anchor="end" class="narrow"
          >{figure(i)}</text
        >
      {/each}
    {/if}
    {#each sheet.patches as patch, n (n)}
      <!-- The film as it is cut off: its edge, and which way it runs where it must not be turned. -->
      <path
        d={pathOf([boxRing(patch.box)])}
        data-patch={patch.name}
        fill={page ? '#ffffff' : 'var(--color-paper)'}
        stroke="var(--color-ink)"
        stroke-width={1.1 * px}
      />
      {#if patch.directional}
        {@const x = patch.box[2] - 9 * px}
        {@const [low, high] = [patch.box[1] + 8 * px, patch.box[1] + 38 * px]}
        <path
          d="M{x} {-low}V{-high}M{x - 4 * px} {-high + 7 * px}L{x} {-high}L{x + 4 * px} {-high + 7 * px}"
          fill="none"
          stroke="var(--color-quiet)"
          stroke-width={1.4 * px}
        />
      {/if}
    {/each}
    <path
      d={pathOf(safe)}
      fill="none"
      stroke="var(--color-blue)"
      stroke-width={0.9 * px}
      stroke-dasharray="{5 * px} {4 * px}"
    />
    <path
      d={pathOf(sheet.frames)}
      fill="none"
      stroke={sheet.fits ? 'var(--color-edge)' : 'var(--color-stop)'}
      stroke-width={1.2 * px}
    />
    {#if page}<PrintedFace {page} {px} />{/if}
    {#each page ? [] : sheet.patches as patch, n (n)}
      <path
        d={pathOf(patch.rings)}
        fill={patch.colour}
        fill-rule="evenodd"
        stroke="var(--color-edge)"
        stroke-width={0.4 * px}
      />
    {/each}
    <!-- Loose pieces bear their numbers in the set, or have them beside them where the gap has room for that. -->
    <g data-numbers font-size={12 * px} class="narrow pointer-events-none">
      {#each sheet.patches as patch, n (n)}
        {#each patch.numbers.filter(([, , , side]) => side > least * px) as [number, x, y, side], k (k)}
          {@const bears = side > BEARS * px}
          <text
            x={bears ? x : x + side / 2 + 2 * px}
            text-anchor={bears ? 'middle' : 'start'}
            y={-y + 4.2 * px}
            paint-order="stroke"
            stroke="var(--color-paper)"
            stroke-width={3 * px}
            stroke-linejoin="round">{number}</text
          >
        {/each}
      {/each}
    </g>
    {#if sheet.patches.length > 1}
      {#each sheet.patches as patch, n (n)}
        {@const [x, y] = [patch.box[0], -patch.box[3]]}
        <circle cx={x} cy={y} r={9 * px} fill="var(--color-sheet)" stroke="var(--color-ink)" stroke-width={1.1 * px} />
        <text {x} y={y + 4.5 * px} font-size={13 * px} text-anchor="middle" font-weight="600">{n + 1}</text>
      {/each}
    {/if}
    <path
      d={pathOf(sheet.parting, false)}
      fill="none"
      stroke="var(--color-blue)"
      stroke-width={0.7 * px}
      stroke-dasharray="{3 * px} {3 * px}"
    />
    <path d={pathOf(sheet.slits, false)} fill="none" stroke="var(--color-stop)" stroke-width={1.2 * px} />
    {#if s.held.length && !page}
      <path
        d={pathOf(s.held.map(boxRing))}
        data-held
        fill="url(#hatch-sheet)"
        stroke="var(--color-look)"
        stroke-width={1.4 * px}
      />
    {/if}
    {#if session.makes && s.movable && !page}<SetsByHand {job} patches={sheet.patches} {view} />{/if}
    <Dimension
      {px}
      from={[0, -edge - 22 * px]}
      to={[sheet.width, -edge - 22 * px]}
      text={text(sheet.width)}
      bad={!sheet.fits}
    />
    <Dimension
      {px}
      from={[-edge - beside * px, 0]}
      to={[-edge - beside * px, sheet.height]}
      text={text(sheet.height)}
      bad={!sheet.fits}
    />
  {/if}
</Drawing>
