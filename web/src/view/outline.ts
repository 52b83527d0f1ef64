/** The outline of round faces: where a surface turns away from the eye, as a drawing shows it. */
import {
  BufferAttribute,
  BufferGeometry,
  DynamicDrawUsage,
  type LineBasicMaterial,
  LineSegments,
  type Vector3,
} from "three";
import type { Body } from "../api/types";
import type { Mesh } from "./mesh";

/** Sides of triangles inside round faces, packed: the numbers of a side's two ends, the two triangles' normals. */
class Folds {
  ends = new Uint32Array(256);
  normals = new Float32Array(768);
  count = 0;

  add(a: number, b: number, one: ArrayLike<number>, other: ArrayLike<number>) {
    if (2 * this.count === this.ends.length) {
      this.ends = enlarged(this.ends, new Uint32Array(2 * this.ends.length));
      this.normals = enlarged(this.normals, new Float32Array(2 * this.normals.length));
    }
    this.ends.set([a, b], 2 * this.count);
    this.normals.set(one, 6 * this.count);
    this.normals.set(other, 6 * this.count + 3);
    this.count++;
  }
}

function enlarged<T extends Uint32Array | Float32Array>(from: T, to: T): T {
  to.set(from);
  return to;
}

export class Outline {
  readonly lines: LineSegments;
  private folds = new Folds();
  private last: Vector3 | null = null;

  constructor(
    private mesh: Mesh,
    body: Body,
    ink: LineBasicMaterial,
  ) {
    body.faces.forEach((face, i) => {
      if (face.kind !== "plane") gather(mesh, i, this.folds);
    });
    this.lines = new LineSegments(new BufferGeometry(), ink);
    this.lines.frustumCulled = false;
    this.room(64);
  }

  /** Room for so many lines; what is there is used again for every direction of the eye. */
  private room(lines: number): Float32Array {
    const places = new BufferAttribute(new Float32Array(6 * lines), 3);
    places.setUsage(DynamicDrawUsage);
    this.lines.geometry.dispose();
    this.lines.geometry = new BufferGeometry();
    this.lines.geometry.setAttribute("position", places);
    this.lines.geometry.setDrawRange(0, 0);
    return places.array as Float32Array;
  }

  /** Bring the lines up to date for an eye in this direction. */
  seenFrom(back: Vector3) {
    if (this.last && this.last.distanceToSquared(back) < 1e-12) return;
    this.last = back.clone();
    const { ends, normals, count } = this.folds;
    const seen: number[] = [];
    const faces = (k: number) =>
      normals[k] * back.x + normals[k + 1] * back.y + normals[k + 2] * back.z > 1e-6;
    for (let i = 0; i < count; i++) if (faces(6 * i) !== faces(6 * i + 3)) seen.push(i);
    let places = this.lines.geometry.getAttribute("position").array as Float32Array;
    if (6 * seen.length > places.length) places = this.room(2 * seen.length);
    const p = this.mesh.positions;
    seen.forEach((fold, k) => {
      for (let end = 0; end < 2; end++)
        for (let c = 0; c < 3; c++) places[6 * k + 3 * end + c] = p[3 * ends[2 * fold + end] + c];
    });
    this.lines.geometry.setDrawRange(0, 2 * seen.length);
    this.lines.geometry.getAttribute("position").needsUpdate = true;
  }
}

function gather(mesh: Mesh, face: number, into: Folds) {
  const [t, p] = [mesh.triangles, mesh.positions];
  const end = mesh.faceStart[face + 1] ?? t.length / 3;
  // triangles of a face share places, not always numbers: a seam has each of its points twice
  const known = new Map<string, number>();
  const welded = new Map<number, number>();
  const place = (v: number): number => {
    let at = welded.get(v);
    if (at === undefined) {
      const key = `${p[3 * v]},${p[3 * v + 1]},${p[3 * v + 2]}`;
      at = known.get(key) ?? known.size;
      known.set(key, at);
      welded.set(v, at);
    }
    return at;
  };
  const sides = new Map<number, { a: number; b: number; normal: Float32Array }>();
  for (let k = mesh.faceStart[face]; k < end; k++) {
    const corners = [t[3 * k], t[3 * k + 1], t[3 * k + 2]];
    const normal = normalOf(p, corners);
    for (let i = 0; i < 3; i++) {
      const [a, b] = [corners[i], corners[(i + 1) % 3]];
      const [m, n] = [place(a), place(b)];
      const key = Math.min(m, n) * 2 ** 26 + Math.max(m, n); // two numbers below 67 million in one
      const first = sides.get(key);
      if (first) into.add(first.a, first.b, first.normal, normal);
      else sides.set(key, { a, b, normal });
    }
  }
}

function normalOf(p: Float32Array, [a, b, c]: number[]): Float32Array {
  const [ux, uy, uz] = [p[3 * b] - p[3 * a], p[3 * b + 1] - p[3 * a + 1], p[3 * b + 2] - p[3 * a + 2]];
  const [vx, vy, vz] = [p[3 * c] - p[3 * a], p[3 * c + 1] - p[3 * a + 1], p[3 * c + 2] - p[3 * a + 2]];
  const [x, y, z] = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx];
  const size = Math.hypot(x, y, z) || 1;
  return Float32Array.of(x / size, y / size, z / size);
}
