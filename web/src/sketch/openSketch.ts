/** A sketch opened and closed. */

import { leftAs, lookBack, lookInto, oneView, viewsAgain } from "../camera/viewControl";
import { showBodies } from "../document/builds";
import { enter } from "../state/mode";
import { board, clearMessage, frameOf } from "../state/store";
import { forgetPartEdges, loadPartEdges } from "./partEdges";

export function openSketch(id: string) {
  const s = board();
  const frame = frameOf(s, id);
  if (s.sketch && s.sketch !== id) leftAs(s.sketch);
  enter({ sketch: id, openStep: id, picks: [], hover: null });
  s.scene?.mark(null, []);
  s.scene?.preview([], []);
  clearMessage();
  oneView();
  lookInto(id, frame);
  showBodies();
  loadPartEdges();
}

export function closeSketch() {
  const { sketch } = board();
  enter({ leaf: null });
  forgetPartEdges();
  clearMessage();
  if (sketch) lookBack(sketch);
  viewsAgain();
  showBodies();
}
