<script lang="ts">
  /** The sets of a load, each to be taken by the hand: dragged, turned by the knob over it, or moved by the arrow keys. */
  import type { JobState } from '../state/job.svelte';
  import type { Patch } from '../state/sets.svelte';
  import { pathOf } from './paper';
  import type { View } from './view.svelte';

  let { job, patches, view }: { job: JobState; patches: Patch[]; view: View } = $props();
  const px = $derived(view.px);
  type Held = {
    patch: Patch;
    index: number;
    from: [number, number];
    turning: boolean;
    by: [number, number];
    turn: number;
  };
  /** What the pointer is bound to: sets come and go while one is in the hand. */
  let group: SVGGElement;
  let held = $state.raw<Held | null>(null);
  const chosen = $derived(job.sets.chosen);
  const isChosen = (patch: Patch, n: number) =>
    chosen?.film === patch.name &&
    (patch.items[n]!.by_hand < 0 ? chosen.index === n : place(patch, n) === chosen.index);
  /** Which of the places by hand of its film a set has. */
  const place = (patch: Patch, n: number) => {
    const all = patch.items.map((i) => i.by_hand).filter((k) => k >= 0);
    return all.toSorted((a, b) => a - b).indexOf(patch.items[n]!.by_hand);
  };

  const box = (ring: number[]) => {
    const xs = ring.filter((_, i) => i % 2 === 0);
    const ys = ring.filter((_, i) => i % 2);
    return [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)] as const;
  };
  const middle = (ring: number[]): [number, number] => {
    const [l, b, r, t] = box(ring);
    return [(l + r) / 2, (b + t) / 2];
  };
  /** An outline as the hand holds it. */
  function seen({ patch, index, by, turn }: Held): number[] {
    const ring = patch.items[index]!.outline;
    const [cx, cy] = middle(ring);
    const [c, s] = [Math.cos((turn * Math.PI) / 180), Math.sin((turn * Math.PI) / 180)];
    return ring.map((_, i) => {
      const [x, y] = [ring[i - (i % 2)]! - cx, ring[i - (i % 2) + 1]! - cy];
      return i % 2 ? cy + s * x + c * y + by[1] : cx + c * x - s * y + by[0];
    });
  }
  function to(h: Held) {
    const item = h.patch.items[h.index]!;
    const [was, now] = [box(item.outline), box(seen(h))];
    return { x_mm: item.x + now[0] - was[0], y_mm: item.y + now[1] - was[1], turn_deg: item.turn + h.turn };
  }

  function down(e: PointerEvent, patch: Patch, index: number, turning = false) {
    if (e.button !== 0) return;
    e.stopPropagation();
    group.setPointerCapture(e.pointerId);
    held = { patch, index, from: [e.clientX, e.clientY], turning, by: [0, 0], turn: 0 };
  }
  function move(e: PointerEvent) {
    if (!held) return;
    const [dx, dy] = [(e.clientX - held.from[0]) * px, (held.from[1] - e.clientY) * px];
    if (held.turning) {
      const [, b, , t] = box(held.patch.items[held.index]!.outline);
      // From the knob over its middle to where the hand is now.
      const arm = (t - b) / 2 + KNOB_PX * px;
      const turn = (Math.atan2(arm + dy, dx) * 180) / Math.PI - 90;
      held = { ...held, turn: e.shiftKey ? Math.round(turn / 15) * 15 : turn };
    } else held = { ...held, by: [dx, dy] };
    job.sets.hold(held.patch, held.index, to(held));
  }
  function up() {
    const last = held;
    held = null;
    if (!last) return;
    if (Math.hypot(...last.by) < 2 * px && !last.turn) {
      job.drop();
      const mine = last.patch.items[last.index]!;
      job.sets.chosen = { film: last.patch.name, index: mine.by_hand < 0 ? last.index : place(last.patch, last.index) };
    } else job.sets.place(last.patch, last.index, to(last));
  }
  function keydown(e: KeyboardEvent, patch: Patch, index: number) {
    const arrow = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[e.key];
    if (!arrow) return;
    e.preventDefault();
    const [dx, dy] = arrow as [number, number];
    const item = patch.items[index]!;
    const far = e.shiftKey ? 10 : 1;
    if (e.altKey) {
      if (patch.turns === 'never') return;
      const h: Held = { patch, index, from: [0, 0], turning: true, by: [0, 0], turn: -dx * (e.shiftKey ? 15 : 1) };
      job.sets.place(patch, index, to(h));
    } else job.sets.place(patch, index, { x_mm: item.x + dx * far, y_mm: item.y + dy * far, turn_deg: item.turn });
  }
  const KNOB_PX = 26;
</script>

<!-- svelte-ignore a11y_no_static_element_interactions -->
<g bind:this={group} onpointermove={move} onpointerup={up} onpointercancel={up}>
  {#each patches as patch (patch.name)}
    {#each patch.items as item, n (n)}
      {@const mine = isChosen(patch, n)}
      <path
        d={pathOf([item.outline])}
        fill="transparent"
        stroke={mine ? 'var(--color-brass)' : item.by_hand >= 0 ? 'var(--color-ink)' : 'transparent'}
        stroke-width={(mine ? 2.2 : 1) * px}
        stroke-dasharray={mine ? undefined : `${6 * px} ${3 * px}`}
        class="cursor-move focus-visible:stroke-brass outline-none!"
        role="button"
        tabindex="0"
        data-set={n}
        data-by-hand={item.by_hand >= 0}
        aria-label="{patch.name}, set {n + 1}{item.by_hand >= 0
          ? ', laid by hand'
          : ''}. Arrow keys move it, Alt with them turns it."
        aria-pressed={mine}
        onpointerdown={(e) => down(e, patch, n)}
        onkeydown={(e) => keydown(e, patch, n)}
      />
      {#if mine && patch.turns === 'any' && !held}
        {@const [x, y] = [middle(item.outline)[0], box(item.outline)[3]]}
        <path d="M{x} {-y}V{-y - (KNOB_PX - 7) * px}" stroke="var(--color-brass)" stroke-width={1.4 * px} />
        <circle
          cx={x}
          cy={-y - KNOB_PX * px}
          r={7 * px}
          fill="var(--color-sheet)"
          stroke="var(--color-brass)"
          stroke-width={1.8 * px}
          class="cursor-grab"
          role="button"
          tabindex="-1"
          aria-label="Turn it"
          data-knob
          onpointerdown={(e) => down(e, patch, n, true)}
        />
      {/if}
    {/each}
  {/each}
  {#if held}
    <path
      d={pathOf([seen(held)])}
      fill="none"
      stroke="var(--color-brass)"
      stroke-width={2.2 * px}
      class="pointer-events-none"
      data-held-set
    />
  {/if}
</g>
