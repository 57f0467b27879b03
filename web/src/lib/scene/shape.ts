/** The body and its skin as three.js takes them, from the numbers the core gives. */
import * as THREE from 'three';
import type { Measure, Scene } from '../state/scene';
import { shadeOf } from './strain';
import type { Patch } from './texture';

type Solid = Scene['solid'];
type Skin = NonNullable<Scene['skin']>;
const AROUND = 72;

function meshOf(positions: number[], triangles: number[]): THREE.BufferGeometry {
  const g = new THREE.BufferGeometry();
  g.setAttribute('position', new THREE.Float32BufferAttribute(positions, 3));
  g.setIndex(triangles);
  g.computeVertexNormals();
  return g;
}

const places = (flat: number[]) => flat.flatMap((v, i) => (i % 2 ? [] : [new THREE.Vector2(v, flat[i + 1]!)]));

function plateOf(rings: number[][]): THREE.BufferGeometry {
  const size = (flat: number[]) => Math.abs(THREE.ShapeUtils.area(places(flat)));
  const [first, ...holes] = [...rings].sort((p, q) => size(q) - size(p));
  const shape = new THREE.Shape(places(first!));
  shape.holes = holes.map((h) => new THREE.Path(places(h)));
  const depth = { depth: 3, bevelEnabled: false, curveSegments: 1 };
  return new THREE.ExtrudeGeometry(shape, depth).translate(0, 0, -3.1);
}

/** The body itself. */
export function shellOf(s: Solid): THREE.BufferGeometry {
  if (s.line.length) return new THREE.LatheGeometry(places(s.line), AROUND);
  return s.plate.length ? plateOf(s.plate) : meshOf(s.positions, s.triangles);
}

/** Radius of a turned body at a height, off its outer side line. */
function outer(line: number[], y: number): number {
  for (let i = 2; i + 3 < line.length; i += 2) {
    if (line[i + 3]! < line[i + 1]!) break;
    if (y <= line[i + 3]!) {
      const share = (y - line[i + 1]!) / Math.max(line[i + 3]! - line[i + 1]!, 1e-6);
      return line[i]! + share * (line[i + 2]! - line[i]!);
    }
  }
  return 1;
}

/** A handle on a turned body, standing toward x; null where it has none. */
export function handleOf(m: Measure, s: Solid, wall: number): THREE.BufferGeometry | null {
  if (m.free.handle === null || !s.line.length) return null;
  const tall = s.size[1];
  const [low, high] = [s.low + tall * 0.2, s.low + tall * 0.82];
  const r = Math.max(outer(s.line, low), outer(s.line, high));
  const out = r * 0.6;
  const at = (x: number, y: number) => new THREE.Vector3(x, y, 0);
  const loop = new THREE.CatmullRomCurve3([
    at(outer(s.line, high) - wall / 2, high),
    at(r + out * 0.75, high - 2),
    at(r + out, (low + high) / 2),
    at(r + out * 0.75, low + 2),
    at(outer(s.line, low) - wall / 2, low),
  ]);
  return new THREE.TubeGeometry(loop, 40, Math.max(4, r * 0.11), 14);
}

/** Which part of the surface's own coordinates the skin covers. */
export const patchOf = (s: Skin, closed: boolean): Patch => ({
  left: s.left,
  right: s.right,
  low: s.low,
  high: s.high,
  turn: closed ? s.right - s.left : 0,
});

/** The surface as triangles, lifted off it along its normals; where the film has to give, its strain as a shade. */
export function skinOf(s: Skin, lift: number, shade = false): THREE.BufferGeometry {
  const g = meshOf(s.positions, s.triangles);
  const uv: number[] = [];
  for (let i = 0; i + 1 < s.coordinates.length; i += 2)
    uv.push((s.coordinates[i]! - s.left) / (s.right - s.left), (s.coordinates[i + 1]! - s.low) / (s.high - s.low));
  g.setAttribute('uv', new THREE.Float32BufferAttribute(uv, 2));
  const p = g.getAttribute('position');
  const n = g.getAttribute('normal');
  for (let i = 0; i < p.count; i++)
    p.setXYZ(i, p.getX(i) + lift * n.getX(i), p.getY(i) + lift * n.getY(i), p.getZ(i) + lift * n.getZ(i));
  if (shade) g.setAttribute('color', new THREE.Float32BufferAttribute(s.strain.flatMap(shadeOf), 3));
  return g;
}
