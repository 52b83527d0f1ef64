/** The outline of round faces: where a surface turns away from the eye, as a drawing shows it. */
import { BufferAttribute, BufferGeometry, type LineBasicMaterial, LineSegments, Vector3 } from "three";
import type { Body } from "../api/types";
import type { Mesh } from "./mesh";

/** A triangle's side inside a round face: its ends' places in the positions, the two triangles' normals. */
interface Fold {
  a: number;
  b: number;
  one: Vector3;
  other: Vector3;
}

export class Outline {
  readonly lines: LineSegments;
  private folds: Fold[];
  private last = new Vector3();

  constructor(
    private mesh: Mesh,
    body: Body,
    ink: LineBasicMaterial,
  ) {
    this.folds = body.faces.flatMap((face, i) => (face.kind === "plane" ? [] : folds(mesh, i)));
    this.lines = new LineSegments(new BufferGeometry(), ink);
    this.lines.frustumCulled = false;
  }

  /** Bring the lines up to date for an eye in this direction. */
  seenFrom(back: Vector3) {
    if (this.last.distanceToSquared(back) < 1e-12) return;
    this.last.copy(back);
    const out: number[] = [];
    const p = this.mesh.positions;
    for (const { a, b, one, other } of this.folds) {
      if (one.dot(back) > 1e-6 === other.dot(back) > 1e-6) continue;
      out.push(p[3 * a], p[3 * a + 1], p[3 * a + 2], p[3 * b], p[3 * b + 1], p[3 * b + 2]);
    }
    this.lines.geometry.dispose();
    this.lines.geometry = new BufferGeometry();
    this.lines.geometry.setAttribute("position", new BufferAttribute(new Float32Array(out), 3));
  }
}

function folds(mesh: Mesh, face: number): Fold[] {
  const t = mesh.triangles;
  const at = (v: number) => new Vector3().fromArray(mesh.positions, 3 * v);
  // triangles of a face share places, not always numbers: a seam has each of its points twice
  const place = (v: number) => [0, 1, 2].map((k) => mesh.positions[3 * v + k]).join();
  const sides = new Map<string, Fold>();
  const found: Fold[] = [];
  const end = mesh.faceStart[face + 1] ?? t.length / 3;
  for (let k = mesh.faceStart[face]; k < end; k++) {
    const corners = [t[3 * k], t[3 * k + 1], t[3 * k + 2]];
    const [p, q, r] = corners.map(at);
    const normal = q.sub(p).cross(r.sub(p)).normalize();
    for (let i = 0; i < 3; i++) {
      const [a, b] = [corners[i], corners[(i + 1) % 3]];
      const key = [place(a), place(b)].sort().join(";");
      const known = sides.get(key);
      if (known) found.push({ ...known, other: normal });
      else sides.set(key, { a, b, one: normal, other: normal });
    }
  }
  return found;
}
