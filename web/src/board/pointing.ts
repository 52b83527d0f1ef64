/** What is pointed at on the solids while a step is worked on: references in, and what they mean to show. */
import type { Body, Step } from "../api/types";
import type { Pick } from "../view/scene";
import { catalogue, type Data, look, put, type Slot, slotsOf } from "./catalogue";
import { changeDraft } from "./drafting";
import { board, numberOf, tell, useBoard } from "./store";

export interface FaceRef {
  origins: string[];
  ring?: string[];
  near?: [number, number, number] | null;
  said?: string;
}

export interface EdgeRef {
  between: [FaceRef, FaceRef];
  near?: [number, number, number] | null;
}

export type Choice = { by: string; face?: FaceRef; edge?: EdgeRef; step?: string | null; axis?: string };

/** Slots that are filled by pointing at solids. */
export const POINTED = new Set(["faces", "face", "edges", "plane", "axis", "bodies", "body", "steps"]);

export function faceRef(body: Body, index: number): FaceRef {
  const f = body.faces[index];
  return { origins: f.origins, ring: f.ring, near: f.near as [number, number, number], said: f.said };
}

export function edgeRef(body: Body, index: number): EdgeRef {
  const e = body.edges[index];
  const [a, b] = e.faces.map((i) => ({ origins: body.faces[i].origins, said: body.faces[i].said }));
  return { between: [a, b ?? a], near: e.near as [number, number, number] };
}

const sameFace = (a: FaceRef, b: FaceRef) =>
  a.origins.join() === b.origins.join() && (!a.near || !b.near || apart(a.near, b.near) < 1e-6);

const apart = (a: readonly number[], b: readonly number[]) => Math.hypot(...a.map((v, i) => v - b[i]));

const sameEdge = (a: EdgeRef, b: EdgeRef) =>
  a.between.map((f) => f.origins.join()).join("|") === b.between.map((f) => f.origins.join()).join("|") &&
  (!a.near || !b.near || apart(a.near, b.near) < 1e-6);

function sameChoice(a: Choice, b: Choice): boolean {
  if (a.by !== b.by || a.step !== b.step || a.axis !== b.axis) return false;
  if (a.edge && b.edge) return sameEdge(a.edge, b.edge);
  return !a.face || !b.face || sameFace(a.face, b.face);
}

/** The slot that pointing fills just now, with its path. */
export function activeSlot(): { slot: Slot; path: string } | null {
  const { draft } = board();
  if (!draft?.slot) return null;
  const all = slotsOf(catalogue().sentences[draft.step.kind] ?? [], draft.step);
  return all.find((s) => s.path === draft.slot && POINTED.has(s.slot.kind)) ?? null;
}

export function activate(path: string | null) {
  const { draft } = board();
  if (!draft || draft.slot === path) return;
  useBoard.setState({ draft: { ...draft, slot: path } });
  showChosen();
}

function change(path: string, value: unknown) {
  const { draft } = board();
  if (!draft) return;
  changeDraft(put(draft.step, path, value));
  showChosen();
}

export function toggle(path: string, choice: Choice) {
  const now = (look(board().draft?.step, path) as Choice[]) ?? [];
  const without = now.filter((c) => !sameChoice(c, choice));
  change(path, without.length === now.length ? [...now, choice] : without);
}

/** A press on the solids while a slot waits for it. True if it was taken. */
export function pointAt(pick: Pick | null): boolean {
  const active = activeSlot();
  const body = pick && board().scene?.bodies()[pick.body];
  if (!active || !pick || !body) return false;
  const { slot, path } = active;
  const face = pick.kind === "face" ? faceRef(body, pick.face) : null;
  const edge = pick.kind === "edge" ? edgeRef(body, pick.edge) : null;
  const origin = (face ?? edge?.between[0])?.origins[0]?.split("/")[0];
  switch (slot.kind) {
    case "edges":
      toggle(path, edge ? { by: "pick", edge } : { by: "around", face: face! });
      break;
    case "faces":
      if (!face) return refuse("Press a face; here an edge lies nearer. Tab steps to what lies under it.");
      toggle(path, { by: "pick", face });
      break;
    case "face":
      if (!face) return refuse("Press a face.");
      change(path, face);
      break;
    case "plane":
      if (!face || body.faces[(pick as { face: number }).face].kind !== "plane")
        return refuse("A plane is taken from a flat face; press one, or choose a datum plane.");
      change(path, { kind: "face", face });
      break;
    case "axis":
      change(path, edge ? { kind: "edge", edge } : { kind: "face", face });
      break;
    case "body":
      change(path, body.id);
      break;
    case "bodies": {
      const now = (look(board().draft?.step, path) as string[] | null) ?? [];
      const next = now.includes(body.id) ? now.filter((b) => b !== body.id) : [...now, body.id];
      change(path, next.length || !slot.optional ? next : null);
      break;
    }
    case "steps": {
      const now = (look(board().draft?.step, path) as string[]) ?? [];
      if (origin) change(path, now.includes(origin) ? now.filter((s) => s !== origin) : [...now, origin]);
      break;
    }
    default:
      return false;
  }
  useBoard.setState({ lastStep: origin ?? null });
  return true;
}

function refuse(words: string): boolean {
  tell(words, "red");
  return true;
}

/** The rules that make sense in a slot, with what was pointed at last. */
export function rulesFor(kind: string, choices: Choice[]): { words: string; choice: Choice }[] {
  const { part, lastStep } = board();
  const last = [...choices].reverse().find((c) => c.by === "pick");
  const step = lastStep ?? last?.face?.origins[0]?.split("/")[0] ?? null;
  const n = step ? numberOf(part, step) : 0;
  const found: { words: string; choice: Choice }[] = [];
  if (kind === "faces") {
    if (step) {
      found.push({ words: `all walls of step ${n}`, choice: { by: "sides", step } });
      found.push({ words: `all faces of step ${n}`, choice: { by: "made", step } });
    }
    if (last?.face)
      found.push({
        words: `the ring around ${last.face.said ?? "it"}`,
        choice: { by: "ring", face: last.face },
      });
    return found;
  }
  for (const axis of ["x", "y", "z"])
    found.push({ words: `all along ${axis.toUpperCase()}`, choice: { by: "along", axis, step: null } });
  if (step) {
    found.push({ words: `corners between walls of step ${n}`, choice: { by: "corners", step } });
    found.push({ words: `where step ${n} meets the rest`, choice: { by: "met", step } });
    found.push({ words: `outside edges of step ${n}`, choice: { by: "outside", step } });
  }
  found.push({ words: "all inside edges", choice: { by: "inside", step: null } });
  found.push({ words: "all outside edges", choice: { by: "outside", step: null } });
  return found;
}

/** A choice in a few words, for its chip. */
export function choiceWords(c: Choice): string {
  const { part } = board();
  const of = c.step ? ` of step ${numberOf(part, c.step)}` : "";
  switch (c.by) {
    case "pick":
      if (c.edge) return `${short(c.edge.between[0])} | ${short(c.edge.between[1])}`;
      return short(c.face!);
    case "around":
      return `edges around ${short(c.face!)}`;
    case "ring":
      return `ring around ${short(c.face!)}`;
    case "sides":
      return `all walls${of}`;
    case "made":
      return `all faces${of}`;
    case "corners":
      return `corners between walls${of}`;
    case "met":
      return `where step ${numberOf(part, c.step!)} meets the rest`;
    case "along":
      return `edges along ${c.axis?.toUpperCase()}${of}`;
    default:
      return `${c.by} edges${of}`;
  }
}

const short = (f: FaceRef) =>
  (f.said || f.origins[0]).replace(" of step ", " ").replace("wall from", "wall").replace(" face ", " ");

/** What the choices in the active slot mean on the solids that are shown, marked there. */
export function showChosen() {
  const s = board();
  const active = activeSlot();
  const picks = active ? meant(active.slot.kind, look(s.draft?.step, active.path)) : [];
  useBoard.setState({ picks });
  s.scene?.mark(s.hover, picks);
}

function meant(kind: string, value: unknown): Pick[] {
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
  const ids = kind === "body" ? [value as string] : (value as string[]);
  if (kind === "steps")
    return bodies.flatMap((b, i) =>
      b.faces.flatMap((f, k) => (ids.some((id) => madeBy(f.origins, id)) ? [face(i, k)] : [])),
    );
  return bodies.flatMap((b, i) => (ids.includes(b.id) ? b.faces.map((_, k) => face(i, k)) : []));
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

/** What must still be pointed at or chosen before the step can be tried, in words; null when nothing. */
export function missing(step: Step): string | null {
  for (const { slot, path } of slotsOf(catalogue().sentences[step.kind] ?? [], step)) {
    const value = look(step, path);
    const empty =
      value === null || value === undefined || value === "" || (Array.isArray(value) && !value.length);
    if (!empty || slot.optional || slot.kind === "regions") continue;
    if (slot.kind === "edges")
      return "Press the edges on the part, a face for all edges around it, or take a rule.";
    if (slot.kind === "faces") return "Press the faces on the part, or take a rule.";
    if (POINTED.has(slot.kind))
      return `Still to be chosen: ${slot.label.toLowerCase()}. Press it on the part.`;
    return `Still to be filled in: ${slot.label.toLowerCase()}.`;
  }
  const data = step as unknown as Data;
  if (step.kind === "pattern" && !(data.of as string[])?.length && !(data.bodies as string[])?.length)
    return "Choose what to repeat: press it on the part, or its step on the route.";
  return null;
}
