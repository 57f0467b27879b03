<script lang="ts">
  /** What a machine takes and what it cuts safely, with the corner it counts from and its axes. */
  import { session } from '../state/session.svelte';
  import { length } from '../units';
  import type { Machine } from './cutters.svelte';

  let { machine: m }: { machine: Machine } = $props();
  /** Of a roll no more than its width is drawn. */
  const long = $derived(m.medium === 'roll' ? Math.min(m.length_mm, m.width_mm * 1.1) : m.length_mm);
  const broken = $derived(long < m.length_mm);
  const ex = $derived((m.width_mm - m.safe_width_mm) / 2);
  const ey = $derived(broken ? (m.length_mm - m.safe_length_mm) / 2 : (long - m.safe_length_mm) / 2);
  const px = $derived(Math.max(m.width_mm, long) / 250);
  const right = $derived((m.origin ?? 'lower_left').endsWith('right'));
  const upper = $derived((m.origin ?? 'lower_left').startsWith('upper'));
  const at = $derived([right ? m.width_mm - ex : ex, upper ? ey : long - ey] as const);
  const [sx, sy] = $derived([right ? -1 : 1, upper ? 1 : -1] as const);
  const text = (mm: number) => length(mm, session.style);
</script>

<svg
  class="shrink-0"
  width="330"
  height="320"
  viewBox="{-34 * px} {-20 * px} {m.width_mm + 104 * px} {long + 64 * px}"
  role="img"
  aria-label="{m.name}: takes {text(m.width_mm)} by {text(m.length_mm)}, cuts {text(m.safe_width_mm)} by {text(
    m.safe_length_mm,
  )}"
>
  <path
    d={broken
      ? `M0 0V${long}H${m.width_mm}V0L${m.width_mm * 0.66} ${-8 * px}L${m.width_mm * 0.5} ${8 * px}L${m.width_mm * 0.33} ${-8 * px}Z`
      : `M0 0V${long}H${m.width_mm}V0Z`}
    fill="var(--color-sheet)"
    stroke="var(--color-ink)"
    stroke-width={1.5 * px}
  />
  <path
    d={broken
      ? `M${ex} ${6 * px}V${long - ey}H${m.width_mm - ex}V${6 * px}`
      : `M${ex} ${ey}V${long - ey}H${m.width_mm - ex}V${ey}Z`}
    fill="none"
    stroke="var(--color-blue)"
    stroke-width={px}
    stroke-dasharray="{5 * px} {4 * px}"
  />
  <g fill="none" stroke="var(--color-brass)" stroke-width={1.8 * px}>
    <path d="M{at[0]} {at[1]}h{sx * 46 * px}m{-sx * 7 * px} {-4 * px}l{sx * 7 * px} {4 * px}l{-sx * 7 * px} {4 * px}" />
    <path d="M{at[0]} {at[1]}v{sy * 46 * px}m{-4 * px} {-sy * 7 * px}l{4 * px} {sy * 7 * px}l{4 * px} {-sy * 7 * px}" />
  </g>
  <circle cx={at[0]} cy={at[1]} r={3.4 * px} fill="var(--color-brass)" />
  <g font-size={13 * px} class="narrow" fill="var(--color-ink)">
    <text x={at[0] + sx * 54 * px} y={at[1] - sy * -14 * px + 4 * px} text-anchor={right ? 'end' : 'start'}
      >{m.x_along_feed ? '2nd' : '1st'} axis</text
    >
    <text x={at[0] + sx * 6 * px} y={at[1] + sy * 56 * px + 4 * px} text-anchor={right ? 'end' : 'start'}
      >{m.x_along_feed ? '1st' : '2nd'} axis</text
    >
    <text x={m.width_mm / 2} y={long + 18 * px} text-anchor="middle">{text(m.width_mm)}</text>
    <text x={m.width_mm / 2} y={long + 35 * px} text-anchor="middle" fill="var(--color-blue)"
      >cuts {text(m.safe_width_mm)}</text
    >
    <text x={m.width_mm + 6 * px} y={long / 2} text-anchor="start">{broken ? 'feed ↑' : text(m.length_mm)}</text>
  </g>
</svg>
