<script lang="ts">
  /** The side view of a cup, to scale, its dimensions tied to their fields. */
  import type { Scene } from '../api/client';
  import type { JobState } from '../state/job.svelte';
  import { session } from '../state/session.svelte';
  import { lengthText } from '../units';
  import Dimension from './Dimension.svelte';
  import Drawing from './Drawing.svelte';
  import Hatch from './Hatch.svelte';
  import { around, line, pathOf, type Point } from './paper';
  import { View } from './view.svelte';

  let { job, scene }: { job: JobState; scene: Scene } = $props();
  const view = new View();
  view.padding = [96, 74];
  const m = $derived(scene.measure);
  const blank = $derived(scene.document.blank);
  const cup = $derived(blank.kind === 'cup' ? blank : null);
  const rise = $derived(m.slant ? m.upright / m.slant : 1);
  /** Half width and height of the wall at `s` along the side. */
  const side = $derived((s: number, sign = 1): Point => [sign * (m.radius_lower + m.k * s), s * rise]);
  const foot = $derived(-m.foot);
  const rim = $derived(m.slant + m.rim);
  function slab(s0: number, s1: number, share = 1): number[] {
    const [a, b] = [side(s0), side(s1)];
    return [-a[0] * share, a[1], a[0] * share, a[1], b[0] * share, b[1], -b[0] * share, b[1]];
  }
  const handleSide = $derived(m.handle !== null && m.handle > 0 ? 1 : -1);
  /** A handle behind the cup is not seen from the front. */
  const handleSeen = $derived(m.handle !== null && Math.abs(m.handle) < 2.5);
  const handleLeft = $derived(handleSeen && handleSide < 0);
  const handleRight = $derived(handleSeen && handleSide > 0);
  const widest = $derived(Math.max(m.radius_lower, m.radius_upper));
  const px = $derived(view.px);
  const bounds = $derived(
    around([
      [-widest * (handleLeft ? 1.62 : 1), foot * rise],
      [widest * (handleRight ? 1.62 : 1), rim * rise],
    ]),
  );
  const share = $derived(Math.sin(m.readable_half_angle));
  const off = $derived(44 * px);
  const text = (mm: number) => lengthText(mm, session.style);
  const lipLow = $derived(cup ? rim - (cup.lip_band_mm as number) : 0);
  const baseHigh = $derived(cup ? foot + (cup.base_band_mm as number) : 0);
  const bad = (field: string) => scene.verdicts.some((v) => v.level !== 'ok' && v.field.startsWith(`${field}.`));
</script>

<Drawing {view} {bounds} title="Side view" label="Side view with its dimensions">
  <defs><Hatch id="hatch-side" {px} /></defs>
  {#if cup}
    {#if handleSeen}
      {@const top = side(m.free_low + (m.free_high - m.free_low) * 0.85, handleSide)}
      {@const low = side(m.free_low + (m.free_high - m.free_low) * 0.15, handleSide)}
      {@const reach = handleSide * widest * 0.75}
      <path
        d="M{top[0]} {-top[1]}C{top[0] + reach} {-top[1]} {low[0] + reach} {-low[1]} {low[0]} {-low[1]}"
        fill="none"
        stroke="var(--color-edge)"
        stroke-width={1.4 * px}
      />
      <path
        d="M{top[0]} {-top[1] + widest * 0.16}C{top[0] + reach * 0.75} {-top[1] + widest * 0.16} {low[0] +
          reach * 0.75} {-low[1] - widest * 0.16} {low[0]} {-low[1] - widest * 0.16}"
        fill="none"
        stroke="var(--color-edge)"
        stroke-width={1.4 * px}
      />
    {/if}
    <path d={pathOf([slab(foot, rim)])} fill="var(--color-sheet)" />
    <path d={pathOf([slab(m.free_low, m.free_high, share)])} fill="var(--color-wash)" />
    <path
      d={pathOf([slab(Math.max(lipLow, foot), rim), slab(foot, Math.min(baseHigh, rim))])}
      fill="url(#hatch-side)"
    />
    <path
      d={pathOf([slab(m.free_low, m.free_high, share)])}
      fill="none"
      stroke="var(--color-blue)"
      stroke-width={0.9 * px}
      stroke-dasharray="{5 * px} {4 * px}"
    />
    {#each m.sketch.strokes as stroke, i (i)}
      {#if stroke.kind === 'zone'}
        <path
          d={pathOf(stroke.lines)}
          fill="url(#hatch-side)"
          stroke="var(--color-quiet)"
          stroke-width={0.7 * px}
          fill-rule="evenodd"
        />
      {/if}
    {/each}
    {#if m.photo}
      {@const up = foot * rise}
      {#each [-1, 1] as sign (sign)}
        <path
          d={pathOf([m.photo.z.flatMap((z, i) => [sign * m.photo!.r[i]!, z + up])], false)}
          fill="none"
          stroke="var(--color-brass)"
          stroke-width={1.6 * px}
          stroke-dasharray="{7 * px} {3 * px}"
        />
      {/each}
    {/if}
    {#if m.level}
      {@const at = side(m.level.along)}
      <path
        d={line([-at[0], at[1]], at)}
        stroke="var(--color-blue)"
        stroke-width={1.4 * px}
        stroke-dasharray="{2 * px} {3 * px}"
      />
      <text
        x={-at[0] + 8 * px}
        y={-at[1] - 5 * px}
        font-size={13 * px}
        class="narrow"
        fill="var(--color-blue)"
        paint-order="stroke"
        stroke="var(--color-sheet)"
        stroke-width={3 * px}>water stands here</text
      >
    {/if}
    {#each [m.free_low, m.free_high] as s (s)}
      <path d={line(side(s, -1), side(s))} stroke="var(--color-ink)" stroke-width={0.7 * px} />
    {/each}
    {#each [0, m.slant] as s (s)}
      <path
        d={line(side(s, -1), side(s))}
        stroke="var(--color-blue)"
        stroke-width={0.9 * px}
        stroke-dasharray="{9 * px} {3 * px}"
      />
    {/each}
    <path
      d={pathOf([slab(foot, rim)])}
      fill="none"
      stroke="var(--color-ink)"
      stroke-width={1.8 * px}
      stroke-linejoin="round"
    />
    <path
      d={line([0, foot * rise - 20 * px], [0, rim * rise + 20 * px])}
      stroke="var(--color-quiet)"
      stroke-width={0.8 * px}
      stroke-dasharray="{14 * px} {4 * px} {3 * px} {4 * px}"
    />
    {#if 2 * widest * share > 230 * px}
      <text
        x={0}
        y={-(m.free_high * rise) + 20 * px}
        font-size={13 * px}
        text-anchor="middle"
        class="narrow"
        fill="var(--color-blue)"
        paint-order="stroke"
        stroke="var(--color-wash)"
        stroke-width={3 * px}>readable from the front: {text(m.readable_top)} round</text
      >
    {/if}
    {#if m.readings['handle.free_width']}
      {@const at = side(m.free_low + (m.free_high - m.free_low) * 0.42)}
      <Dimension
        {px}
        {job}
        field="blank.handle.free_width"
        from={[-at[0], at[1]]}
        to={at}
        bad={bad('blank.handle.free_width')}
        text={`${text(m.readings['handle.free_width'].mean)} free beside the handle`}
      />
    {/if}
    {#if m.readings['handle.free_height']}
      {@const x = Math.min(m.radius_lower, m.radius_upper) * 0.62}
      <Dimension
        {px}
        {job}
        field="blank.handle.free_height"
        from={[x, m.free_low * rise]}
        to={[x, m.free_high * rise]}
        bad={bad('blank.handle.free_height')}
        text={`${text(m.readings['handle.free_height'].mean)} free`}
      />
    {/if}
    {@const up = side(m.slant)}
    {@const lo = side(0)}
    {@const yTop = rim * rise + off * 0.6}
    {@const yLow = foot * rise - off * 0.6}
    {#each [-1, 1] as sign (sign)}
      <path
        d={line([sign * up[0], up[1]], [sign * up[0], yTop + 5 * px])}
        stroke="var(--color-hairline)"
        stroke-width={0.8 * px}
      />
      <path
        d={line([sign * lo[0], lo[1]], [sign * lo[0], yLow - 5 * px])}
        stroke="var(--color-hairline)"
        stroke-width={0.8 * px}
      />
    {/each}
    <Dimension
      {px}
      {job}
      field="blank.upper"
      from={[-up[0], yTop]}
      to={[up[0], yTop]}
      bad={bad('blank.upper')}
      text={`round ${text(2 * Math.PI * m.radius_upper)} · across ${text(2 * m.radius_upper)}`}
    />
    <Dimension
      {px}
      {job}
      field="blank.lower"
      from={[-lo[0], yLow]}
      to={[lo[0], yLow]}
      bad={bad('blank.lower')}
      text={`round ${text(2 * Math.PI * m.radius_lower)} · across ${text(2 * m.radius_lower)}`}
    />
    {@const out = off * (handleRight ? 0.3 : 1)}
    {@const far = handleRight ? widest * 0.62 : 0}
    {@const n = [m.upright / (m.slant || 1), -m.k] as Point}
    {@const a = [lo[0] + n[0] * (out + far), lo[1] + n[1] * (out + far)] as Point}
    {@const b = [up[0] + n[0] * (out + far), up[1] + n[1] * (out + far)] as Point}
    <path d={line(lo, a) + line(up, b)} stroke="var(--color-hairline)" stroke-width={0.8 * px} />
    <Dimension
      {px}
      {job}
      field="blank.side"
      from={a}
      to={b}
      bad={bad('blank.side')}
      text={`${text(m.slant)} along the side`}
    />
    {@const x = -widest - off - (handleLeft ? widest * 0.55 : 0)}
    <Dimension {px} from={[x, 0]} to={[x, m.upright]} text={`${text(m.upright)} upright`} />
    {#if (cup.lip_band_mm as number) > 0}
      <Dimension
        {px}
        {job}
        field="blank.lip_band_mm"
        from={[x - 26 * px, lipLow * rise]}
        to={[x - 26 * px, rim * rise]}
        text={`lip ${text(cup.lip_band_mm as number)}`}
        short
      />
    {/if}
    {#if (cup.base_band_mm as number) > 0}
      <Dimension
        {px}
        {job}
        field="blank.base_band_mm"
        from={[x - 26 * px, foot * rise]}
        to={[x - 26 * px, baseHigh * rise]}
        text={`base ${text(cup.base_band_mm as number)}`}
        short
      />
    {/if}
  {/if}
</Drawing>
