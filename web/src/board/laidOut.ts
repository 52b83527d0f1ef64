/** Which sketches and datums lie on the board, over the bodies. */
import type { Frame, Step, XYZ } from "../api/types";
import type { Action } from "./action";
import { activeSlot } from "./pointing";
import { board, steps, useBoard } from "./store";

export interface Guide {
  step: Step;
  number: number;
  form: "plane" | "axis" | "point" | "sketch";
  frame?: Frame;
  axis?: { at: XYZ; direction: XYZ };
  point?: XYZ;
}

interface Report {
  state: string;
  frame?: Frame | null;
  extra?: Record<string, unknown>;
}

function guideOf(step: Step, number: number, report: Report | undefined): Guide[] {
  if (report?.state !== "ok") return [];
  if (step.kind === "sketch")
    return step.sketch?.entities?.length && !step.stencil ? [{ step, number, form: "sketch" }] : [];
  if (step.kind !== "datum") return [];
  const { axis, point } = (report.extra ?? {}) as { axis?: Guide["axis"]; point?: XYZ };
  if (axis) return [{ step, number, form: "axis", axis }];
  if (point) return [{ step, number, form: "point", point }];
  return report.frame ? [{ step, number, form: "plane", frame: report.frame }] : [];
}

/** All sketches and datums that stand in the part now; while one is worked on, those before it. */
export function standing(): Guide[] {
  const { part, build, draft } = board();
  const reports = new Map((build?.steps ?? []).map((r) => [r.id, r as Report]));
  const list = steps(part);
  const at = list.findIndex((s) => s.id === draft?.step.id);
  return list
    .slice(0, at < 0 ? list.length : at)
    .flatMap((s, i) => guideOf(s, 10 * (i + 1), reports.get(s.id)));
}

/** The datum that is being tried, where it would be. */
export function triedGuide(): Guide | null {
  const { draft, preview } = board();
  if (draft?.step.kind !== "datum") return null;
  const report = (preview?.steps ?? []).find((r) => r.id === draft.step.id);
  return guideOf(draft.step, 0, report)[0] ?? null;
}

/** Sketches that later steps are made from: the solid shows what they give. */
function used(): Set<string> {
  const text = steps(board().part).flatMap((s) =>
    "sketch" in s && typeof s.sketch === "string" ? s.sketch : [],
  );
  const outlines = steps(board().part).flatMap((s) => (s.kind === "split" && s.outline ? s.outline : []));
  return new Set([...text, ...outlines]);
}

/** Those that are drawn: datums and sketches still unused unless hidden, others if they were asked for. */
export function guides(): Guide[] {
  const { laid, guidesOff, sketch } = board();
  if (sketch) return [];
  const wanted = wantedGuide();
  const taken = used();
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
  const taken = used();
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
