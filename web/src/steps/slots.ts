/** The slots of the step that is worked on: which one pointing fills, what is still missing, what its choices mean. */
import type { Step } from "../api/types";
import { catalogue, type Data, look, type Slot, slotsOf } from "../state/catalogue";
import { board, useBoard } from "../state/store";
import { meant } from "./resolveSelection";

/** Slots that are filled by pointing at solids. */
export const POINTED = new Set([
  "faces",
  "face",
  "edges",
  "plane",
  "axis",
  "bodies",
  "body",
  "steps",
  "points",
]);

/** The slot that pointing fills just now, with its path. */
export function activeSlot(): { slot: Slot; path: string } | null {
  const { draft } = board();
  if (!draft?.slot) return null;
  const all = slotsOf(catalogue().sentences[draft.step.kind] ?? [], draft.step);
  return all.find((s) => s.path === draft.slot && POINTED.has(s.slot.kind)) ?? null;
}

export function activate(path: string | null) {
  const { draft } = board();
  if (!draft || draft.slot === path) return;
  useBoard.setState({ draft: { ...draft, slot: path } });
  showChosen();
}

/** Whether a slot that is pointed at holds what it takes. */
export const filled = (slot: Slot, value: unknown) => {
  if (slot.kind === "points") return (value as unknown[]).length === slot.count;
  return Array.isArray(value) ? value.length > 0 : value !== null && value !== undefined && value !== "";
};

/** Go on to the next slot that still has to be pointed at: after one thing was pointed at, or another choice made
 * the sentence ask for something else. */
export function pointOn() {
  const { draft } = board();
  if (!draft) return;
  const all = slotsOf(catalogue().sentences[draft.step.kind] ?? [], draft.step);
  const next = all.find(
    ({ slot, path }) => POINTED.has(slot.kind) && !slot.optional && !filled(slot, look(draft.step, path)),
  );
  const here = all.some(({ path }) => path === draft.slot);
  if (next) activate(next.path);
  else if (draft.slot && !here) activate(null);
}

/** What the choices in the active slot mean on the solids that are shown, marked there. */
export function showChosen() {
  const s = board();
  const active = activeSlot();
  const picks = active ? meant(active.slot.kind, look(s.draft?.step, active.path)) : [];
  useBoard.setState({ picks });
  s.scene?.mark(s.hover, picks);
}

/** What must still be pointed at or chosen before the step can be tried, in words; null when nothing. */
export function missing(step: Step): string | null {
  for (const { slot, path } of slotsOf(catalogue().sentences[step.kind] ?? [], step)) {
    const value = look(step, path);
    const empty =
      value === null || value === undefined || value === "" || (Array.isArray(value) && !value.length);
    if (slot.kind === "points" && !filled(slot, value))
      return slot.count === 1
        ? "Press a corner of the part, the rim of a hole for its middle, or a point that is drawn."
        : `Press ${slot.count === 2 ? "two" : "three"} corners of the part, rims of holes for their middles, or points that are drawn.`;
    if (!empty || slot.optional || slot.kind === "regions") continue;
    if (slot.kind === "edges")
      return "Press the edges on the part, a face for all edges around it, or take a rule.";
    if (slot.kind === "faces") return "Press the faces on the part, or take a rule.";
    if (POINTED.has(slot.kind))
      return `Still to be chosen: ${slot.label.toLowerCase()}. Press it on the part.`;
    return `Still to be filled in: ${slot.label.toLowerCase()}.`;
  }
  const data = step as unknown as Data;
  const repeats = ["of", "faces", "bodies"].some((field) => (data[field] as unknown[])?.length);
  if (step.kind === "pattern" && !repeats)
    return "Choose what to repeat: press it on the part, or its step on the route.";
  return null;
}
