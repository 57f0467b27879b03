<script lang="ts">
  /** The blank wearing its decal, and the light it stands in. */
  import { T, useThrelte } from '@threlte/core';
  import { onDestroy } from 'svelte';
  import * as THREE from 'three';
  import { aheadIn, NOWHERE } from '../state/hand';
  import type { JobState } from '../state/job.svelte';
  import type { Scene } from '../state/scene';
  import { Decals } from './decals.svelte';
  import { Pace } from './pace';
  import { handleOf, patchOf, shellOf, skinOf } from './shape';

  let {
    job,
    scene,
    yaw,
    pitch,
    distance,
    large,
    turning = false,
    strained = false,
  }: {
    job: JobState;
    scene: Scene;
    yaw: number;
    pitch: number;
    distance: number;
    large: boolean;
    turning?: boolean;
    strained?: boolean;
  } = $props();
  const { invalidate, camera, renderer, dpr } = useThrelte();
  let inner = $state.raw<THREE.Group>();
  let shell = $state.raw<THREE.Mesh>();

  /** The place on the body under a point of the view (-1 to 1 each way), in the body's own mm; null beside it. */
  export function pick(x: number, y: number): [number, number, number] | null {
    if (!shell || !inner) return null;
    const ray = new THREE.Raycaster();
    ray.setFromCamera(new THREE.Vector2(x, y), camera.current);
    const hit = ray.intersectObject(shell)[0];
    if (!hit) return null;
    const p = inner.worldToLocal(hit.point.clone());
    return [p.x, p.y, p.z];
  }

  const m = $derived(scene.measure);
  const blank = $derived(scene.document.blank);
  const solid = $derived(scene.solid);
  const skin = $derived(scene.skin);
  const middle = $derived(solid.low + solid.size[1] / 2);
  const reach = $derived(Math.max(...solid.size) * 1.05);
  /** How far the eye is, mm: what is seen lies between there less the object and there and it, as near to the eye as goes. */
  const away = $derived(reach * 2.7 * distance);
  const wall = $derived('wall_mm' in blank ? Math.max(Number(blank.wall_mm) || 1, 0.8) : 1);
  const body = $derived(shellOf(solid));
  const handle = $derived(handleOf(m, solid, wall));
  const patch = $derived(skin ? patchOf(skin, m.closed) : null);
  /** How high the patch is for its width, as it is seen. */
  const tall = $derived(
    patch ? (patch.high - patch.low) / (m.closed ? Math.PI * solid.size[0] : patch.right - patch.left) : 1,
  );
  const films = $derived(scene.worn.length);
  const worn = $derived(skin ? Array.from({ length: films }, (_, i) => skinOf(skin, 0.12 + 0.08 * i)) : []);
  const shaded = $derived(strained && skin?.strain.length ? skinOf(skin, 0.35, true) : null);
  const GLOSS: Record<string, [number, number]> = {
    gloss: [0.25, 0],
    matt: [0.85, 0],
    glitter: [0.35, 0.6],
    metal: [0.2, 0.8],
    holographic: [0.2, 0.6],
    brushed: [0.5, 0.6],
    clear: [0.2, 0],
    reflective: [0.3, 0.3],
  };

  /** Each film's colour at the warmth that is looked at. */
  const colours = $derived(
    scene.worn.map((w) => {
      if (!w.warmth.length) return w.colour;
      return w.warmth.reduce((a, b) =>
        Math.abs(b[0] - job.pile.degrees) < Math.abs(a[0] - job.pile.degrees) ? b : a,
      )[1];
    }),
  );
  const lain = $derived(job.step === 'layers' ? job.pile.times : 0);
  const night = $derived(job.pile.look === 'headlight');
  let late: ReturnType<typeof setTimeout> | undefined;
  /** The films as they are laid wrong, as often as this machine manages: the drawing comes first. */
  $effect(() => {
    const [hand, times, at] = [job.pile.hand, lain, patch];
    const lay = () => {
      if (decals.painted && at) decals.mislay(decals.painted.worn, hand, times, at);
      timed();
    };
    clearTimeout(late);
    if (!times) lay();
    else late = setTimeout(lay, SETTLE_MS / 2);
    return () => clearTimeout(late);
  });
  $effect(() => {
    void night;
    invalidate();
  });

  const decals = new Decals();
  let settling: ReturnType<typeof setTimeout> | undefined;
  onDestroy(() => {
    clearTimeout(settling);
    decals.drop();
  });
  const pace = new Pace();
  const full = Math.min(window.devicePixelRatio || 1, 2);
  const ASK_AFTER_MS = 8;

  /** Paint now, and see how long it takes: until the picture is drawn, and until the page is free for the next one,
   * which waits where the picture is carried over without a graphics card. */
  function timed() {
    const began = performance.now();
    invalidate();
    requestAnimationFrame((first) => {
      let free = 0;
      requestAnimationFrame((next) => (free = next - first));
      const gl = renderer.getContext() as WebGL2RenderingContext;
      const done = gl.fenceSync(gl.SYNC_GPU_COMMANDS_COMPLETE, 0);
      gl.flush();
      const ask = () => {
        if (!done || gl.getSyncParameter(done, gl.SYNC_STATUS) !== gl.SIGNALED) setTimeout(ask, ASK_AFTER_MS);
        else pace.took(Math.max(free, performance.now() - began), dpr.current / full);
      };
      if (done) ask();
    });
  }
  /** The object follows the hand as often as this machine manages; the exact one is painted when it rests. */
  function follow() {
    const painted = decals.painted;
    if (!painted || !patch || painted.placed.length !== 1) return;
    const held = job.hand.held;
    if (held && !pace.follows(performance.now())) return;
    sized(turning || !!held);
    decals.shift(aheadIn(painted.placed[0], painted.document, job.document, held), patch);
    invalidate();
  }
  const SETTLE_MS = 400;
  /** Let go: the exact one comes first, and is painted in full. */
  function heard() {
    clearTimeout(settling);
    if (job.hand.held) follow();
    else settling = setTimeout(follow, SETTLE_MS);
  }
  $effect(() => job.hand.follow(heard));
  $effect(() => {
    void job.document;
    heard();
  });

  const PAINT_AFTER_MS = 60;
  let timer: ReturnType<typeof setTimeout> | undefined;
  $effect(() => {
    const [next, at, high, big] = [scene, patch, tall, large];
    void colours;
    /** The exact object waits until the hand lets go: painting it could hold the hand up. */
    const paint = () => {
      if (job.hand.held) {
        timer = setTimeout(paint, PAINT_AFTER_MS);
        return;
      }
      clearTimeout(settling);
      if (at) {
        decals.paint(next, at, high, big, colours);
        decals.mislay(next.worn, job.pile.hand, lain, at);
      }
      follow();
      timed();
    };
    clearTimeout(timer);
    timer = setTimeout(paint, decals.painted ? PAINT_AFTER_MS : 0);
    return () => clearTimeout(timer);
  });
  /** While something moves it may be painted coarser. */
  function sized(moving: boolean) {
    const wanted = moving ? full * pace.size : full;
    if (Math.abs(wanted - dpr.current) > 0.05) dpr.set(wanted);
  }
  $effect(() => {
    sized(turning);
    void [yaw, pitch, distance, body, NOWHERE];
    invalidate();
  });
</script>

<T.PerspectiveCamera
  makeDefault
  fov={28}
  near={Math.max(0.02 * reach, 0.5 * (away - 1.3 * reach))}
  far={away + 4 * reach}
  oncreate={(c) => c.lookAt(0, 0, 0)}
  position={[0, Math.sin(pitch) * away, Math.cos(pitch) * away]}
  rotation={[-pitch, 0, 0]}
/>
<T.HemisphereLight args={['#ffffff', '#dcdcd6', 2.1]} intensity={night ? 0.22 : 2.1} />
<T.DirectionalLight intensity={night ? 0 : 1.5} position={[-reach, reach * 1.4, reach * 1.6]} />
<T.DirectionalLight intensity={night ? 0 : 0.6} position={[reach * 1.5, reach * 0.3, reach]} />
{#if night}<T.DirectionalLight intensity={0.35} position={[0, 0, reach * 3]} />{/if}
<T.Group rotation={[0, yaw, 0]}>
  <T.Group position={[0, -middle, 0]} bind:ref={inner}>
    <T.Mesh geometry={body} bind:ref={shell}>
      <T.MeshStandardMaterial color={blank.colour} roughness={0.42} metalness={0.05} side={THREE.DoubleSide} />
    </T.Mesh>
    {#if handle}
      <T.Group rotation={[0, m.free.handle! - Math.PI / 2, 0]}>
        <T.Mesh geometry={handle}
          ><T.MeshStandardMaterial color={blank.colour} roughness={0.42} metalness={0.05} /></T.Mesh
        >
      </T.Group>
    {/if}
    {#if shaded}
      <T.Mesh geometry={shaded}>
        <T.MeshBasicMaterial vertexColors side={THREE.DoubleSide} transparent opacity={0.88} />
      </T.Mesh>
    {/if}
    {#each scene.stopped?.fault.places ?? [] as place, i (i)}
      <T.Mesh position={place as [number, number, number]}>
        <T.SphereGeometry args={[reach * 0.012, 12, 8]} />
        <T.MeshBasicMaterial color="#b3261e" />
      </T.Mesh>
    {/each}
    {#each decals.painted?.worn ?? [] as paint, i (i)}
      {@const gloss = GLOSS[paint.finish] ?? [0.4, 0]}
      {#if worn[i]}
        <T.Mesh geometry={worn[i]} renderOrder={i + 1}>
          <T.MeshStandardMaterial
            map={decals.layer(i).texture}
            emissive={night && paint.finish === 'reflective' ? '#ffffff' : '#000000'}
            emissiveMap={night && paint.finish === 'reflective' ? decals.layer(i).texture : null}
            emissiveIntensity={1.1}
            transparent
            opacity={paint.finish === 'clear' ? 0.35 : 1}
            alphaTest={0.02}
            roughness={gloss[0]}
            metalness={gloss[1] * 0.4}
            depthWrite={false}
          />
        </T.Mesh>
      {/if}
    {/each}
  </T.Group>
</T.Group>
