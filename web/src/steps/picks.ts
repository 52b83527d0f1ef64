/** What is pointed at on the solids while a step is worked on: slots and presses. */
import type { Body, Step } from "../api/types";
import { catalogue, look, put, slotsOf } from "../state/catalogue";
import {
  type Choice,
  edgeRef,
  type FaceRef,
  faceRef,
  type PointRef,
  sameChoice,
  samePoint,
} from "../state/refs";
import { board, numberOf, showMessage, useBoard } from "../state/store";
import type { Pick } from "../view/pointed";
import { changeDraft } from "./draft";
import { activeSlot, pointOn, showChosen } from "./slots";

function change(path: string, value: unknown) {
  const { draft } = board();
  if (!draft) return;
  changeDraft(put(draft.step, path, value));
  showChosen();
}

export function toggle(path: string, choice: Choice) {
  const now = (look(board().draft?.step, path) as Choice[]) ?? [];
  const without = now.filter((c) => !sameChoice(c, choice));
  change(path, without.length === now.length ? [...now, choice] : without);
}

/** A press on the solids while a slot waits for it. True if it was taken. */
export function pointAt(pick: Pick | null): boolean {
  const active = activeSlot();
  const body = pick && board().scene?.bodies()[pick.body];
  if (!active || !pick || !body) return false;
  const { slot, path } = active;
  const face = pick.kind === "face" ? faceRef(body, pick.face) : null;
  const edge = pick.kind === "edge" || pick.kind === "corner" ? edgeRef(body, pick.edge) : null;
  const origin = (face ?? edge?.between[0])?.origins[0]?.split("/")[0];
  switch (slot.kind) {
    case "edges":
      toggle(path, edge ? { by: "pick", edge } : { by: "around", face: face! });
      break;
    case "faces":
      if (!face) return refuse("Press a face; here an edge lies nearer. Tab steps to what lies under it.");
      toggle(path, { by: "pick", face });
      break;
    case "face":
      if (!face) return refuse("Press a face.");
      change(path, face);
      break;
    case "plane":
      if (!face || body.faces[(pick as { face: number }).face].kind !== "plane")
        return refuse("A plane is taken from a flat face; press one, or choose a datum plane.");
      change(path, { kind: "face", face });
      break;
    case "axis":
      change(path, edge ? { kind: "edge", edge } : { kind: "face", face });
      break;
    case "body":
      change(path, body.id);
      break;
    case "bodies": {
      const now = (look(board().draft?.step, path) as string[] | null) ?? [];
      const next = now.includes(body.id) ? now.filter((b) => b !== body.id) : [...now, body.id];
      change(path, next.length || !slot.optional ? next : null);
      break;
    }
    case "steps": {
      const now = (look(board().draft?.step, path) as string[]) ?? [];
      if (origin) change(path, now.includes(origin) ? now.filter((s) => s !== origin) : [...now, origin]);
      break;
    }
    case "points": {
      if (pick.kind === "face") return refuse("Press a corner, or the rim of a hole for its middle.");
      pressPoint({ edge: edge!, at: pick.at.toArray() as [number, number, number] });
      break;
    }
    default:
      return false;
  }
  useBoard.setState({ lastStep: origin ?? null });
  if (["face", "plane", "axis", "body"].includes(slot.kind)) pointOn();
  return true;
}

/** A point goes into the slot that waits for points, or out of it; the first makes room when there are too many. */
export function pressPoint(point: PointRef) {
  const active = activeSlot();
  if (active?.slot.kind !== "points") return;
  const now = (look(board().draft?.step, active.path) as PointRef[]) ?? [];
  const without = now.filter((p) => !samePoint(p, point));
  change(active.path, without.length < now.length ? without : [...now, point].slice(-active.slot.count));
  pointOn();
}

/** A step with no more points than its sentence takes now. */
export function fewer(step: Step): Step {
  const all = slotsOf(catalogue().sentences[step.kind] ?? [], step);
  const points = all.find(({ slot }) => slot.kind === "points");
  const now = points && (look(step, points.path) as PointRef[]);
  return points && now!.length > points.slot.count
    ? put(step, points.path, now!.slice(0, points.slot.count))
    : step;
}

/** A plane or axis that a datum step made goes into the slot that waits for one. False when none does. */
export function putInSlot(choice: { kind: string; step: string }): boolean {
  const active = activeSlot();
  if (active?.slot.kind !== (choice.kind === "plane" ? "plane" : "axis")) return false;
  change(active.path, choice);
  pointOn();
  return true;
}

function refuse(words: string): boolean {
  showMessage(words, "red");
  return true;
}

const RULED = new Set(["extrude", "revolve"]); // steps that make walls

/** The rules that make sense in a slot, with what was pointed at last. */
export function rulesFor(kind: string, choices: Choice[]): { words: string; choice: Choice }[] {
  const { part, lastStep } = board();
  const last = [...choices].reverse().find((c) => c.by === "pick");
  const step = lastStep ?? last?.face?.origins[0]?.split("/")[0] ?? null;
  const n = step ? numberOf(part, step) : 0;
  const found: { words: string; choice: Choice }[] = [];
  if (kind === "faces") {
    if (step) {
      found.push({ words: `all walls of step ${n}`, choice: { by: "sides", step } });
      found.push({ words: `all faces of step ${n}`, choice: { by: "made", step } });
    } else
      for (const s of (part?.document.steps ?? [])
        .filter((x) => RULED.has(x.kind) && !x.suppressed)
        .slice(-6))
        found.push({
          words: `all walls of step ${numberOf(part, s.id)}`,
          choice: { by: "sides", step: s.id },
        });
    if (last?.face)
      found.push({
        words: `the ring around ${last.face.said ?? "it"}`,
        choice: { by: "ring", face: last.face },
      });
    return found;
  }
  for (const axis of ["x", "y", "z"])
    found.push({ words: `all along ${axis.toUpperCase()}`, choice: { by: "along", axis, step: null } });
  if (step) {
    found.push({ words: `corners between walls of step ${n}`, choice: { by: "corners", step } });
    found.push({ words: `where step ${n} meets the rest`, choice: { by: "met", step } });
    found.push({ words: `outside edges of step ${n}`, choice: { by: "outside", step } });
  }
  found.push({ words: "all inside edges", choice: { by: "inside", step: null } });
  found.push({ words: "all outside edges", choice: { by: "outside", step: null } });
  return found;
}

/** A choice in a few words, for its chip. */
export function choiceWords(c: Choice): string {
  const { part } = board();
  const of = c.step ? ` of step ${numberOf(part, c.step)}` : "";
  switch (c.by) {
    case "pick":
      if (c.edge) return `${short(c.edge.between[0])} | ${short(c.edge.between[1])}`;
      return short(c.face!);
    case "around":
      return `edges around ${short(c.face!)}`;
    case "ring":
      return `ring around ${short(c.face!)}`;
    case "sides":
      return `all walls${of}`;
    case "made":
      return `all faces${of}`;
    case "corners":
      return `corners between walls${of}`;
    case "met":
      return `where step ${numberOf(part, c.step!)} meets the rest`;
    case "along":
      return `edges along ${c.axis?.toUpperCase()}${of}`;
    default:
      return `${c.by} edges${of}`;
  }
}

/** A face in words: as it is called on the part now, or was called when it was chosen. */
export function faceWords(ref: FaceRef): string {
  const now = (b: Body) => b.faces.find((f) => ref.origins.every((o) => f.origins.includes(o)))?.said;
  return (board().scene?.bodies() ?? []).map(now).find(Boolean) || ref.said || "a face";
}

const short = (f: FaceRef) =>
  faceWords(f).replace(" of step ", " ").replace("wall from", "wall").replace(" face ", " ");
