/** The open sketch: what is chosen, drawn with and shown in it. */
import type { Entity, Mending, Motion, PartEdge, XY } from "../../api/types";
import type { ToolInHand } from "../toolInHand";
import type { CommandDraft } from "./document";

export interface ValueField {
  dimension: string | null; // an existing one, or null for one about to be made
  make?: (expr: string, name: string) => CommandDraft;
  text: string;
  at: XY;
  kind: string;
  callout?: string;
  nameless?: boolean; // what is made takes no name of its own
  hint?: string; // what can be typed
}

export interface SketchSlice {
  sketch: string | null;
  chosen: string[];
  under: string | null;
  sketchUnder: string[]; // everything of the sketch under the pointer, the likeliest first
  tool: ToolInHand | null;
  touched: string[]; // points passed over with the tool in hand, the newest last
  showTies: boolean;
  field: ValueField | null;
  putting: { id: string; at: XY } | null; // the text of a size on its way to another place
  dragged: Entity[] | null;
  motions: Motion[] | null;
  playing: number | null;
  checking: boolean; // whether the profile check of the open sketch is shown
  tolerance: number | null; // mm, of the profile check; null: as the core takes it
  mending: Mending | null; // what a mending would do, while it is pointed at
  suggesting: boolean; // whether suggestions to finish the open sketch are shown
  fitting: boolean; // whether it is shown how the open sketch would be fitted to the sheet
  fitted: Entity[] | null; // where that would move what is drawn
  shown: string[]; // sketch refs lit while something that speaks of them is pointed at
  expressions: boolean; // whether dimensions show what was typed instead of what it gives
  partEdges: PartEdge[]; // the part's edges that the open sketch can use
  choosingPlane: boolean;
}

export const sketch: SketchSlice = {
  sketch: null,
  chosen: [],
  under: null,
  sketchUnder: [],
  tool: null,
  touched: [],
  showTies: false,
  field: null,
  putting: null,
  dragged: null,
  motions: null,
  playing: null,
  checking: false,
  tolerance: null,
  mending: null,
  suggesting: false,
  fitting: false,
  fitted: null,
  shown: [],
  expressions: false,
  partEdges: [],
  choosingPlane: false,
};
