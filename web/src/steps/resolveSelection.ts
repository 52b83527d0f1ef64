/** What references and choices mean on the solids that are shown, as places to be marked. */
import { Vector3 } from "three";
import type { Body } from "../api/types";
import { aroundShowing } from "../document/builds";
import type { Data } from "../state/catalogue";
import {
  apart,
  type Choice,
  type EdgeRef,
  edgeRef,
  type FaceRef,
  faceRef,
  type PointRef,
} from "../state/refs";
import { board, useBoard } from "../state/store";
import type { Pick } from "../view/pointed";

/** What a slot of this kind with this value means. */
export function meant(kind: string, value: unknown): Pick[] {
  const bodies = board().scene?.bodies() ?? [];
  if (!value) return [];
  if (kind === "faces" || kind === "edges")
    return (value as Choice[]).flatMap((c) => bodies.flatMap((b, i) => choiceOn(c, b, i, kind)));
  if (kind === "face") return bodies.flatMap((b, i) => facesLike(value as FaceRef, b, i));
  if (kind === "plane" || kind === "axis") {
    const v = value as Data;
    if (v.face) return bodies.flatMap((b, i) => facesLike(v.face as FaceRef, b, i));
    return v.edge
      ? bodies.flatMap((b, i) => choiceOn({ by: "pick", edge: v.edge as EdgeRef }, b, i, "edges"))
      : [];
  }
  if (kind === "points")
    return (value as PointRef[]).flatMap((p): Pick[] => {
      const at = spotOf(p);
      return at ? [{ kind: "corner", body: 0, edge: 0, at: new Vector3(...at) }] : [];
    });
  const ids = kind === "body" ? [value as string] : (value as string[]);
  if (kind === "steps")
    return bodies.flatMap((b, i) =>
      b.faces.flatMap((f, k) => (ids.some((id) => madeBy(f.origins, id)) ? [face(i, k)] : [])),
    );
  return bodies.flatMap((b, i) => (ids.includes(b.id) ? b.faces.map((_, k) => face(i, k)) : []));
}

/** Where a point is, as far as the board knows; null for one of a sketch, which is drawn there itself. */
function spotOf(p: PointRef): [number, number, number] | null {
  if ("at" in p) return p.at;
  if (p.kind === "origin") return [0, 0, 0];
  const report = (board().build?.steps ?? []).find((r) => r.id === p.step);
  return p.kind === "datum" ? ((report?.extra?.point as [number, number, number]) ?? null) : null;
}

const NOWHERE = { at: undefined as never };
const face = (body: number, k: number): Pick => ({ kind: "face", body, face: k, ...NOWHERE });
const edge = (body: number, k: number): Pick => ({ kind: "edge", body, edge: k, ...NOWHERE });
const madeBy = (origins: string[], step: string) => origins.some((o) => o.startsWith(`${step}/`));

/** Faces that a reference can mean: one with all its origins, of several the nearest. */
function facesLike(ref: FaceRef, body: Body, i: number): Pick[] {
  const hits = body.faces.flatMap((f, k) => (ref.origins.every((o) => f.origins.includes(o)) ? [k] : []));
  if (hits.length < 2 || !ref.near) return hits.map((k) => face(i, k));
  const near = ref.near;
  hits.sort((a, b) => apart(body.faces[a].near, near) - apart(body.faces[b].near, near));
  return [face(i, hits[0])];
}

function choiceOn(c: Choice, body: Body, i: number, kind: string): Pick[] {
  if (kind === "faces") {
    if (c.by === "pick") return facesLike(c.face!, body, i);
    const step = c.step ?? "";
    if (c.by === "ring") {
      const [hit] = facesLike(c.face!, body, i);
      if (hit?.kind !== "face") return [];
      const ring = new Set(body.edges.flatMap((e) => (e.faces.includes(hit.face) ? e.faces : [])));
      ring.delete(hit.face);
      return [...ring].map((k) => face(i, k));
    }
    const prefix = c.by === "sides" ? `${step}/side/` : `${step}/`;
    return body.faces.flatMap((f, k) => (f.origins.some((o) => o.startsWith(prefix)) ? [face(i, k)] : []));
  }
  const taken = (test: (e: Body["edges"][number], own: boolean[]) => boolean) =>
    body.edges.flatMap((e, k) => {
      const own = e.faces.map((f) => !c.step || madeBy(body.faces[f].origins, c.step));
      return e.corner && test(e, own) ? [edge(i, k)] : [];
    });
  if (c.by === "pick") {
    const hits = body.edges.flatMap((e, k) => {
      if (e.faces.length < 2) return [];
      const has = (f: number, r: FaceRef) => r.origins.every((o) => body.faces[f].origins.includes(o));
      const [a, b] = c.edge!.between;
      const [f, g] = e.faces;
      return (has(f, a) && has(g, b)) || (has(f, b) && has(g, a)) ? [k] : [];
    });
    const near = c.edge!.near;
    if (near)
      hits.sort((a, b) => apart(body.edges[a].near ?? near, near) - apart(body.edges[b].near ?? near, near));
    return hits.slice(0, 1).map((k) => edge(i, k));
  }
  if (c.by === "around") {
    const [hit] = facesLike(c.face!, body, i);
    return hit?.kind === "face" ? taken((e) => e.faces.includes(hit.face) && e.corner !== "smooth") : [];
  }
  if (c.by === "corners")
    return body.edges.flatMap((e, k) =>
      e.corner &&
      e.corner !== "smooth" &&
      e.faces.every((f) => body.faces[f].origins.some((o) => o.startsWith(`${c.step}/side/`)))
        ? [edge(i, k)]
        : [],
    );
  if (c.by === "met") return taken((e, own) => own[0] !== own[1] && e.corner !== "smooth");
  if (c.by === "along") {
    const axis = { x: 0, y: 1, z: 2 }[c.axis as "x"] ?? 2;
    const ways = board().scene?.edgeWays(i) ?? [];
    return body.edges.flatMap((e, k) =>
      e.corner &&
      e.corner !== "smooth" &&
      e.kind === "line" &&
      Math.abs(Math.abs(ways[k]?.[axis] ?? 0) - 1) < 1e-4 &&
      (!c.step || e.faces.some((f) => madeBy(body.faces[f].origins, c.step!)))
        ? [edge(i, k)]
        : [],
    );
  }
  return taken((e, own) => own.every(Boolean) && e.corner === c.by);
}

/** What is chosen on the solids as references, to be found again when other bodies are shown. */
export function chosenNow(): Choice[] {
  const { picks, scene } = board();
  const bodies = scene?.bodies() ?? [];
  return picks.flatMap((p): Choice[] => {
    const body = bodies[p.body];
    if (!body || p.kind === "corner") return [];
    return [
      p.kind === "face"
        ? { by: "pick", face: faceRef(body, p.face) }
        : { by: "pick", edge: edgeRef(body, p.edge) },
    ];
  });
}

/** Mark on the bodies now shown what was chosen on those before; what is gone is let go. */
export function chooseAgain(choices: Choice[]) {
  const picks = choices.flatMap((c) => meant(c.edge ? "edges" : "faces", [c]).slice(0, 1));
  useBoard.setState({ picks });
  board().scene?.mark(null, picks);
}

// what was chosen stays chosen on other bodies, but for what a step that is worked on has chosen
aroundShowing(() => {
  const kept = board().draft ? [] : chosenNow();
  return kept.length ? () => chooseAgain(kept) : null;
});
