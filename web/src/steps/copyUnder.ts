/** The copy of a pattern that lies under the pointer while the pattern is tried, so that it can be left out by a press. */
import { Vector3 } from "three";
import type { XY, XYZ } from "../api/types";
import { type Data, isEmpty, look, put } from "../state/catalogue";
import { board, editable } from "../state/store";
import { changeDraft, previewNow } from "./draft";
import { activeSlot } from "./slots";
import type { Grid, Told } from "./stepReport";

export type PlaceOf = [number, number];

const FIELD = "left_out";

/** Where a place is: so many steps on from the original. */
export function placeOf(grid: Grid, [i, j]: PlaceOf): Vector3 {
  const at = new Vector3(...grid.at);
  const step = (v: XYZ | undefined, n: number) => new Vector3(...(v ?? [0, 0, 0])).multiplyScalar(n);
  if (!grid.axis) return at.add(step(grid.first, i)).add(step(grid.second, j));
  const about = new Vector3(...grid.axis.at);
  const turn = ((grid.degrees ?? 0) * i * Math.PI) / 180;
  return at
    .sub(about)
    .applyAxisAngle(new Vector3(...grid.axis.direction), turn)
    .add(about);
}

/** The places of the pattern that is worked on that are left out. */
export const leftOut = () =>
  ((board().draft?.step as unknown as Data | undefined)?.[FIELD] ?? []) as PlaceOf[];

export const placeSaid = (grid: Grid, [i, j]: PlaceOf) => `Place ${i}${grid.counts[1] > 1 ? ` × ${j}` : ""}`;

/** Leave a place out, or put it back. */
export function turnPlace([i, j]: PlaceOf) {
  const { draft } = board();
  if (!draft) return;
  const now = leftOut();
  const without = now.filter(([a, b]) => a !== i || b !== j);
  changeDraft(put(draft.step, FIELD, without.length < now.length ? without : [...now, [i, j]]));
}

/** The copy under a place on the board, with what a press would do; null while something else is to be pointed at. */
export function copyUnder(at: XY): { place: PlaceOf; words: string } | null {
  const s = board();
  const slot = activeSlot();
  if (!s.draft || !editable() || !previewNow(s) || (slot && isEmpty(look(s.draft.step, slot.path))))
    return null;
  const report = s.preview?.steps?.find((r) => r.id === s.draft!.step.id);
  const grid = report?.state === "ok" ? (report.extra as Told | null)?.grid : undefined;
  const hit = grid && s.scene?.triedAt(at);
  if (!grid || !hit) return null;
  const out = leftOut();
  let best: PlaceOf | null = null;
  let least = Number.POSITIVE_INFINITY;
  for (let j = 0; j < grid.counts[1]; j++)
    for (let i = 0; i < grid.counts[0]; i++) {
      if ((!i && !j) || out.some(([a, b]) => a === i && b === j)) continue;
      const off = placeOf(grid, [i, j]).distanceTo(hit);
      if (off < least) [best, least] = [[i, j], off];
    }
  return best && { place: best, words: `${placeSaid(grid, best)}: press to leave it out` };
}
