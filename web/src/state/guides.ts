/** Sketches and datums that stand in the part, as guides over the bodies. */
import { type Frame, isSketch, type Step, type XYZ } from "../api/types";
import { kindOf } from "./catalogue";
import { board, steps } from "./store";

export interface Guide {
  step: Step;
  number: number;
  form: "plane" | "axis" | "point" | "sketch";
  frame?: Frame;
  axis?: { at: XYZ; direction: XYZ };
  point?: XYZ;
}

export interface Report {
  state: string;
  frame?: Frame | null;
  extra?: Record<string, unknown>;
}

export function guideOf(step: Step, number: number, report: Report | undefined): Guide[] {
  if (report?.state !== "ok") return [];
  if (isSketch(step))
    return step.sketch?.entities?.length && !step.stencil ? [{ step, number, form: "sketch" }] : [];
  if (kindOf(step).makes !== "guide") return [];
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
