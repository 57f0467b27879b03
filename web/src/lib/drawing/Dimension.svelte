<script lang="ts">
  /** A dimension line between two places, its figure in a gap of the line; a click goes to its field. */
  import type { JobState } from '../state/job.svelte';
  import { focusField, isLit } from './fields';
  import { turned, type Point } from './paper';

  let {
    from,
    to,
    text,
    px,
    field = '',
    job,
    short = false,
    bad = false,
  }: {
    from: Point;
    to: Point;
    text: string;
    px: number;
    field?: string;
    job?: JobState;
    short?: boolean;
    bad?: boolean;
  } = $props();

  const a = $derived(turned(from));
  const b = $derived(turned(to));
  const long = $derived(Math.hypot(b[0] - a[0], b[1] - a[1]));
  const u = $derived<Point>(long ? [(b[0] - a[0]) / long, (b[1] - a[1]) / long] : [1, 0]);
  const gap = $derived(Math.min((text.length * 6.4 + 12) * px, Math.max(long - 24 * px, 0)));
  const lit = $derived(!!field && !!job && isLit(job, field));
  const colour = $derived(bad ? 'var(--color-look)' : lit ? 'var(--color-blue)' : 'var(--color-quiet)');
  let angle = $derived((Math.atan2(u[1], u[0]) * 180) / Math.PI);
  // Upright figures are read from the right of the sheet, wherever they stand.
  const upright = $derived(angle > 89.99 ? angle - 180 : angle <= -90.01 ? angle + 180 : angle);
  const mid = $derived<Point>([(a[0] + b[0]) / 2, (a[1] + b[1]) / 2]);
  const beside = $derived(short || gap < (text.length * 6 + 6) * px);
  function arrow(p: Point, s: number) {
    const l = 8 * px * s;
    const w = 2.4 * px;
    return `M${p[0]} ${p[1]}L${p[0] + u[0] * l - u[1] * w} ${p[1] + u[1] * l + u[0] * w}L${p[0] + u[0] * l + u[1] * w} ${p[1] + u[1] * l - u[0] * w}Z`;
  }
  const go = () => focusField(field);
</script>

<!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_static_element_interactions -->
<g
  class={field ? 'cursor-pointer' : ''}
  onclick={field ? go : undefined}
  onpointerdown={(e) => field && e.stopPropagation()}
>
  {#if beside}
    <path d="M{a[0]} {a[1]}L{b[0]} {b[1]}" stroke={colour} stroke-width={(lit ? 1.6 : 0.9) * px} />
  {:else}
    <path
      d="M{a[0]} {a[1]}L{mid[0] - (u[0] * gap) / 2} {mid[1] - (u[1] * gap) / 2}M{mid[0] + (u[0] * gap) / 2} {mid[1] +
        (u[1] * gap) / 2}L{b[0]} {b[1]}"
      stroke={colour}
      stroke-width={(lit ? 1.6 : 0.9) * px}
    />
  {/if}
  {#if long > 20 * px}
    <path d={arrow(a, 1) + arrow(b, -1)} fill={colour} />
  {/if}
  <text
    transform="translate({mid[0] + (beside ? u[1] * 11 * px : 0)} {mid[1] -
      (beside ? Math.abs(u[0]) * 11 * px : 0)}) rotate({upright})"
    font-size={13.5 * px}
    text-anchor="middle"
    dominant-baseline="central"
    class="narrow"
    font-weight={lit ? 650 : 500}
    fill={bad ? 'var(--color-look-ink)' : lit ? 'var(--color-blue)' : 'var(--color-ink)'}>{text}</text
  >
</g>
