/** Where a line or circle being drawn would just touch a curve, or stand square on it: for inference only, the core
 * places it exactly when it is stored. */
import type { Entity, XY } from "../api/types";
import { walk } from "./curves";
import { add, dist, mul, onCurve, sub, unit } from "./geometry";
import type { Tie } from "./ties";

const SLACK = 1e-9;
const cross = (a: XY, b: XY) => a[0] * b[1] - a[1] * b[0];

const isRound = (e: Entity) => e.kind === "circle" || e.kind === "arc";
const bends = (e: Entity) => !["point", "line", "text"].includes(e.kind);

/** Places of a curve, and which way it runs there, where ``f(place, way)`` changes its sign. */
function where(e: Entity, f: (at: XY, way: XY) => number): XY[] {
  const once = walk(e, 240);
  const places = e.kind === "ellipse" ? [...once, once[1]] : once; // a closed one also where it begins
  const found: XY[] = [];
  let before: [XY, number] | null = null;
  for (let i = 1; i < places.length; i++) {
    const at = mul(add(places[i - 1], places[i]), 0.5);
    const now = f(at, unit(sub(places[i], places[i - 1])));
    if (before && before[1] * now <= 0 && Math.abs(now - before[1]) < 1)
      found.push(
        add(
          before[0],
          mul(sub(at, before[0]), Math.abs(before[1]) / (Math.abs(before[1]) + Math.abs(now) || 1)),
        ),
      );
    before = [at, now];
  }
  return found;
}

/** Those of some places on the circle an arc belongs to that lie on the arc. */
const within = (e: Entity, places: XY[]) =>
  places.filter((at) => dist(onCurve(e, at), at) < 1e-6 * (1 + dist(at, [0, 0])));

/** Where lines from a place touch a curve. */
export function touches(e: Entity, from: XY): XY[] {
  if (!bends(e)) return [];
  if (!isRound(e)) return where(e, (at, way) => cross(unit(sub(at, from)), way));
  const [c, r] = [e.c as XY, (e as Entity & { r: number }).r];
  const d = dist(c, from);
  if (d <= r * (1 + SLACK)) return [];
  const [base, turn] = [Math.atan2(from[1] - c[1], from[0] - c[0]), Math.acos(r / d)];
  return within(
    e,
    [base + turn, base - turn].map((a): XY => [c[0] + r * Math.cos(a), c[1] + r * Math.sin(a)]),
  );
}

/** Where lines of a given direction touch a curve. */
export function touchesAlong(e: Entity, way: XY): XY[] {
  if (!bends(e)) return [];
  if (!isRound(e)) return where(e, (_, u) => cross(u, way));
  const [c, r] = [e.c as XY, (e as Entity & { r: number }).r];
  return within(
    e,
    [r, -r].map((k) => add(c, mul([-way[1], way[0]], k))),
  );
}

/** Where lines from a place stand square on a circle or arc: its near and its far side. */
export function squares(e: Entity, from: XY): XY[] {
  if (!isRound(e) || dist(e.c as XY, from) < SLACK) return [];
  const [c, r] = [e.c as XY, (e as Entity & { r: number }).r];
  return within(
    e,
    [r, -r].map((k) => add(c, mul(unit(sub(from, c)), k))),
  );
}

/** Where a circle about a centre would touch a line, circle or arc. */
export function rimTouches(e: Entity, centre: XY): XY[] {
  if (e.kind === "line") {
    const u = unit(sub(e.q as XY, e.p as XY));
    const along = (centre[0] - e.p[0]) * u[0] + (centre[1] - e.p[1]) * u[1];
    return within(e, [add(e.p as XY, mul(u, along))]);
  }
  return squares(e, centre);
}

/** The nearest of some places to ``at``, and how far it is in the measure ``far``. */
export function nearestOf(places: XY[], far: (at: XY) => number): { at: XY; off: number } | null {
  let best: { at: XY; off: number } | null = null;
  for (const at of places) if (!best || far(at) < best.off) best = { at, off: far(at) };
  return best;
}

/** A line from near ``from`` on one curve to near ``at`` on another that touches both: its two ends. */
export function touchesBoth(one: Entity, other: Entity, from: XY, at: XY): [XY, XY] | null {
  let [p, q] = [from, at];
  for (let i = 0; i < 40; i++) {
    const to = nearestOf(touches(other, p), (x) => dist(x, q))?.at;
    const back = to && nearestOf(touches(one, to), (x) => dist(x, p))?.at;
    if (!to || !back) return null;
    const moved = dist(back, p) + dist(to, q);
    [p, q] = [back, to];
    if (moved < 1e-9) break;
  }
  return [p, q];
}

export const tangentTo = (ref: string): Tie => ({ of: "line", kind: "tangent", ref });
