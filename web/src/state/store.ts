/** The board's own state, put together from its slices; and looking things up in it. */

import { create } from "zustand";
import { useShallow } from "zustand/react/shallow";
import type { Frame, Part, Sketch, SketchStep, Step } from "../api/types";
import { isSketch } from "../api/types";
import type { Affine } from "../geometry/affine";
import { sketchAffine } from "../view/camera";
import { type DocumentSlice, document } from "./slices/document";
import { type DraftSlice, draft } from "./slices/draft";
import { type InspectionSlice, inspection } from "./slices/inspection";
import { type RouteSlice, route } from "./slices/route";
import { type SheetSlice, sheet } from "./slices/sheet";
import { type Message, type Offer, type ShellSlice, shell } from "./slices/shell";
import { type SketchSlice, sketch } from "./slices/sketch";
import { type ViewSlice, view } from "./slices/view";

export type { CommandDraft } from "./slices/document";
export type { Draft, Preview } from "./slices/draft";
export type { LeafName } from "./slices/route";
export type { SheetMode, SheetSize } from "./slices/sheet";
export type { Message, Offer } from "./slices/shell";
export type { ValueField } from "./slices/sketch";
export type { CutPlane } from "./slices/view";

export type State = DocumentSlice &
  ViewSlice &
  SketchSlice &
  DraftSlice &
  RouteSlice &
  InspectionSlice &
  SheetSlice &
  ShellSlice;

export const initial: State = {
  ...document,
  ...view,
  ...sketch,
  ...draft,
  ...route,
  ...inspection,
  ...sheet,
  ...shell,
};

export const useBoard = create<State>(() => initial);
export const board = useBoard.getState;

/** What changes with a move of the pointer: who draws by it asks for it by name. */
const POINTED = [
  "pointer",
  "under",
  "sketchUnder",
  "hover",
  "solidUnder",
  "stepped",
  "lastStep",
  "guide",
  "touched",
  "window",
  "tick",
] as const;

export type Resting = Omit<State, (typeof POINTED)[number]>;

function resting(s: State): Resting {
  const rest: Partial<State> = { ...s };
  for (const field of POINTED) delete rest[field];
  return rest as Resting;
}

/** All of the board's state but what changes with a move of the pointer. */
export const useResting = () => useBoard(useShallow(resting));

export type DatumName = "front" | "top" | "right";

export const DATUMS: Record<string, Frame> = {
  front: { origin: [0, 0, 0], x: [1, 0, 0], y: [0, 0, 1], normal: [0, -1, 0] },
  top: { origin: [0, 0, 0], x: [1, 0, 0], y: [0, 1, 0], normal: [0, 0, 1] },
  right: { origin: [0, 0, 0], x: [0, 1, 0], y: [0, 0, 1], normal: [1, 0, 0] },
};

/** Whether the board is still at this part: an answer about one that was left says nothing here. */
export const stillAt = (part: Pick<Part, "id">) => board().part?.id === part.id;

export const steps = (part: Part | null): Step[] => part?.document.steps ?? [];
export const stepOf = (part: Part | null, id: string | null) => steps(part).find((s) => s.id === id) ?? null;
export const numberOf = (part: Part | null, id: string) =>
  10 * (steps(part).findIndex((s) => s.id === id) + 1);

export function sketchStep(s: Pick<State, "part" | "sketch"> = board()): SketchStep | null {
  const found = stepOf(s.part, s.sketch);
  return found && isSketch(found) ? found : null;
}

const EMPTY: Sketch = { entities: [], constraints: [], dimensions: [] };
export const sketchOf = (step: SketchStep | null): Sketch => step?.sketch ?? EMPTY;

export function frameOf(s: Pick<State, "part" | "build">, id: string): Frame | null {
  const step = stepOf(s.part, id);
  if (!step || !isSketch(step)) return null;
  if (step.on.kind === "datum") return DATUMS[step.on.plane];
  return s.build?.steps?.find((r) => r.id === id)?.frame ?? null;
}

export function affine(s: Pick<State, "part" | "build" | "sketch" | "view"> = board()): Affine | null {
  const frame = s.sketch ? frameOf(s, s.sketch) : null;
  return frame ? sketchAffine(s.view, frame) : null;
}

export function editable(s: Pick<State, "part"> = board()): boolean {
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
