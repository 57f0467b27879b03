<script lang="ts">
  /** The object, turning under the hand. Loaded after everything else. */
  import { Canvas } from '@threlte/core';
  import { NoToneMapping } from 'three';
  import type { JobState } from '../state/job.svelte';
  import type { Scene } from '../state/scene';
  import Body from './Body.svelte';

  let { job, scene, large = false }: { job: JobState; scene: Scene; large?: boolean } = $props();
  const FRONT = { yaw: 0, pitch: 0.16 };
  let yaw = $state(FRONT.yaw);
  let pitch = $state(FRONT.pitch);
  let distance = $state(1);
  let strained = $state(true);
  let bodyView = $state.raw<ReturnType<typeof Body>>();
  const hasStrain = $derived(!!scene.skin?.strain.length && job.step === 'unwrap');
  const picks = $derived(
    job.step === 'unwrap' && scene.measure.wraps.includes('patch.mode') && job.value('wrap.patch.mode') === 'grow',
  );
  const warms = $derived(scene.worn.some((w) => w.warmth.length));
  const reflects = $derived(scene.worn.some((w) => w.finish === 'reflective'));
  let pressed: { x: number; y: number } | null = null;

  /** A click, not a turn: the place a patch grows from. */
  function choose(e: PointerEvent) {
    if (!picks || !pressed || Math.hypot(e.clientX - pressed.x, e.clientY - pressed.y) > 4) return;
    const box = (e.currentTarget as Element).getBoundingClientRect();
    const at = bodyView?.pick(
      ((e.clientX - box.left) / box.width) * 2 - 1,
      1 - ((e.clientY - box.top) / box.height) * 2,
    );
    if (at)
      job.set(
        'wrap.patch.seed',
        at.map((c) => Math.round(c * 100) / 100),
      );
  }
  let held: { x: number; y: number } | null = null;
  const REST_AFTER_MS = 200;
  /** While it turns it may be painted coarser. */
  let turning = $state(false);
  let rest: ReturnType<typeof setTimeout> | undefined;
  const drawn = !!document.createElement('canvas').getContext('webgl2');

  function turn(dx: number, dy: number) {
    turning = true;
    clearTimeout(rest);
    rest = setTimeout(() => (turning = false), REST_AFTER_MS);
    yaw += dx;
    pitch = Math.min(1.3, Math.max(-0.6, pitch + dy));
  }
  function keydown(e: KeyboardEvent) {
    const by: Record<string, [number, number]> = {
      ArrowLeft: [-0.12, 0],
      ArrowRight: [0.12, 0],
      ArrowUp: [0, -0.08],
      ArrowDown: [0, 0.08],
    };
    const step = by[e.key];
    if (!step) return;
    e.preventDefault();
    turn(...step);
  }
  function front() {
    yaw = FRONT.yaw;
    pitch = FRONT.pitch;
    distance = 1;
  }
</script>

<!-- svelte-ignore a11y_no_noninteractive_element_interactions, a11y_no_noninteractive_tabindex -->
<div
  class="relative h-full w-full cursor-grab touch-none {job.pile.look === 'headlight' && reflects
    ? 'bg-[#20252e]'
    : 'bg-[#dfe3e8]'}"
  role="application"
  aria-label="The object wearing its decal; arrow keys turn it"
  tabindex="0"
  onkeydown={keydown}
  onpointerdown={(e) => {
    held = { x: e.clientX, y: e.clientY };
    pressed = held;
    (e.currentTarget as Element).setPointerCapture(e.pointerId);
  }}
  onpointermove={(e) => {
    if (!held) return;
    turn((e.clientX - held.x) * 0.012, (e.clientY - held.y) * 0.008);
    held = { x: e.clientX, y: e.clientY };
  }}
  onpointerup={(e) => {
    held = null;
    choose(e);
  }}
  onpointercancel={() => (held = null)}
>
  {#if drawn}
    <Canvas renderMode="on-demand" toneMapping={NoToneMapping}>
      <Body
        bind:this={bodyView}
        {job}
        {scene}
        {yaw}
        {pitch}
        {distance}
        {large}
        {turning}
        strained={strained && hasStrain}
      />
    </Canvas>
  {:else}
    <p class="fine p-3">This browser shows no object: it has no WebGL. The drawings are complete without it.</p>
  {/if}
</div>
<button
  class="button absolute top-2 left-2 bg-white/80! min-h-[26px]! px-2! py-0! text-[13px] text-[#18202e]"
  onclick={front}>at arm’s length</button
>
{#if warms || reflects}
  <div class="absolute right-2 bottom-2 left-2 flex items-center justify-between gap-2 text-[13px] text-[#18202e]">
    {#if warms}
      <label class="flex items-center gap-1.5 rounded-[3px] bg-white/80 px-2"
        ><input
          type="range"
          class="accent-brass w-[86px]"
          min="0"
          max="60"
          step="1"
          aria-label="How warm the object is"
          aria-valuetext="{job.pile.degrees} degrees Celsius"
          bind:value={job.pile.degrees}
        /><span class="narrow w-[38px] text-right">{job.pile.degrees} °C</span></label
      >
    {/if}
    {#if reflects}
      <button
        class="button min-h-[26px]! bg-white/80! px-2! py-0!"
        aria-pressed={job.pile.look === 'headlight'}
        onclick={() => (job.pile.look = job.pile.look === 'day' ? 'headlight' : 'day')}
        >{job.pile.look === 'day' ? 'in a headlight' : 'by day'}</button
      >
    {/if}
  </div>
{/if}
{#if hasStrain}
  <button
    class="button absolute top-2 right-2 bg-white/80! min-h-[26px]! px-2! py-0! text-[13px] text-[#18202e]"
    aria-pressed={strained}
    onclick={() => (strained = !strained)}>strain</button
  >
{/if}
