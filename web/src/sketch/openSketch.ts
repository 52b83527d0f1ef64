/** A sketch opened and closed. */

import { leftAs, lookBack, lookInto, oneView, viewsAgain } from "../camera/viewControl";
import { showBodies } from "../document/builds";
import { board, clearMessage, frameOf, useBoard } from "../state/store";
import { forgetPartEdges, loadPartEdges } from "./partEdges";

export function openSketch(id: string) {
  const s = board();
  const frame = frameOf(s, id);
  if (s.sketch && s.sketch !== id) leftAs(s.sketch);
  useBoard.setState({
    sketch: id,
    openStep: id,
    tool: null,
    chosen: [],
    picks: [],
    hover: null,
    draft: null,
    preview: null,
    motions: null,
  });
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
  useBoard.setState({
    sketch: null,
    tool: null,
    chosen: [],
    field: null,
    motions: null,
    playing: null,
    suggesting: false,
    checking: false,
    mending: null,
    leaf: null,
    shown: [],
  });
  forgetPartEdges();
  clearMessage();
  if (sketch) lookBack(sketch);
  viewsAgain();
  showBodies();
}
