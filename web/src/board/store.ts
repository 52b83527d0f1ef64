/** The board's own state: what is open, picked, drawn with; and the one way to change the part. */
import * as Three from "three";
import { create } from "zustand";
import { get as fetchJson, post, Refused } from "../api/client";
import type {
  Build,
  Command,
  Entity,
  ExtrudeStep,
  Frame,
  Motion,
  Part,
  Sketch,
  SketchStep,
  Step,
  XY,
} from "../api/types";
import { isSketch } from "../api/types";
import type { Tool } from "../sketch/tools/tool";
import { type Affine, facing, fitted, named, sketchAffine, startView, type ViewState } from "../view/camera";
import type { BoardScene, Pick } from "../view/scene";
import { Live, type LiveEvent } from "./live";

export type Loose = { do: Command["do"] } & Record<string, unknown>;

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

export interface Draft {
  step: ExtrudeStep;
  fresh: boolean;
}

export interface Preview {
  steps: {
    id: string;
    state: string;
    said: string;
    offers: Record<string, unknown>;
    mass_change: number | null;
  }[];
  mass: number | null;
  sentence?: string;
  added?: string[];
  removed?: string[];
}

export interface ValueField {
  dimension: string | null; // an existing one, or null for one about to be made
  make?: (expr: string, name: string) => Loose;
  text: string;
  at: XY;
  kind: string;
  callout?: string;
}

interface State {
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
  tool: Tool | null;
  tick: number;
  showTies: boolean;
  draft: Draft | null;
  preview: Preview | null;
  openStep: string | null;
  message: Message | null;
  saving: number;
  connected: boolean;
  people: string[];
  field: ValueField | null;
  dragged: Entity[] | null;
  motions: Motion[] | null;
  playing: number | null;
  callout: string | null;
  choosingPlane: boolean;
  pointer: XY | null;
}

const initial: State = {
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
  tool: null,
  tick: 0,
  showTies: false,
  draft: null,
  preview: null,
  openStep: null,
  message: null,
  saving: 0,
  connected: true,
  people: [],
  field: null,
  dragged: null,
  motions: null,
  playing: null,
  callout: null,
  choosingPlane: false,
  pointer: null,
};

export const useBoard = create<State>(() => initial);
const set = useBoard.setState;
export const board = useBoard.getState;

export const DATUMS: Record<string, Frame> = {
  front: { origin: [0, 0, 0], x: [1, 0, 0], y: [0, 0, 1], normal: [0, -1, 0] },
  top: { origin: [0, 0, 0], x: [1, 0, 0], y: [0, 1, 0], normal: [0, 0, 1] },
  right: { origin: [0, 0, 0], x: [0, 1, 0], y: [0, 0, 1], normal: [1, 0, 0] },
};

// -- looking things up ---------------------------------------------------------------------------

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

// -- telling -------------------------------------------------------------------------------------

export function tell(
  text: string,
  tone: Message["tone"] = "ink",
  offers: Offer[] = [],
  lights: string[] = [],
) {
  set({ message: { text, tone, offers, lights } });
}

export function hush() {
  if (board().message) set({ message: null });
}

// -- changing the part ---------------------------------------------------------------------------

let queue: Promise<unknown> = Promise.resolve();

function inTurn<T>(work: () => Promise<T>): Promise<T> {
  const next = queue.then(work, work);
  queue = next.catch(() => undefined);
  return next;
}

function took(part: Part) {
  const open = board().sketch;
  const gone = open !== null && !(part.document.steps ?? []).some((s) => s.id === open);
  set({
    part,
    dragged: null,
    motions: null,
    playing: null,
    ...(gone ? { sketch: null, tool: null, chosen: [] } : {}),
  });
  awaitBuild();
}

/** Carry out a command. True if it was done; if not, the reason is on the screen. */
export function run(command: Loose, quiet = false): Promise<boolean> {
  return inTurn(async () => {
    const part = board().part;
    if (!part) return false;
    set({ saving: board().saving + 1 });
    try {
      const after = await post<Part>(`/api/parts/${part.id}/commands`, { version: part.version, command });
      took(after);
      if (after.said?.length && !quiet) tell(after.said.join(" "));
      else hush();
      return true;
    } catch (error) {
      refused(error, command);
      return false;
    } finally {
      set({ saving: board().saving - 1 });
    }
  });
}

function refused(error: unknown, command: Loose) {
  set({ dragged: null });
  if (!(error instanceof Refused)) throw error;
  if (error.status === 409) {
    const fresh = error.body.part as Part;
    took({ ...fresh, role: board().part?.role ?? null });
    tell(error.sentence, "red");
    return;
  }
  const detail = error.detail as { offer?: string; because?: string[] };
  const offers: Offer[] = [];
  if (detail.offer === "reference") {
    if (command.do === "sketch_add") {
      const dims = (command.dimensions as Record<string, unknown>[]).map((d) => ({ ...d, driving: false }));
      offers.push({ label: "Keep as reference", act: () => run({ ...command, dimensions: dims }) });
    }
  }
  if (detail.offer === "with_dependents")
    offers.push({ label: "Delete them too", act: () => run({ ...command, with_dependents: true }) });
  tell(error.sentence, "red", offers, detail.because ?? []);
}

export function travel(way: "undo" | "redo"): Promise<void> {
  return inTurn(async () => {
    const part = board().part;
    if (!part || !(way === "undo" ? part.can_undo : part.can_redo)) return;
    set({ saving: board().saving + 1 });
    try {
      took(await post<Part>(`/api/parts/${part.id}/${way}`, { version: part.version }));
      set({ chosen: [], field: null });
      hush();
    } catch (error) {
      refused(error, { do: "set_part" });
    } finally {
      set({ saving: board().saving - 1 });
    }
  });
}

// -- builds --------------------------------------------------------------------------------------

let waiting: ReturnType<typeof setTimeout> | undefined;

/** The build comes over the live channel; asking again is only for when that is silent. */
function awaitBuild(pause = 2500) {
  clearTimeout(waiting);
  waiting = setTimeout(async () => {
    const { part, build } = board();
    if (part && build?.version !== part.version) {
      await loadBuild();
      awaitBuild(pause * 1.5);
    }
  }, pause);
}

export async function loadBuild() {
  const { part } = board();
  if (!part) return;
  try {
    const build = await fetchJson<Build>(`/api/parts/${part.id}/build`);
    if (board().part?.id !== part.id || (board().build?.version ?? -1) > build.version) return;
    set({ build });
    await showBodies();
    if (board().view.width && !fittedOnce) fit();
  } catch {
    tell("The solid could not be loaded; it comes by itself when the server answers again.", "red");
  }
}

export async function showBodies() {
  const { scene, build, sketch } = board();
  const bodies = (build?.bodies ?? []) as NonNullable<Build["bodies"]>;
  await scene?.show(bodies, sketch !== null);
}

// -- opening and closing -------------------------------------------------------------------------

let fittedOnce = false;

export async function openPart(id: string) {
  fittedOnce = false;
  set({ ...initial, view: board().view, scene: board().scene });
  try {
    const part = await fetchJson<Part>(`/api/parts/${id}`);
    set({ part, live: new Live(id, heard) });
    await loadBuild();
    awaitBuild();
  } catch (error) {
    set({
      trouble:
        error instanceof Refused ? error.sentence : "This part could not be opened; load the page again.",
    });
  }
}

export function closePart() {
  clearTimeout(waiting);
  board().live?.close();
  set({ ...initial, view: board().view });
}

function heard(event: LiveEvent) {
  const s = board();
  if (event.kind === "built") {
    loadBuild();
    if ((event.version as number) > (s.part?.version ?? 0)) refresh();
  } else if (event.kind === "present") set({ people: event.people as string[] });
  else if (event.kind === "connected") {
    set({ connected: true });
    if (s.build && s.build.version !== s.part?.version) loadBuild();
  } else if (event.kind === "disconnected") set({ connected: false });
  else if (event.kind === "dragged") draggedTo(event);
  else if (event.kind === "refused") tell(event.sentence as string, "red");
  else if (event.kind === "preview" && event.turn === previewTurn && s.draft) {
    set({ preview: event as unknown as Preview });
    s.scene?.preview((event.added as string[]) ?? [], (event.removed as string[]) ?? []);
  }
}

async function refresh() {
  const { part } = board();
  if (!part) return;
  const fresh = await fetchJson<Part>(`/api/parts/${part.id}`);
  if (fresh.version > (board().part?.version ?? 0)) took(fresh);
}

// -- dragging in a sketch over the live channel ----------------------------------------------------

let dragTurn = 0;
let dragAnswered = true;
let dragNext: XY | null = null;

export function dragStart(ref: string) {
  const s = board();
  dragAnswered = true;
  dragNext = null;
  s.live?.send({ kind: "drag_start", step: s.sketch, ref });
}

export function dragTo(at: XY) {
  if (!dragAnswered) {
    dragNext = at;
    return;
  }
  dragAnswered = false;
  dragTurn += 1;
  board().live?.send({ kind: "drag", x: at[0], y: at[1], turn: dragTurn });
}

function draggedTo(event: LiveEvent) {
  if (event.turn !== dragTurn) return;
  dragAnswered = true;
  set({ dragged: event.entities as Entity[] });
  if (dragNext) {
    const at = dragNext;
    dragNext = null;
    dragTo(at);
  }
}

export async function dragEnd(ref: string, to: XY) {
  dragTurn += 1;
  const s = board();
  s.live?.send({ kind: "drag_end" });
  await run({ do: "sketch_drag", step: s.sketch, ref, to }, true);
}

// -- sketches --------------------------------------------------------------------------------------

export function openSketch(id: string) {
  const s = board();
  const frame = frameOf(s, id);
  set({
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
  hush();
  if (frame) squareUp(frame);
  showBodies();
}

export function squareUp(frame: Frame) {
  setView({ ...board().view, turn: facing(frame) });
  fit();
}

export function closeSketch() {
  set({ sketch: null, tool: null, chosen: [], field: null, motions: null, playing: null });
  hush();
  showBodies();
}

// -- the view --------------------------------------------------------------------------------------

export function setView(view: ViewState) {
  set({ view });
  board().scene?.look(view);
}

export function fit() {
  const s = board();
  const points = s.scene?.corners() ?? [];
  const flat = s.sketch ?? s.draft?.step.sketch;
  if (flat) points.push(...sketchCorners(s, flat));
  if (points.length) fittedOnce = true;
  setView(fitted(s.view, points));
}

function sketchCorners(s: State, id: string) {
  const frame = frameOf(s, id);
  const step = stepOf(s.part, id);
  const sketch = sketchOf(step && isSketch(step) ? step : null);
  if (!frame) return [];
  const flat: XY[] = [];
  for (const e of sketch.entities ?? []) {
    if (e.kind === "point") flat.push(e.at as XY);
    else if (e.kind === "line") flat.push(e.p as XY, e.q as XY);
    else {
      const [x, y] = e.c;
      flat.push([x - e.r, y - e.r], [x + e.r, y + e.r]);
    }
  }
  for (const d of sketch.dimensions ?? []) if (d.at) flat.push(d.at as XY);
  const { Vector3 } = Three;
  return flat.map(([u, v]) =>
    new Vector3(...frame.origin)
      .addScaledVector(new Vector3(...frame.x), u)
      .addScaledVector(new Vector3(...frame.y), v),
  );
}

// -- steps being worked on --------------------------------------------------------------------------

let previewTurn = 0;
let previewLater: ReturnType<typeof setTimeout> | undefined;

export function startDraft(step: ExtrudeStep, fresh: boolean) {
  set({ draft: { step, fresh }, preview: null, openStep: step.id, picks: [] });
  if (board().sketch) {
    closeSketch();
    setView({ ...board().view, turn: named("iso") }); // a depth cannot be seen square on
    fit();
  }
  askPreview();
}

export function changeDraft(change: Partial<ExtrudeStep>) {
  const draft = board().draft;
  if (!draft) return;
  set({ draft: { ...draft, step: { ...draft.step, ...change } } });
  askPreview();
}

export function draftCommand(draft: Draft): Loose {
  const { id, kind: _kind, sketch: _sketch, ...changes } = draft.step;
  return draft.fresh ? { do: "add_step", step: draft.step } : { do: "set_step", step: id, changes };
}

function askPreview() {
  clearTimeout(previewLater);
  previewLater = setTimeout(() => {
    const s = board();
    if (!s.draft) return;
    previewTurn += 1;
    s.live?.send({ kind: "preview", turn: previewTurn, command: draftCommand(s.draft) });
  }, 60);
}

export function dropDraft() {
  clearTimeout(previewLater);
  previewTurn += 1;
  set({ draft: null, preview: null });
  board().scene?.preview([], []);
}

/** Store the step being worked on. ``feeds`` links a callout to its depth at the same time. */
export async function acceptDraft(feeds?: string): Promise<boolean> {
  const draft = board().draft;
  if (!draft) return false;
  const done = await run(draftCommand(draft));
  if (!done) return false;
  dropDraft();
  set({ openStep: null });
  if (feeds) await run({ do: "link_callout", callout: feeds, step: draft.step.id, field: "depth" });
  return true;
}
