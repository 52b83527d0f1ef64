/** Arcs as tools place them: going on tangentially, through three places. */
import type { Entity, XY } from "../../api/types";
import { add, dist, mul, sub, unit } from "../../geometry/geometry";

/** An arc counter-clockwise from p to q; ``forward`` when it was drawn that way round. */
export interface Bow {
  c: XY;
  r: number;
  p: XY;
  q: XY;
  forward: boolean;
}

const STRAIGHT = 1e-6;

/** The direction in which a line or arc leaves its end ``ref`` (outwards), or null. */
export function leaving(entities: Entity[], ref: string): XY | null {
  const [id, end] = ref.split(".");
  const e = entities.find((x) => x.id === id);
  if (!e || (end !== "p" && end !== "q")) return null;
  if (e.kind === "line") return unit(end === "q" ? sub(e.q as XY, e.p as XY) : sub(e.p as XY, e.q as XY));
  if (e.kind !== "arc") return null;
  const radial = unit(sub(e[end] as XY, e.c as XY));
  return end === "q" ? [-radial[1], radial[0]] : [radial[1], -radial[0]];
}

/** The arc that leaves ``from`` in direction ``way`` and ends at ``to``; null when that is straight on. */
export function bow(from: XY, way: XY, to: XY): Bow | null {
  const d = sub(to, from);
  const side = way[0] * d[1] - way[1] * d[0];
  const size = d[0] * d[0] + d[1] * d[1];
  if (Math.abs(side) < STRAIGHT * size || size === 0) return null;
  const r = size / (2 * side); // positive: centre on the left, counter-clockwise
  const c = add(from, mul([-way[1], way[0]], r));
  const forward = r > 0;
  return { c, r: Math.abs(r), p: forward ? from : to, q: forward ? to : from, forward };
}

/** Centre and radius of the circle through three places; null when they lie on one line. */
export function circleThrough(a: XY, b: XY, c: XY): { c: XY; r: number } | null {
  const [u, v] = [sub(b, a), sub(c, a)];
  const cross = u[0] * v[1] - u[1] * v[0];
  const size = Math.max(dist(a, b), dist(b, c), dist(a, c));
  if (Math.abs(cross) < STRAIGHT * size * size) return null;
  const [uu, vv] = [u[0] * u[0] + u[1] * u[1], v[0] * v[0] + v[1] * v[1]];
  const at: XY = add(a, [(v[1] * uu - u[1] * vv) / (2 * cross), (u[0] * vv - v[0] * uu) / (2 * cross)]);
  return { c: at, r: dist(at, a) };
}

/** The arc from ``a`` to ``b`` that passes ``through``. */
export function bowThrough(a: XY, b: XY, through: XY): Bow | null {
  const found = circleThrough(a, b, through);
  if (!found) return null;
  const d = sub(b, a);
  const w = sub(through, a);
  const forward = d[0] * w[1] - d[1] * w[0] < 0; // the place passed lies right of the way from a to b
  return { ...found, p: forward ? a : b, q: forward ? b : a, forward };
}
