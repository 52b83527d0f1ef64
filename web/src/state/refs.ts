/** What a designer points at, as a document keeps it: faces and edges by origin, points, choices by hand or by rule. */
import type { Body } from "../api/types";

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

export interface Corner {
  edge: EdgeRef;
  at: [number, number, number];
}

/** A point of the part: a corner, the origin, a datum point, a point of a sketch. */
export type PointRef =
  | Corner
  | { kind: "origin" }
  | { kind: "datum"; step: string }
  | { kind: "point"; step: string; point: string };

export type Choice = { by: string; face?: FaceRef; edge?: EdgeRef; step?: string | null; axis?: string };

export function faceRef(body: Body, index: number): FaceRef {
  const f = body.faces[index];
  return { origins: f.origins, ring: f.ring, near: f.near as [number, number, number], said: f.said };
}

export function edgeRef(body: Body, index: number): EdgeRef {
  const e = body.edges[index];
  const [a, b] = e.faces.map((i) => ({ origins: body.faces[i].origins, said: body.faces[i].said }));
  return { between: [a, b ?? a], near: e.near as [number, number, number] };
}

export const sameFace = (a: FaceRef, b: FaceRef) =>
  a.origins.join() === b.origins.join() && (!a.near || !b.near || apart(a.near, b.near) < 1e-6);

export const apart = (a: readonly number[], b: readonly number[]) => Math.hypot(...a.map((v, i) => v - b[i]));

export const sameEdge = (a: EdgeRef, b: EdgeRef) =>
  a.between.map((f) => f.origins.join()).join("|") === b.between.map((f) => f.origins.join()).join("|") &&
  (!a.near || !b.near || apart(a.near, b.near) < 1e-6);

export function sameChoice(a: Choice, b: Choice): boolean {
  if (a.by !== b.by || a.step !== b.step || a.axis !== b.axis) return false;
  if (a.edge && b.edge) return sameEdge(a.edge, b.edge);
  return !a.face || !b.face || sameFace(a.face, b.face);
}

export const samePoint = (a: PointRef, b: PointRef) =>
  "at" in a && "at" in b ? apart(a.at, b.at) < 1e-6 : JSON.stringify(a) === JSON.stringify(b);
