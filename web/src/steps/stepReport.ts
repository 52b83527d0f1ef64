/** What a step tells besides its sentence, to be drawn on the part while it is tried or open on the route. */
import { useRef } from "react";
import type { Frame, XYZ } from "../api/types";
import { useBoard } from "../state/store";
import { previewNow } from "./draft";

export interface Turn {
  path: string;
  frame: Frame;
  reach: number;
  angle: number;
}

export interface Grid {
  at: XYZ; // the middle of the original
  counts: [number, number];
  first?: XYZ;
  second?: XYZ;
  axis?: { at: XYZ; direction: XYZ };
  degrees?: number;
}

/** Where a value is taken hold of: at ``at`` + value × ``way``, mm. */
export interface Grip {
  path: string;
  name: string;
  at: XYZ;
  way: XYZ;
  value: number;
}

export interface Told {
  pull?: { ways: { at: XYZ; way: XYZ }[]; turn: Record<string, unknown> };
  locked?: XYZ[][][];
  turns?: Turn[];
  grid?: Grid;
  grips?: Grip[];
  sides?: { at: XYZ; to: XYZ; size: number }[]; // how far a chamfer reaches into the two faces of an edge
}

/** What the step that is worked on, or open on the route, tells; of a try that failed what was told last. */
export function useTold(): { told: Told; old: boolean } | null {
  const draft = useBoard((s) => s.draft);
  const preview = useBoard((s) => s.preview);
  const now = useBoard(previewNow);
  const open = useBoard((s) => s.openStep);
  const build = useBoard((s) => s.build);
  const last = useRef<{ step: string; told: Told } | null>(null);
  const id = draft?.step.id ?? open;
  if (!id) return null;
  const report = draft ? preview?.steps?.find((r) => r.id === id) : build?.steps?.find((r) => r.id === id);
  const good = report?.state === "ok" && report.extra ? (report.extra as Told) : null;
  if (good) last.current = { step: id, told: good };
  if (last.current?.step !== id || (!draft && !good)) return null;
  return { told: last.current.told, old: Boolean(draft) && (!now || !good) };
}
