<script lang="ts">
  /** The object, turning under the hand. Loaded after everything else. */
  import { Canvas } from '@threlte/core';
  import { NoToneMapping } from 'three';
  import type { Scene } from '../api/client';
  import type { JobState } from '../state/job.svelte';
  import Body from './Body.svelte';

  let { job, scene, large = false }: { job: JobState; scene: Scene; large?: boolean } = $props();
  const FRONT = { yaw: 0, pitch: 0.16 };
  let yaw = $state(FRONT.yaw);
  let pitch = $state(FRONT.pitch);
  let distance = $state(1);
  let held: { x: number; y: number } | null = null;

  function turn(dx: number, dy: number) {
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
  class="relative h-full w-full cursor-grab touch-none bg-[#dfe3e8]"
  role="application"
  aria-label="The object wearing its decal; arrow keys turn it"
  tabindex="0"
  onkeydown={keydown}
  onpointerdown={(e) => {
    held = { x: e.clientX, y: e.clientY };
    (e.currentTarget as Element).setPointerCapture(e.pointerId);
  }}
  onpointermove={(e) => {
    if (!held) return;
    turn((e.clientX - held.x) * 0.012, (e.clientY - held.y) * 0.008);
    held = { x: e.clientX, y: e.clientY };
  }}
  onpointerup={() => (held = null)}
  onpointercancel={() => (held = null)}
>
  <Canvas renderMode="on-demand" toneMapping={NoToneMapping}>
    <Body {job} {scene} {yaw} {pitch} {distance} {large} />
  </Canvas>
</div>
<button
  class="button absolute top-2 left-2 bg-white/80! min-h-[26px]! px-2! py-0! text-[13px] text-[#18202e]"
  onclick={front}>at arm’s length</button
>
