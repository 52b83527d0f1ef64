/** Four views at once: the board parted into panes, each with a view of its own in the board's pixels. Views square on
 * to the part stay in projection: what one shows stands level with, or plumb over, what the next one shows. */
import type { Vector3 } from "three";
import type { XY } from "../api/types";
import { axes, fitted, named, orientation, type ViewName, type ViewState } from "./camera";

export interface Pane {
  left: number;
  top: number;
  width: number;
  height: number;
  view: ViewState;
}

const MARGIN = 26; // pixels around the part in a pane

/** The views from the upper left to the lower right, as ISO 5456-2 arranges them. */
const ARRANGED: Record<"first" | "third", ViewName[]> = {
  third: ["top", "iso", "front", "right"],
  first: ["front", "left", "top", "iso"],
};

/** The middle of a pane, as a point of space. */
function focus(p: Pane): Vector3 {
  const { right, up } = axes(p.view);
  const [dx, dy] = off(p);
  return p.view.centre
    .clone()
    .addScaledVector(right, dx / p.view.scale)
    .addScaledVector(up, -dy / p.view.scale);
}

/** From the middle of the board to the middle of a pane, pixels. */
const off = (p: Pane): XY => [
  p.left + p.width / 2 - p.view.width / 2,
  p.top + p.height / 2 - p.view.height / 2,
];

/** A pane that looks the given way, with this point of space in its middle. */
function looking(p: Pane, view: ViewState, middle: Vector3, scale: number): Pane {
  const { right, up } = axes(view);
  const [dx, dy] = off(p);
  const centre = middle
    .clone()
    .addScaledVector(right, -dx / scale)
    .addScaledVector(up, dy / scale);
  return { ...p, view: { ...view, centre, scale } };
}

/** Whether a pane shows one of the six views of a drawing. */
const square = (p: Pane) => !["iso", null].includes(orientation(p.view.turn));

/** Part a board with this view into four; the ``foot`` of it, pixels, is covered. */
export function parted(view: ViewState, foot: number, arranged: "first" | "third"): Pane[] {
  const [w, h] = [view.width, view.height - foot];
  const [x, y] = [Math.round(w / 2), Math.round(h / 2)];
  return ARRANGED[arranged].map((name, i) => ({
    left: i % 2 ? x : 0,
    top: i < 2 ? 0 : y,
    width: i % 2 ? w - x : x,
    height: i < 2 ? y : h - y,
    view: { ...view, turn: named(name) },
  }));
}

/** The same views on a board of another size. */
export function resized(panes: Pane[], width: number, height: number, foot: number): Pane[] {
  const fresh = parted({ ...panes[0].view, width, height }, foot, "third");
  return panes.map((p, i) => looking(fresh[i], { ...p.view, width, height }, focus(p), p.view.scale));
}

/** The panes after one of them has got another view: square ones follow it, to stay in projection. */
export function moved(panes: Pane[], index: number, view: ViewState): Pane[] {
  const lead = { ...panes[index], view };
  if (!square(lead)) return panes.map((p, i) => (i === index ? lead : p));
  const middle = focus(lead);
  return panes.map((p, i) => (i === index ? lead : square(p) ? looking(p, p.view, middle, view.scale) : p));
}

/** Fit points of space into every pane, the square ones at one scale. */
export function filled(panes: Pane[], points: Vector3[]): Pane[] {
  const fits = panes.map((p) => fitted({ ...p.view, width: p.width, height: p.height }, points, 0, MARGIN));
  const scale = Math.min(...panes.map((p, i) => (square(p) ? fits[i].scale : Number.POSITIVE_INFINITY)));
  return panes.map((p, i) => looking(p, p.view, fits[i].centre, square(p) ? scale : fits[i].scale));
}

/** Which pane a place on the board lies in. */
export const paneAt = (panes: Pane[], [x, y]: XY): number =>
  panes.findIndex((p) => x >= p.left && x < p.left + p.width && y >= p.top && y < p.top + p.height);

/** A place brought into a pane. */
export const within = (p: Pane, [x, y]: XY): XY => [
  Math.min(p.left + p.width, Math.max(p.left, x)),
  Math.min(p.top + p.height, Math.max(p.top, y)),
];
