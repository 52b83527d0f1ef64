/** Which sketches and datums lie on the board, over the bodies. */
import type { Action } from "../state/action";
import { kindOf, sketchesUsed } from "../state/catalogue";
import { type Guide, guideOf, standing } from "../state/guides";
import { board, steps, useBoard } from "../state/store";
import { activeSlot } from "../steps/slots";

/** The datum that is being tried, where it would be. */
export function triedGuide(): Guide | null {
  const { draft, preview } = board();
  if (!draft || kindOf(draft.step).makes !== "guide") return null;
  const report = (preview?.steps ?? []).find((r) => r.id === draft.step.id);
  return guideOf(draft.step, 0, report)[0] ?? null;
}

/** Those that are drawn: datums and sketches still unused unless hidden, others if they were asked for. */
export function guides(): Guide[] {
  const { laid, guidesOff, sketch } = board();
  if (sketch) return [];
  const wanted = wantedGuide();
  const taken = sketchesUsed(steps(board().part));
  return standing().filter((g) => {
    if (wanted && wanted === g.form) return true; // what can be pressed now is seen
    if (guidesOff) return false;
    return laid[g.step.id] ?? (g.form !== "sketch" || !taken.has(g.step.id));
  });
}

/** The kind of guide that a press would take just now. */
export function wantedGuide(): Guide["form"] | null {
  const { choosingPlane } = board();
  const kind = activeSlot()?.slot.kind;
  if (choosingPlane || kind === "plane") return "plane";
  if (kind === "axis") return "axis";
  return kind === "points" ? "point" : null;
}

/** How many are hidden that would lie on the board of themselves. */
export function hiddenGuides(): number {
  const { laid, guidesOff } = board();
  const taken = sketchesUsed(steps(board().part));
  const own = standing().filter(
    (g) => laid[g.step.id] !== undefined || g.form !== "sketch" || !taken.has(g.step.id),
  );
  return own.filter((g) => guidesOff || laid[g.step.id] === false).length;
}

export const showGuides = () => useBoard.setState({ guidesOff: false, laid: {} });

export const GUIDE_ACTIONS: Action[] = [
  {
    id: "base-planes",
    words: "Base planes on the board, or none",
    keys: "v p",
    group: "view",
    also: "front top right datum show hide",
    when: () => !board().sketch && steps(board().part).length > 0,
    run: () => useBoard.setState((s) => ({ planesOn: !s.planesOn })),
  },
  {
    id: "guides",
    words: "Sketches and datums on the board, or none",
    keys: "v g",
    group: "view",
    when: () => !board().sketch && standing().length > 0,
    run: () => useBoard.setState((s) => ({ guidesOff: !s.guidesOff })),
  },
];
