/** How the board is looked at: the view, how solids are drawn, what is hidden, what lies under the pointer. */
import type { XY, XYZ } from "../../api/types";
import type { ViewState } from "../../view/camera";
import { startView } from "../../view/camera";
import type { Drawn } from "../../view/drawn";
import type { Pane } from "../../view/panes";
import type { Pick } from "../../view/pointed";
import type { BoardScene } from "../../view/scene";

/** Where the part is cut open: across a unit ``normal``, ``at`` mm along it; ``turned`` shows the other half. */
export interface CutPlane {
  named: string;
  normal: XYZ;
  at: number;
  turned: boolean;
}

export interface ViewSlice {
  scene: BoardScene | null;
  view: ViewState;
  panes: Pane[] | null; // four views at once
  pane: number; // which of them is in hand: ``view`` is its view
  drawn: Drawn; // how solids are drawn
  cut: CutPlane | null; // the part is looked at cut open here
  hidden: string[]; // bodies that are not shown
  laid: Record<string, boolean>; // sketches and datums that are shown or hidden against their habit
  planesOn: boolean; // the base planes are shown on a part that has bodies
  guidesOff: boolean; // no sketch and no datum lies on the board
  guide: string | null; // the one under the pointer, in words
  hover: Pick | null;
  picks: Pick[];
  solidUnder: Pick[]; // everything of the solids under the pointer, from the eye on
  stepped: number; // which of them is meant
  lastStep: string | null; // the step that made what was pointed at last, for rules
  pointer: XY | null;
  window: [XY, XY] | null; // being pulled open
  windowTouches: boolean; // whether a window takes what it touches, not only what lies inside
  foot: number; // height in pixels of the deck, which lies over the foot of the board
  shownVersion: number; // the version of the part whose bodies stand on the board; -1 if none do
  tick: number; // how often the tool in hand asked to be drawn again
}

export const view: ViewSlice = {
  scene: null,
  view: startView(),
  panes: null,
  pane: 0,
  drawn: "edges",
  cut: null,
  hidden: [],
  laid: {},
  planesOn: false,
  guidesOff: false,
  guide: null,
  hover: null,
  picks: [],
  solidUnder: [],
  stepped: 0,
  lastStep: null,
  pointer: null,
  window: null,
  windowTouches: false,
  foot: 90,
  shownVersion: -1,
  tick: 0,
};
