/** The board's parallel view: which way it looks, at what scale; and the plane affine that draws a sketch in it. */
import { Matrix4, Quaternion, Vector3 } from "three";
import type { Frame, XY, XYZ } from "../api/types";
import type { Affine } from "../geometry/affine";

export type ViewName = "front" | "top" | "right" | "left" | "back" | "under" | "iso";

const vec = (a: XYZ) => new Vector3(...a);

/** For every view: to the right on screen, and up on screen. */
const AXES: Record<ViewName, [XYZ, XYZ]> = {
  front: [
    [1, 0, 0],
    [0, 0, 1],
  ],
  back: [
    [-1, 0, 0],
    [0, 0, 1],
  ],
  right: [
    [0, 1, 0],
    [0, 0, 1],
  ],
  left: [
    [0, -1, 0],
    [0, 0, 1],
  ],
  top: [
    [1, 0, 0],
    [0, 1, 0],
  ],
  under: [
    [1, 0, 0],
    [0, -1, 0],
  ],
  iso: [
    [Math.SQRT1_2, Math.SQRT1_2, 0],
    [-Math.SQRT1_2 / Math.sqrt(3), Math.SQRT1_2 / Math.sqrt(3), Math.sqrt(2 / 3)],
  ],
};

function turning(right: Vector3, up: Vector3): Quaternion {
  const back = new Vector3().crossVectors(right, up);
  return new Quaternion().setFromRotationMatrix(new Matrix4().makeBasis(right, up, back));
}

/** The plane square to a direction as its view on the sheet reads: up is up, and the top view has X to the right. */
export function reading(normal: XYZ): Frame {
  const n = vec(normal).normalize();
  const flat = Math.abs(n.z) > 1 - 1e-9;
  const lead = flat ? new Vector3(1, 0, 0) : new Vector3(0, 0, 1);
  lead.addScaledVector(n, -lead.dot(n)).normalize();
  const [x, y] = flat ? [lead, n.clone().cross(lead)] : [lead.clone().cross(n), lead];
  return { origin: [0, 0, 0], x: x.toArray(), y: y.toArray(), normal: n.toArray() };
}

export interface ViewState {
  turn: Quaternion;
  centre: Vector3;
  scale: number; // pixels per mm
  width: number;
  height: number;
}

export const startView = (): ViewState => ({
  turn: turning(vec(AXES.iso[0]), vec(AXES.iso[1])),
  centre: new Vector3(),
  scale: 4,
  width: 640,
  height: 640,
});

export function axes(v: ViewState) {
  return {
    right: new Vector3(1, 0, 0).applyQuaternion(v.turn),
    up: new Vector3(0, 1, 0).applyQuaternion(v.turn),
    back: new Vector3(0, 0, 1).applyQuaternion(v.turn),
  };
}

export const named = (name: ViewName) => turning(vec(AXES[name][0]), vec(AXES[name][1]));
/** Which of the named views a turn is, or null. */
export const orientation = (turn: Quaternion): ViewName | null =>
  (Object.keys(AXES) as ViewName[]).find((name) => named(name).angleTo(turn) < 1e-6) ?? null;
export const facing = (frame: Frame) => turning(vec(frame.x), vec(frame.y));

export function orbit(v: ViewState, dx: number, dy: number): ViewState {
  const about = new Quaternion().setFromAxisAngle(new Vector3(0, 0, 1), -dx * 0.008);
  const { right } = axes(v);
  const tilt = new Quaternion().setFromAxisAngle(right, -dy * 0.008);
  return { ...v, turn: about.multiply(tilt).multiply(v.turn).normalize() };
}

export function pan(v: ViewState, dx: number, dy: number): ViewState {
  const { right, up } = axes(v);
  const centre = v.centre
    .clone()
    .addScaledVector(right, -dx / v.scale)
    .addScaledVector(up, dy / v.scale);
  return { ...v, centre };
}

export function zoom(v: ViewState, factor: number, at: XY): ViewState {
  const scale = Math.min(4000, Math.max(0.02, v.scale * factor));
  const f = 1 / v.scale - 1 / scale;
  const { right, up } = axes(v);
  const centre = v.centre
    .clone()
    .addScaledVector(right, (at[0] - v.width / 2) * f)
    .addScaledVector(up, -(at[1] - v.height / 2) * f);
  return { ...v, scale, centre };
}

/** Point of space → pixels on the board. */
export function toScreen(v: ViewState, p: XYZ | Vector3): XY {
  const d = (p instanceof Vector3 ? p.clone() : vec(p)).sub(v.centre);
  const { right, up } = axes(v);
  return [v.width / 2 + d.dot(right) * v.scale, v.height / 2 - d.dot(up) * v.scale];
}

/** Fit points of space into the middle of the board. */
export function fitted(v: ViewState, points: Vector3[], foot = 90, margin = 60): ViewState {
  if (!points.length) return { ...v, centre: new Vector3(), scale: 4 };
  const { right, up, back } = axes(v);
  const span = (a: Vector3) => {
    const d = points.map((p) => p.dot(a));
    return [Math.min(...d), Math.max(...d)] as const;
  };
  const [r, u, b] = [span(right), span(up), span(back)];
  const centre = new Vector3()
    .addScaledVector(right, (r[0] + r[1]) / 2)
    .addScaledVector(up, (u[0] + u[1]) / 2)
    .addScaledVector(back, (b[0] + b[1]) / 2);
  const free = (size: number, m: number) => Math.max(size - 2 * m, 80);
  const scale = Math.min(
    free(v.width, margin) / Math.max(r[1] - r[0], 1e-3),
    free(v.height - foot, margin) / Math.max(u[1] - u[0], 1e-3),
    200,
  );
  return { ...v, scale, centre: centre.addScaledVector(up, -foot / 2 / scale) };
}

/** The affine that takes sketch coordinates to pixels: [a b c d e f] as SVG's matrix() wants it. */
export function sketchAffine(v: ViewState, f: Frame): Affine {
  const { right, up } = axes(v);
  const [x, y] = [vec(f.x), vec(f.y)];
  const [e, g] = toScreen(v, f.origin);
  return [x.dot(right) * v.scale, -x.dot(up) * v.scale, y.dot(right) * v.scale, -y.dot(up) * v.scale, e, g];
}
