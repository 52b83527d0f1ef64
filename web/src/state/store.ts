/** The board's own state: what is open, picked, drawn with; and looking things up in it. */

import { create } from "zustand";
import type { Live } from "../api/live";
import type {
  Advice,
  Build,
  Command,
  Entity,
  Frame,
  Measured,
  Mending,
  Motion,
  Part,
  PartEdge,
  Place,
  Sketch,
  SketchStep,
  Step,
  XY,
  XYZ,
} from "../api/types";
import { isSketch } from "../api/types";
import type { Affine } from "../geometry/affine";
import type { ViewState } from "../view/camera";
import { sketchAffine, startView } from "../view/camera";
import type { Drawn } from "../view/drawn";
import type { Pane } from "../view/panes";
import type { Pick } from "../view/pointed";
import type { BoardScene } from "../view/scene";
import type { Start } from "./catalogue";
import type { ToolInHand } from "./toolInHand";

/** Where the part is cut open: across a unit ``normal``, ``at`` mm along it; ``turned`` shows the other half. */
export interface CutPlane {
  named: string;
  normal: XYZ;
  at: number;
  turned: boolean;
}

export type LeafName = "data" | "versions" | "values" | "drawing";

export type CommandDraft = { do: Command["do"] } & Record<string, unknown>;

export interface Offer {
  label: string;
  act: () => void;
}

export interface Message {
  text: string;
  tone: "red" | "proof" | "ink";
  offers: Offer[];
  lights: string[]; // sketch ids to light up
}

/** ``base``: the step as it was stored when work on it began; ``slot``: the path of the slot that pointing at the part
 * fills; ``feeds``: callouts by the path of the value they give; ``start``: what started it. */
export interface Draft {
  step: Step;
  base: Step | null;
  fresh: boolean;
  slot: string | null;
  feeds: Record<string, string>;
  start?: Start;
}

export interface Preview {
  // not where the try came to nothing, of which the sentence tells
  steps?: {
    id: string;
    state: string;
    said: string;
    offers: Record<string, unknown>;
    mass_change: number | null;
    frame?: Frame | null;
    extra?: Record<string, unknown>;
  }[];
  mass: number | null;
  sentence?: string;
  added?: string[];
  removed?: string[];
  open?: string; // what must still be chosen before there is anything to try
  of?: string; // the command that was tried, as text: what is said is true of that alone
}

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

export interface State {
  part: Part | null;
  build: Build | null;
  scene: BoardScene | null;
  live: Live | null;
  trouble: string;
  view: ViewState;
  hover: Pick | null;
  picks: Pick[];
  sketch: string | null;
  chosen: string[];
  under: string | null;
  sketchUnder: string[]; // everything of the sketch under the pointer, the likeliest first
  solidUnder: Pick[]; // everything of the solids under the pointer, from the eye on
  stepped: number; // which of them is meant
  tool: ToolInHand | null;
  touched: string[]; // points passed over with the tool in hand, the newest last
  tick: number;
  showTies: boolean;
  draft: Draft | null;
  advice: Advice[]; // the order adviser's, for the part as it was last built
  looking: string | null; // the command that is being looked at, as text
  places: { step: string; list: Place[] | null } | null; // where a step could stand; null while they are tried
  lastStep: string | null; // the step that made what was pointed at last, for rules
  preview: Preview | null;
  openStep: string | null;
  also: string[]; // steps of the route chosen besides the open one
  opening: number; // what is on its way to being open: keys wait for it
  expressions: boolean; // whether dimensions show what was typed instead of what it gives
  leaf: LeafName | null; // what stands in the route's place
  message: Message | null;
  saving: number;
  connected: boolean;
  people: string[];
  me: string; // who sits here
  openedAt: number; // the version at which the part was opened here
  mine: ReadonlySet<number>; // versions made from this window
  builtOf: string[]; // the steps, as text, that the build is of; empty while that is not known
  partEdges: PartEdge[]; // the part's edges that the open sketch can use
  field: ValueField | null;
  progress: { done: number; of: number } | null; // steps of the build that is going on
  putting: { id: string; at: XY } | null; // the text of a size on its way to another place
  dragged: Entity[] | null;
  motions: Motion[] | null;
  playing: number | null;
  callout: string | null;
  choosingPlane: boolean;
  pointer: XY | null;
  window: [XY, XY] | null; // being pulled open
  checking: boolean; // whether the profile check of the open sketch is shown
  tolerance: number | null; // mm, of the profile check; null: as the core takes it
  mending: Mending | null; // what a mending would do, while it is pointed at
  suggesting: boolean; // whether suggestions to finish the open sketch are shown
  shown: string[]; // sketch refs lit while something that speaks of them is pointed at
  panes: Pane[] | null; // four views at once
  pane: number; // which of them is in hand: ``view`` is its view
  foot: number; // height in pixels of the deck, which lies over the foot of the board
  drawn: Drawn; // how solids are drawn
  cut: CutPlane | null; // the part is looked at cut open here
  hidden: string[]; // bodies that are not shown
  laid: Record<string, boolean>; // sketches and datums that are shown or hidden against their habit
  planesOn: boolean; // the base planes are shown on a part that has bodies
  guidesOff: boolean; // no sketch and no datum lies on the board
  guide: string | null; // the one under the pointer, in words
  measuring: boolean;
  measured: Measured | null; // what was pointed at measures; null while nothing is pointed at
  windowTouches: boolean; // whether a window takes what it touches, not only what lies inside
}

export const initial: State = {
  part: null,
  build: null,
  scene: null,
  live: null,
  trouble: "",
  view: startView(),
  hover: null,
  picks: [],
  sketch: null,
  chosen: [],
  under: null,
  sketchUnder: [],
  solidUnder: [],
  stepped: 0,
  tool: null,
  touched: [],
  tick: 0,
  showTies: false,
  draft: null,
  advice: [],
  looking: null,
  places: null,
  lastStep: null,
  preview: null,
  openStep: null,
  also: [],
  opening: 0,
  expressions: false,
  leaf: null,
  message: null,
  saving: 0,
  connected: true,
  people: [],
  me: "",
  openedAt: 0,
  mine: new Set(),
  builtOf: [],
  partEdges: [],
  field: null,
  progress: null,
  putting: null,
  dragged: null,
  motions: null,
  playing: null,
  callout: null,
  choosingPlane: false,
  pointer: null,
  window: null,
  checking: false,
  tolerance: null,
  mending: null,
  suggesting: false,
  shown: [],
  panes: null,
  pane: 0,
  foot: 90,
  drawn: "edges",
  cut: null,
  hidden: [],
  laid: {},
  planesOn: false,
  guidesOff: false,
  guide: null,
  measuring: false,
  measured: null,
  windowTouches: false,
};

export const useBoard = create<State>(() => initial);
export const board = useBoard.getState;

export const DATUMS: Record<string, Frame> = {
  front: { origin: [0, 0, 0], x: [1, 0, 0], y: [0, 0, 1], normal: [0, -1, 0] },
  top: { origin: [0, 0, 0], x: [1, 0, 0], y: [0, 1, 0], normal: [0, 0, 1] },
  right: { origin: [0, 0, 0], x: [0, 1, 0], y: [0, 0, 1], normal: [1, 0, 0] },
};

export const steps = (part: Part | null): Step[] => part?.document.steps ?? [];
export const stepOf = (part: Part | null, id: string | null) => steps(part).find((s) => s.id === id) ?? null;
export const numberOf = (part: Part | null, id: string) =>
  10 * (steps(part).findIndex((s) => s.id === id) + 1);

export function sketchStep(s: State = board()): SketchStep | null {
  const found = stepOf(s.part, s.sketch);
  return found && isSketch(found) ? found : null;
}

const EMPTY: Sketch = { entities: [], constraints: [], dimensions: [] };
export const sketchOf = (step: SketchStep | null): Sketch => step?.sketch ?? EMPTY;

export function frameOf(s: State, id: string): Frame | null {
  const step = stepOf(s.part, id);
  if (!step || !isSketch(step)) return null;
  if (step.on.kind === "datum") return DATUMS[step.on.plane];
  return s.build?.steps?.find((r) => r.id === id)?.frame ?? null;
}

export function affine(s: State = board()): Affine | null {
  const frame = s.sketch ? frameOf(s, s.sketch) : null;
  return frame ? sketchAffine(s.view, frame) : null;
}

export function editable(s: State = board()): boolean {
  return s.part?.role === "owner" || s.part?.role === "editor";
}

/** A new id of the given letter in the open sketch, never used before; ``ahead`` counts those of the same command. */
export function freshId(letter: string, ahead = 0): string {
  const sketch = sketchOf(sketchStep());
  const all = [...(sketch.entities ?? []), ...(sketch.constraints ?? []), ...(sketch.dimensions ?? [])];
  const top = Math.max(
    sketch.used?.[letter] ?? 0,
    ...all.filter((i) => i.id[0] === letter).map((i) => Number(i.id.slice(1)) || 0),
  );
  return letter + (top + 1 + ahead);
}

export function freshStep(): string {
  const part = board().part;
  return `s${Math.max(part?.document.used ?? 0, ...steps(part).map((s) => Number(s.id.slice(1)))) + 1}`;
}

export function showMessage(
  text: string,
  tone: Message["tone"] = "ink",
  offers: Offer[] = [],
  lights: string[] = [],
) {
  useBoard.setState({ message: { text, tone, offers, lights } });
}

/** While this is going on, keys wait: they are meant for what it opens. Not for ever. */
export async function holding<T>(work: Promise<T>): Promise<T> {
  const by = (n: number) => useBoard.setState((s) => ({ opening: Math.max(0, s.opening + n) }));
  by(1);
  const late = new Promise<void>((done) => setTimeout(done, 8000));
  await Promise.race([work.catch(() => undefined), late]);
  by(-1);
  return work;
}

/** What was chosen is let go, unless something else has been chosen meanwhile. */
export function letGo(chosen: string[]) {
  if (board().chosen === chosen) useBoard.setState({ chosen: [] });
}

export function clearMessage() {
  if (board().message) useBoard.setState({ message: null });
}
