<script lang="ts">
  /** The blank wearing its decal, and the light it stands in. */
  import { T, useThrelte } from '@threlte/core';
  import * as THREE from 'three';
  import type { Scene } from '../api/client';
  import { handOf } from '../drawing/hand';
  import type { JobState } from '../state/job.svelte';
  import { shadeOf } from './strain';
  import { paintDecal, type Patch } from './texture';

  let {
    job,
    scene,
    yaw,
    pitch,
    distance,
    large,
    strained = false,
  }: {
    job: JobState;
    scene: Scene;
    yaw: number;
    pitch: number;
    distance: number;
    large: boolean;
    strained?: boolean;
  } = $props();
  const { invalidate, camera } = useThrelte();
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
  const rise = $derived(m.slant ? m.upright / m.slant : 1);
  const foot = $derived(-m.foot);
  const rim = $derived(m.slant + m.rim);
  const radius = $derived((s: number) => m.radius_lower + m.k * s);
  const cup = $derived(m.kind === 'cup');
  const solid = $derived(m.solid);
  const middle = $derived(solid ? solid.size[1] / 2 : ((foot + rim) / 2) * rise);
  const reach = $derived(
    solid ? Math.max(...solid.size) * 1.05 : Math.max(rim - foot, 2.2 * Math.max(m.radius_lower, m.radius_upper)),
  );
  const wall = $derived('wall_mm' in blank ? Math.max(Number(blank.wall_mm) || 1, 0.8) : 1);

  /** Radius of a turned solid at a height, off its outer side line. */
  function outer(y: number): number {
    const line = solid?.line ?? [];
    for (let i = 2; i + 3 < line.length; i += 2) {
      if (line[i + 3]! < line[i + 1]!) break;
      if (y <= line[i + 3]!) {
        const share = (y - line[i + 1]!) / Math.max(line[i + 3]! - line[i + 1]!, 1e-6);
        return line[i]! + share * (line[i + 2]! - line[i]!);
      }
    }
    return 1;
  }
  function fromSolid(s: NonNullable<Scene['measure']['solid']>): THREE.BufferGeometry {
    if (s.line.length) {
      const points = [];
      for (let i = 0; i + 1 < s.line.length; i += 2) points.push(new THREE.Vector2(s.line[i]!, s.line[i + 1]!));
      return new THREE.LatheGeometry(points, 72);
    }
    if (s.plate.length) {
      const ring = (flat: number[]) => flat.flatMap((v, i) => (i % 2 ? [] : [new THREE.Vector2(v, flat[i + 1]!)]));
      const size = (flat: number[]) => Math.abs(THREE.ShapeUtils.area(ring(flat)));
      const [first, ...holes] = [...s.plate].sort((p, q) => size(q) - size(p));
      const shape = new THREE.Shape(ring(first!));
      shape.holes = holes.map((h) => new THREE.Path(ring(h)));
      return new THREE.ExtrudeGeometry(shape, { depth: 3, bevelEnabled: false, curveSegments: 1 }).translate(
        0,
        0,
        -3.1,
      );
    }
    const g = new THREE.BufferGeometry();
    g.setAttribute('position', new THREE.Float32BufferAttribute(s.positions, 3));
    g.setIndex(s.triangles);
    g.computeVertexNormals();
    return g;
  }

  const body = $derived.by(() => {
    if (solid) return fromSolid(solid);
    const p = (r: number, s: number) => new THREE.Vector2(Math.max(r, 0.01), s * rise);
    const inner = Math.min(wall, radius(foot) * 0.5, radius(rim) * 0.5);
    const points = [
      p(0.01, foot),
      p(radius(foot), foot),
      p(radius(rim), rim),
      p(radius(rim) - inner, rim),
      p(radius(foot + inner) - inner, foot + inner),
      p(0.01, foot + inner),
    ];
    return new THREE.LatheGeometry(points, 96);
  });
  const handle = $derived.by(() => {
    if (m.handle === null) return null;
    if (solid) {
      const [low, high] = [solid.size[1] * 0.22, solid.size[1] * 0.8];
      const r0 = Math.max(outer(low), outer(high));
      const d = r0 * 0.55;
      const place = (x: number, y: number) => new THREE.Vector3(x, y, 0);
      const loop = new THREE.CatmullRomCurve3([
        place(outer(high) - wall / 2, high),
        place(r0 + d * 0.75, high - 2),
        place(r0 + d, (low + high) / 2),
        place(r0 + d * 0.75, low + 2),
        place(outer(low) - wall / 2, low),
      ]);
      return new THREE.TubeGeometry(loop, 40, Math.max(4, r0 * 0.11), 14);
    }
    const s0 = m.free_low + (m.free_high - m.free_low) * 0.12;
    const s1 = m.free_low + (m.free_high - m.free_low) * 0.88;
    const r = Math.max(radius(s0), radius(s1));
    const out = r * 0.62;
    const at = (d: number, s: number) => new THREE.Vector3(d, s * rise, 0);
    const curve = new THREE.CatmullRomCurve3([
      at(radius(s1) - wall / 2, s1),
      at(r + out * 0.75, s1 - 2),
      at(r + out, (s0 + s1) / 2),
      at(r + out * 0.75, s0 + 2),
      at(radius(s0) - wall / 2, s0),
    ]);
    return new THREE.TubeGeometry(curve, 40, Math.max(4, r * 0.11), 14);
  });
  const patch = $derived<Patch>(
    cup
      ? { left: -Math.PI, right: Math.PI, low: foot, high: rim, turn: 2 * Math.PI }
      : m.skin
        ? {
            left: m.skin.left,
            right: m.skin.right,
            low: m.skin.low,
            high: m.skin.high,
            turn: m.closed ? 2 * Math.PI : 0,
          }
        : { left: -m.width / 2, right: m.width / 2, low: 0, high: m.height, turn: 0 },
  );
  type SkinOut = NonNullable<Scene['measure']['skin']>;
  /** The surface as triangles, lifted off it along its normals; where the film has to give, its strain as a shade. */
  function skinOf(s: SkinOut, lift: number, shade = false) {
    const uv: number[] = [];
    for (let i = 0; i + 1 < s.coordinates.length; i += 2)
      uv.push((s.coordinates[i]! - s.left) / (s.right - s.left), (s.coordinates[i + 1]! - s.low) / (s.high - s.low));
    const g = new THREE.BufferGeometry();
    g.setAttribute('position', new THREE.Float32BufferAttribute(s.positions, 3));
    g.setAttribute('uv', new THREE.Float32BufferAttribute(uv, 2));
    g.setIndex(s.triangles);
    g.computeVertexNormals();
    const p = g.getAttribute('position');
    const n = g.getAttribute('normal');
    for (let i = 0; i < p.count; i++)
      p.setXYZ(i, p.getX(i) + lift * n.getX(i), p.getY(i) + lift * n.getY(i), p.getZ(i) + lift * n.getZ(i));
    if (shade) {
      const limit = (scene.template?.strain?.limit ?? 2) / 100;
      g.setAttribute(
        'color',
        new THREE.Float32BufferAttribute(
          s.strain.flatMap((e) => shadeOf(e / limit)),
          3,
        ),
      );
    }
    return g;
  }
  const skin = $derived.by(() => {
    const s = m.skin;
    if (s) return (lift: number) => skinOf(s, lift);
    if (!cup) return (lift: number) => new THREE.PlaneGeometry(m.width, m.height).translate(0, m.height / 2, lift);
    return (lift: number) => {
      const n = 128;
      const position: number[] = [];
      const uv: number[] = [];
      const index: number[] = [];
      for (let i = 0; i <= n; i++) {
        const a = -Math.PI + (2 * Math.PI * i) / n;
        for (const [s, v] of [
          [foot, 0],
          [rim, 1],
        ] as const) {
          const r = radius(s) + lift;
          position.push(r * Math.sin(a), s * rise, r * Math.cos(a));
          uv.push(i / n, v);
        }
        if (i < n) index.push(2 * i, 2 * i + 2, 2 * i + 1, 2 * i + 1, 2 * i + 2, 2 * i + 3);
      }
      const g = new THREE.BufferGeometry();
      g.setAttribute('position', new THREE.Float32BufferAttribute(position, 3));
      g.setAttribute('uv', new THREE.Float32BufferAttribute(uv, 2));
      g.setIndex(index);
      g.computeVertexNormals();
      return g;
    };
  });
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

  /** What a layer is painted on. Uploading it is the dear part, so it waits until the hand rests; until then the last
   * one is shifted on the object, which costs nothing. */
  type Layer = { canvas: HTMLCanvasElement; texture: THREE.CanvasTexture };
  const kept: Layer[] = [];
  const PAINT_AFTER_MS = 140;
  let painted = $state.raw<Scene | null>(null);
  let timer: ReturnType<typeof setTimeout> | undefined;

  function layer(i: number): Layer {
    if (!kept[i]) {
      const canvas = document.createElement('canvas');
      const texture = new THREE.CanvasTexture(canvas);
      texture.colorSpace = THREE.SRGBColorSpace;
      texture.wrapS = THREE.RepeatWrapping;
      texture.generateMipmaps = false;
      texture.minFilter = THREE.LinearFilter;
      kept[i] = { canvas, texture };
    }
    return kept[i];
  }
  function paint(next: Scene) {
    next.object.forEach((paint, i) => {
      const { canvas, texture } = layer(i);
      const width = large ? 4096 : 1536;
      const height = Math.round(
        (width * (patch.high - patch.low)) / ((patch.right - patch.left) * (cup ? radius(m.slant / 2) : 1)),
      );
      if (canvas.width !== width || canvas.height !== height) {
        canvas.width = width;
        canvas.height = Math.max(16, Math.min(height, 4096));
        texture.dispose();
      }
      paintDecal(canvas, paint.rings, paint.colour, patch);
      texture.needsUpdate = true;
    });
    painted = next;
    invalidate();
  }
  $effect(() => {
    const next = scene;
    void large;
    clearTimeout(timer);
    timer = setTimeout(() => paint(next), painted ? PAINT_AFTER_MS : 0);
    return () => clearTimeout(timer);
  });
  const ahead = $derived(painted && painted.placed.length === 1 ? handOf(job, painted, 0) : null);
  $effect(() => {
    for (const { texture } of kept)
      texture.offset.set(-(ahead?.da ?? 0) / (patch.right - patch.left), -(ahead?.ds ?? 0) / (patch.high - patch.low));
    invalidate();
  });
  $effect(() => {
    void [yaw, pitch, distance, body];
    invalidate();
  });
</script>

<T.PerspectiveCamera
  makeDefault
  fov={28}
  near={1}
  far={20000}
  oncreate={(c) => c.lookAt(0, 0, 0)}
  position={[0, Math.sin(pitch) * reach * 2.7 * distance, Math.cos(pitch) * reach * 2.7 * distance]}
  rotation={[-pitch, 0, 0]}
/>
<T.HemisphereLight args={['#ffffff', '#dcdcd6', 2.1]} />
<T.DirectionalLight intensity={1.5} position={[-reach, reach * 1.4, reach * 1.6]} />
<T.DirectionalLight intensity={0.6} position={[reach * 1.5, reach * 0.3, reach]} />
<T.Group rotation={[0, yaw, 0]}>
  <T.Group position={[0, -middle, 0]} bind:ref={inner}>
    <T.Mesh geometry={body} bind:ref={shell}>
      <T.MeshStandardMaterial color={blank.colour} roughness={0.42} metalness={0.05} side={THREE.DoubleSide} />
    </T.Mesh>
    {#if handle}
      <T.Group rotation={[0, m.handle! - Math.PI / 2, 0]}>
        <T.Mesh geometry={handle}
          ><T.MeshStandardMaterial color={blank.colour} roughness={0.42} metalness={0.05} /></T.Mesh
        >
      </T.Group>
    {/if}
    {#if strained && m.skin?.strain.length}
      <T.Mesh geometry={skinOf(m.skin, 0.35, true)}>
        <T.MeshBasicMaterial vertexColors side={THREE.DoubleSide} transparent opacity={0.88} />
      </T.Mesh>
    {/if}
    {#each scene.fault?.places ?? [] as place, i (i)}
      <T.Mesh position={place as [number, number, number]}>
        <T.SphereGeometry args={[reach * 0.012, 12, 8]} />
        <T.MeshBasicMaterial color="#b3261e" />
      </T.Mesh>
    {/each}
    {#each painted?.object ?? [] as paint, i (i)}
      {@const gloss = GLOSS[paint.finish] ?? [0.4, 0]}
      <T.Mesh geometry={skin(0.12 + 0.08 * i)}>
        <T.MeshStandardMaterial
          map={layer(i).texture}
          transparent
          alphaTest={0.02}
          roughness={gloss[0]}
          metalness={gloss[1] * 0.4}
          depthWrite={false}
        />
      </T.Mesh>
    {/each}
  </T.Group>
</T.Group>
