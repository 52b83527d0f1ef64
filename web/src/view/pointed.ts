/** What of the solids lies under the pointer, or in a window pulled open. */
import {
  type BufferGeometry,
  type Object3D,
  type OrthographicCamera,
  Raycaster,
  type Mesh as ThreeMesh,
  Vector2,
  Vector3,
} from "three";
import { acceleratedRaycast, MeshBVH } from "three-mesh-bvh";
import type { Body, XY } from "../api/types";
import { axes, toScreen, type ViewState } from "./camera";
import { edgeRange, type Mesh, realEdges } from "./mesh";
import { takes } from "./window";

export type Pick =
  | { kind: "face"; body: number; face: number; at: Vector3 }
  | { kind: "edge"; body: number; edge: number; at: Vector3 }
  | { kind: "corner"; body: number; edge: number; at: Vector3 };

interface Standing {
  body: Body;
  mesh: Mesh;
  solid: ThreeMesh;
}

/** What can be pointed at: ``through``, edges behind the solid too; what is ``gone`` is cut away. */
export interface Seen {
  shown: Standing[];
  view: ViewState;
  camera: OrthographicCamera;
  through: boolean;
  gone: (place: Vector3) => boolean;
}

const caster = new Raycaster();
/** From so many triangles on a tree of boxes is made the first time something is looked for in them. */
const MANY = 2000;

/** Let a mesh of many triangles be searched through a tree of boxes; the triangles keep their numbers. */
function searchable(solid: ThreeMesh) {
  const geometry = solid.geometry as BufferGeometry;
  if (geometry.boundsTree || (geometry.index?.count ?? 0) < 3 * MANY) return;
  geometry.boundsTree = new MeshBVH(geometry, { indirect: true });
  solid.raycast = acceleratedRaycast;
}

/** A ball round each edge, packed: its middle and its radius. */
const balls = new WeakMap<Mesh, Float32Array>();

function ballsOf(mesh: Mesh): Float32Array {
  let found = balls.get(mesh);
  if (!found) {
    found = new Float32Array(4 * mesh.edgeStart.length);
    for (let e = 0; e < mesh.edgeStart.length; e++) {
      const [from, to] = edgeRange(mesh, e);
      const middle = [0, 1, 2].map((c) => {
        let [low, high] = [Infinity, -Infinity];
        for (let i = from; i < to; i++) {
          low = Math.min(low, mesh.edgePoints[3 * i + c]);
          high = Math.max(high, mesh.edgePoints[3 * i + c]);
        }
        return (low + high) / 2;
      });
      let radius = 0;
      for (let i = from; i < to; i++)
        radius = Math.max(radius, Math.hypot(...middle.map((m, c) => mesh.edgePoints[3 * i + c] - m)));
      found.set([...middle, radius], 4 * e);
    }
    balls.set(mesh, found);
  }
  return found;
}

/** Edges of a body that may come within some pixels of a place on the screen. */
function edgesNear(seen: Seen, s: Standing, at: XY, reach: number): number[] {
  const b = ballsOf(s.mesh);
  const middle = new Vector3();
  return realEdges(s.body).filter((e) => {
    const [x, y] = toScreen(seen.view, middle.fromArray(b, 4 * e));
    return Math.hypot(x - at[0], y - at[1]) <= b[4 * e + 3] * seen.view.scale + reach + 1;
  });
}

const edgePoint = (mesh: Mesh, i: number) => new Vector3().fromArray(mesh.edgePoints, 3 * i);

/** Where the eye meets the first of some faces at a place on the board. */
export function firstHit(
  of: Object3D[],
  camera: OrthographicCamera,
  view: ViewState,
  at: XY,
): Vector3 | null {
  caster.setFromCamera(new Vector2((at[0] / view.width) * 2 - 1, 1 - (at[1] / view.height) * 2), camera);
  const faces = of.filter((o) => (o as ThreeMesh).isMesh);
  return caster.intersectObjects(faces, false)[0]?.point ?? null;
}

/** What lies under a place on the board: an edge within a few pixels, then the faces from the eye on. With ``corners``
 * the corner there comes first. What is cut away is not there. */
export function pickAll(seen: Seen, at: XY, corners: boolean): Pick[] {
  const { view, shown } = seen;
  const place = new Vector2((at[0] / view.width) * 2 - 1, 1 - (at[1] / view.height) * 2);
  caster.setFromCamera(place, seen.camera);
  const solids = shown.map((s) => s.solid);
  solids.forEach(searchable);
  const hits = caster.intersectObjects(solids, false).filter((h) => !seen.gone(h.point));
  const behind = seen.through ? undefined : hits[0]?.distance;
  const edge = nearestEdge(seen, at, behind);
  const corner = corners ? nearestCorner(seen, at, behind) : null;
  const found: Pick[] = [corner, edge].filter((p) => p !== null);
  for (const hit of hits) {
    if (hit.faceIndex === undefined || hit.faceIndex === null) continue;
    const body = shown.findIndex((s) => s.solid === hit.object);
    const face = faceOf(shown[body].mesh.faceStart, hit.faceIndex);
    if (!found.some((p) => p.kind === "face" && p.body === body && p.face === face))
      found.push({ kind: "face", body, face, at: hit.point.clone() });
  }
  return found;
}

/** The face a triangle belongs to: the last that starts at it or before. */
function faceOf(starts: Uint32Array, triangle: number): number {
  let [low, high] = [0, starts.length - 1];
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (starts[middle] > triangle) high = middle - 1;
    else low = middle;
  }
  return low;
}

/** Whether a place can be pointed at: not behind the solid, not cut away. */
function open(seen: Seen, place: Vector3, behind?: number): boolean {
  const depth = seen.camera.position.clone().sub(place).dot(axes(seen.view).back);
  return !(behind !== undefined && depth > behind + 6 / seen.view.scale) && !seen.gone(place);
}

function nearestEdge(seen: Seen, at: XY, behind?: number): Pick | null {
  let best: Pick | null = null;
  let least = 5;
  seen.shown.forEach((s, body) => {
    for (const e of edgesNear(seen, s, at, least)) {
      const [from, to] = edgeRange(s.mesh, e);
      for (let i = from; i + 1 < to; i++) {
        const [p, q] = [edgePoint(s.mesh, i), edgePoint(s.mesh, i + 1)];
        const [a, b] = [toScreen(seen.view, p), toScreen(seen.view, q)];
        const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
        const along = ((at[0] - a[0]) * dx + (at[1] - a[1]) * dy) / (dx * dx + dy * dy || 1);
        const t = Math.max(0, Math.min(1, along));
        const d = Math.hypot(a[0] + t * dx - at[0], a[1] + t * dy - at[1]);
        if (d >= least) continue;
        const place = p.clone().lerp(q, t);
        if (!open(seen, place, behind)) continue;
        least = d;
        best = { kind: "edge", body, edge: e, at: place };
      }
    }
  });
  return best;
}

function nearestCorner(seen: Seen, at: XY, behind?: number): Pick | null {
  let best: Pick | null = null;
  let least = 7;
  seen.shown.forEach((s, body) => {
    for (const e of edgesNear(seen, s, at, least)) {
      const [from, to] = edgeRange(s.mesh, e);
      const ends = [from, to - 1].map((i) => edgePoint(s.mesh, i));
      if (ends[0].distanceTo(ends[1]) < 1e-6) continue; // a whole circle has no corner
      for (const place of ends) {
        const [x, y] = toScreen(seen.view, place);
        const d = Math.hypot(x - at[0], y - at[1]);
        if (d >= least || !open(seen, place, behind)) continue;
        least = d;
        best = { kind: "corner", body, edge: e, at: place };
      }
    }
  });
  return best;
}

/** Edges inside the window with these corners on the screen, or touched by it, and faces all of whose edges
 * (touching: one of whose edges) are; what lies behind is taken too. */
export function inside(shown: Standing[], view: ViewState, a: XY, b: XY, touching: boolean): Pick[] {
  const found: Pick[] = [];
  shown.forEach((s, body) => {
    for (const edge of realEdges(s.body)) {
      const [from, to] = edgeRange(s.mesh, edge);
      const places = [...Array(to - from).keys()].map((i) => edgePoint(s.mesh, from + i));
      const trail = places.map((p) => toScreen(view, p));
      if (takes(trail, a, b, touching)) found.push({ kind: "edge", body, edge, at: places[0] });
    }
    const taken = new Set(found.flatMap((p) => (p.kind === "edge" && p.body === body ? [p.edge] : [])));
    s.body.faces.forEach((_, face) => {
      const around = realEdges(s.body).filter((e) => s.body.edges[e].faces.includes(face));
      const holds = touching ? around.some((e) => taken.has(e)) : around.every((e) => taken.has(e));
      const corner = s.mesh.triangles[3 * s.mesh.faceStart[face]];
      const at = new Vector3().fromArray(s.mesh.positions, 3 * corner);
      if (around.length && holds) found.push({ kind: "face", body, face, at });
    });
  });
  return found;
}
