/** The view of the board. */

import * as Three from "three";
import type { Frame, XY } from "../api/types";
import { isSketch } from "../api/types";
import { onBuildShown } from "../document/builds";
import { walk } from "../geometry/curves";
import { board, frameOf, type State, sketchOf, stepOf, useBoard } from "../state/store";
import type { ViewName, ViewState } from "../view/camera";
import { axes, facing, fitted as framed, named, orientation } from "../view/camera";
import { filled, moved, type Pane, paneAt, parted, resized } from "../view/panes";

let fitted = false;
let parting = false; // whether the board was parted before a sketch took all of it

/** Whether the bodies of the part now open have been brought into view once. */
export const fittedOnce = () => fitted;
/** Another part is looked at from the start. */
export const forgetViews = () => {
  fitted = parting = false;
  lookedFrom = null;
  lastIn.clear();
};

export function squareUp(frame: Frame) {
  setView({ ...board().view, turn: facing(frame) });
  fit();
}

/** Give the board, or the pane in hand, another view. */
export function setView(view: ViewState) {
  const { panes, pane } = board();
  show(panes && moved(panes, pane, view), pane, view);
}

function show(panes: Pane[] | null, pane: number, view: ViewState) {
  useBoard.setState({ panes, pane, view });
  board().scene?.look(view, panes);
}

/** Show these panes, the one at ``pane`` in hand. */
const showPanes = (panes: Pane[], pane: number) => show(panes, pane, panes[pane].view);

/** The pane under the pointer is taken in hand. */
export function handle(at: XY) {
  const { panes, pane } = board();
  const here = panes ? paneAt(panes, at) : -1;
  if (panes && here >= 0 && here !== pane) showPanes(panes, here);
}

/** The board has this size now. */
export function resize(width: number, height: number) {
  const { panes, pane, view, foot } = board();
  if (panes) showPanes(resized(panes, width, height, foot), pane);
  else setView({ ...view, width, height });
}

/** Part the board into four views, or make it one again: the view in hand. */
export function fourViews() {
  const { panes, view, foot, part } = board();
  if (panes) show(null, 0, view);
  else {
    const parts = parted(view, foot, part!.document.projection ?? "first");
    showPanes(
      parts,
      parts.findIndex((p) => orientation(p.view.turn) === "iso"),
    );
  }
  fit();
}

let lookedFrom: ViewState | null = null; // the view a sketch was opened from
const lastIn = new Map<string, ViewState>(); // the view each sketch was left in

/** A sketch is looked at square on; where it was seen before, at the zoom and place it was left in. */
export function lookInto(id: string, frame: Frame | null) {
  const { scene, view } = board();
  lookedFrom ??= scene?.corners().length ? view : null;
  const last = lastIn.get(id);
  if (frame && last)
    setView({ ...board().view, turn: facing(frame), centre: last.centre, scale: last.scale });
  else if (frame) squareUp(frame);
}

/** A sketch is found again as it is seen now. */
export const leftAs = (id: string) => lastIn.set(id, board().view);

/** Leaving a sketch, the part is seen again as before it was opened. */
export function lookBack(id: string) {
  const { view } = board();
  leftAs(id);
  if (lookedFrom) setView({ ...lookedFrom, width: view.width, height: view.height });
  lookedFrom = null;
}

/** Whether a plane is looked at so nearly square on that no depth could be seen. */
export const squareOn = (frame: Frame) =>
  Math.abs(new Three.Vector3(...frame.normal).dot(axes(board().view).back)) > 0.98;

/** A sketch takes the whole board. */
export function oneView() {
  parting ||= board().panes !== null;
  if (board().panes) show(null, 0, board().view);
}

/** After a sketch the board is as it was before. */
export function viewsAgain() {
  if (parting && !board().panes) fourViews();
  parting = false;
}

export function fit() {
  const s = board();
  const points = s.scene?.corners() ?? [];
  fitted ||= points.length > 0;
  const drafted = s.draft?.step as { sketch?: string } | undefined;
  const flat = s.sketch ?? (typeof drafted?.sketch === "string" ? drafted.sketch : undefined);
  if (flat) points.push(...sketchCorners(s, flat));
  if (s.panes) showPanes(filled(s.panes, points), s.pane);
  else setView(framed(s.view, points, s.foot + 70));
}

function sketchCorners(s: State, id: string) {
  const frame = frameOf(s, id);
  const step = stepOf(s.part, id);
  const sketch = sketchOf(step && isSketch(step) ? step : null);
  if (!frame) return [];
  const flat: XY[] = [];
  for (const e of sketch.entities ?? []) {
    if (e.kind === "circle" || e.kind === "arc") {
      const [x, y] = e.c;
      flat.push([x - e.r, y - e.r], [x + e.r, y + e.r]);
    } else flat.push(...walk(e, 12));
  }
  for (const d of sketch.dimensions ?? []) if (d.at) flat.push(d.at as XY);
  const { Vector3 } = Three;
  return flat.map(([u, v]) =>
    new Vector3(...frame.origin)
      .addScaledVector(new Vector3(...frame.x), u)
      .addScaledVector(new Vector3(...frame.y), v),
  );
}

/** Look at the part as a standard view has it. */
export function look(name: ViewName) {
  setView({ ...board().view, turn: named(name) });
  fit();
}

// the first bodies of a part are brought into view; never under the hands of somebody who draws
onBuildShown(() => {
  if (board().view.width && !fitted && !board().sketch) fit();
});
