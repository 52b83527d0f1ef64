/** Reads the packed mesh (see sulvak_core.solid.mesh). */
import type { Body } from "../api/types";

export interface Mesh {
  positions: Float32Array;
  normals: Float32Array;
  triangles: Uint32Array;
  faceStart: Uint32Array;
  edgePoints: Float32Array;
  edgeStart: Uint32Array;
}

const padded = (n: number) => (n + 3) & ~3;

export function readMesh(buffer: ArrayBuffer): Mesh {
  const view = new DataView(buffer);
  const [n, m, faces, points, edges] = [0, 1, 2, 3, 4].map((i) => view.getUint32(4 + 4 * i, true));
  const box = new Float32Array(buffer.slice(24, 48));
  let at = 48;
  const grid = (count: number) => {
    const raw = new Uint16Array(buffer, at, count * 3);
    at += padded(count * 6);
    const out = new Float32Array(count * 3);
    for (let i = 0; i < out.length; i++) {
      const k = i % 3;
      const span = box[3 + k] - box[k] || 1;
      out[i] = box[k] + (raw[i] / 65535) * span;
    }
    return out;
  };
  const positions = grid(n);
  const oct = new Int8Array(buffer, at, n * 2);
  at += padded(n * 2);
  const normals = new Float32Array(n * 3);
  for (let i = 0; i < n; i++) {
    let x = oct[2 * i] / 127;
    let y = oct[2 * i + 1] / 127;
    const z = 1 - Math.abs(x) - Math.abs(y);
    if (z < 0) {
      const [ox, oy] = [x, y];
      x = (1 - Math.abs(oy)) * (ox >= 0 ? 1 : -1);
      y = (1 - Math.abs(ox)) * (oy >= 0 ? 1 : -1);
    }
    const size = Math.hypot(x, y, z) || 1;
    normals.set([x / size, y / size, z / size], 3 * i);
  }
  const wide = n > 65535;
  const raw = wide ? new Uint32Array(buffer, at, m * 3) : new Uint16Array(buffer, at, m * 3);
  const triangles = Uint32Array.from(raw);
  at += padded(m * 3 * (wide ? 4 : 2));
  const faceStart = new Uint32Array(buffer.slice(at, at + 4 * faces));
  at += 4 * faces;
  const edgePoints = grid(points);
  const edgeStart = new Uint32Array(buffer.slice(at, at + 4 * edges));
  return { positions, normals, triangles, faceStart, edgePoints, edgeStart };
}

/** The points of an edge, from the first to before the second. */
export const edgeRange = (mesh: Mesh, e: number): [number, number] => [
  mesh.edgeStart[e],
  mesh.edgeStart[e + 1] ?? mesh.edgePoints.length / 3,
];

/** Edges between two faces; a seam, where a round face meets itself, is none. */
export const realEdges = (body: Body) => body.edges.flatMap((e, i) => (e.faces.length > 1 ? [i] : []));
