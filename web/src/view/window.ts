/** What a window pulled open on the board takes. */
import type { Entity, XY } from "../api/types";
import { type Affine, apply } from "../geometry/affine";
import { walk } from "../geometry/curves";

/** An entity on the screen as short straight pieces. */
export const trail = (e: Entity, m: Affine): XY[] => walk(e).map((at) => apply(m, at));

/** Ids of the entities inside the window with these corners, or touched by it when ``touching``. */
export function inWindow(entities: Entity[], m: Affine, a: XY, b: XY, touching: boolean): string[] {
  return entities.filter((e) => takes(trail(e, m), a, b, touching)).map((e) => e.id);
}

/** Whether a window with corners ``a`` and ``b`` holds all of a trail of places, or touches it. */
export function takes(places: XY[], a: XY, b: XY, touching: boolean): boolean {
  const lo: XY = [Math.min(a[0], b[0]), Math.min(a[1], b[1])];
  const hi: XY = [Math.max(a[0], b[0]), Math.max(a[1], b[1])];
  const holds = (p: XY) => p[0] >= lo[0] && p[0] <= hi[0] && p[1] >= lo[1] && p[1] <= hi[1];
  if (!touching) return places.every(holds);
  return places.some(holds) || places.some((p, i) => i > 0 && crosses(places[i - 1], p, lo, hi));
}

/** Whether a straight piece passes through the box (Liang and Barsky's clipping). */
function crosses(p: XY, q: XY, lo: XY, hi: XY): boolean {
  let [from, to] = [0, 1];
  for (const k of [0, 1]) {
    const d = q[k] - p[k];
    for (const [side, room] of [
      [-d, p[k] - lo[k]],
      [d, hi[k] - p[k]],
    ]) {
      if (side === 0) {
        if (room < 0) return false;
        continue;
      }
      const t = room / side;
      if (side < 0) from = Math.max(from, t);
      else to = Math.min(to, t);
    }
  }
  return from <= to;
}
