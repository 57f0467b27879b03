<script lang="ts">
  /** Work in panels: its joints, which can be moved, the guide bars across them, and each panel's number. */
  import type { JobState } from '../state/job.svelte';
  import type { Scene } from '../state/scene';
  import { session } from '../state/session.svelte';
  import { length, lengthText } from '../units';
  import Dimension from './Dimension.svelte';
  import Drawing from './Drawing.svelte';
  import { pathOf, type Bounds } from './paper';
  import { View } from './view.svelte';

  let { job, scene, name }: { job: JobState; scene: Scene; name: string } = $props();
  const view = new View();
  view.padding = [50, 56];
  const px = $derived(view.px);
  const every = $derived(scene.sheets!.parted);
  const one = $derived(every.find((p) => p.name === name) ?? every[0]!);
  const bounds = $derived.by<Bounds>(() => {
    const boxes = one.panels.map((p) => p.box as number[]);
    return [
      Math.min(...boxes.map((b) => b[0]!)),
      Math.min(...boxes.map((b) => b[1]!)),
      Math.max(...boxes.map((b) => b[2]!)),
      Math.max(...boxes.map((b) => b[3]!)),
    ];
  });
  const upright = $derived(one.from_left.length);
  /** The joint in the hand, and how far it was moved, mm. */
  let held = $state<{ k: number; from: number; by: number } | null>(null);
  let area = $state<HTMLElement>();
  const text = (mm: number) => lengthText(mm, session.style);

  function place(k: number, mm: number) {
    const now = one.from_left.map((x, n) => Math.round((n === k ? mm : x) * 10) / 10);
    const typed = (job.value('sheets.panels.moved_mm') ?? []) as number[];
    job.set('sheets.panels.moved_mm', now.slice(0, Math.max(k + 1, typed.length)));
  }
  function down(e: PointerEvent, k: number) {
    if (!session.makes) return;
    e.stopPropagation();
    (e.currentTarget as Element).setPointerCapture(e.pointerId);
    held = { k, from: e.clientX, by: 0 };
  }
  function move(e: PointerEvent) {
    if (held) held = { ...held, by: (e.clientX - held.from) * px };
  }
  function release() {
    const last = held;
    held = null;
    if (last && Math.abs(last.by) > 0.05) place(last.k, one.from_left[last.k]! + last.by);
  }
  function keydown(e: KeyboardEvent, k: number) {
    const step = { ArrowLeft: -0.5, ArrowRight: 0.5 }[e.key];
    if (!step || !session.makes) return;
    e.preventDefault();
    place(k, one.from_left[k]! + step * (e.shiftKey ? 10 : 1));
  }
</script>

<Drawing {view} {bounds} bind:area title="{one.name} in {one.panels.length} panels" label="Work in panels">
  <path
    d={pathOf(one.rings)}
    fill={one.colour}
    fill-rule="evenodd"
    stroke="var(--color-edge)"
    stroke-width={0.5 * px}
  />
  <path d={pathOf(one.bars)} fill="var(--color-steel)" stroke="var(--color-ink)" stroke-width={0.8 * px} />
  {#each one.joints as joint, k (k)}
    {@const mine = held?.k === k}
    <g transform={mine ? `translate(${held!.by} 0)` : undefined}>
      <path
        d={pathOf([joint], false)}
        fill="none"
        stroke={mine ? 'var(--color-brass)' : 'var(--color-blue)'}
        stroke-width={(mine ? 2.4 : 1.6) * px}
        stroke-dasharray="{9 * px} {3 * px} {2 * px} {3 * px}"
      />
      {#if k < upright}
        <path
          d={pathOf([joint], false)}
          fill="none"
          stroke="transparent"
          stroke-width={22 * px}
          class="cursor-ew-resize"
          role="slider"
          tabindex="0"
          aria-label="Joint {k + 1}, from the left"
          aria-valuenow={one.from_left[k]}
          aria-valuetext={length(one.from_left[k]!, session.style)}
          data-joint={k}
          onpointerdown={(e) => down(e, k)}
          onpointermove={move}
          onpointerup={release}
          onpointercancel={() => (held = null)}
          onkeydown={(e) => keydown(e, k)}
        />
        {#if mine}
          <text x={joint[0]! + 8 * px} y={-joint[1]! - 14 * px} font-size={14 * px} class="narrow"
            >{text(one.from_left[k]! + held!.by)}</text
          >
        {/if}
      {/if}
    </g>
  {/each}
  {#each one.panels as p (p.number)}
    <circle
      cx={p.at[0]}
      cy={-p.at[1]}
      r={13 * px}
      fill="var(--color-sheet)"
      stroke="var(--color-ink)"
      stroke-width={1.1 * px}
    />
    <text x={p.at[0]} y={-p.at[1] + 5 * px} font-size={15 * px} text-anchor="middle" font-weight="600">{p.number}</text>
  {/each}
  <Dimension
    {px}
    from={[bounds[0], bounds[1] - 24 * px]}
    to={[bounds[2], bounds[1] - 24 * px]}
    text={text(bounds[2] - bounds[0])}
  />
  <Dimension
    {px}
    from={[bounds[0] - 24 * px, bounds[1]]}
    to={[bounds[0] - 24 * px, bounds[3]]}
    text={text(bounds[3] - bounds[1])}
  />
</Drawing>
