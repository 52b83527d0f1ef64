/** The view of the board. */

import * as Three from "three";
import type { Frame, XY } from "../api/types";
import { isSketch } from "../api/types";
import { walk } from "../sketch/curves";
import type { ViewState } from "../view/camera";
import { facing, fitted as framed } from "../view/camera";
import { board, frameOf, type State, sketchOf, stepOf, useBoard } from "./store";

let fitted = false;

/** Whether the bodies of the part now open have been brought into view once. */
export const fittedOnce = () => fitted;
export const forgetFit = () => {
  fitted = false;
};

export function squareUp(frame: Frame) {
  setView({ ...board().view, turn: facing(frame) });
  fit();
}

export function setView(view: ViewState) {
  useBoard.setState({ view });
  board().scene?.look(view);
}

export function fit() {
  const s = board();
  const points = s.scene?.corners() ?? [];
  fitted ||= points.length > 0;
  const drafted = s.draft?.step as { sketch?: string } | undefined;
  const flat = s.sketch ?? (typeof drafted?.sketch === "string" ? drafted.sketch : undefined);
  if (flat) points.push(...sketchCorners(s, flat));
  setView(framed(s.view, points, s.foot + 70));
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
