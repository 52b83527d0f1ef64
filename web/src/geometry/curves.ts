/** Curves as places along them: for drawing and pointing. Lengths and areas are the core's. */
import type { Entity, XY } from "../api/types";

const turn = (a: number) => ((a % (2 * Math.PI)) + 2 * Math.PI) % (2 * Math.PI);

/** A cubic Bézier. */
export type Span = [XY, XY, XY, XY];

type Axes = { c: XY; d: XY; e: XY; start: number; sweep: number };

/** A circle, an ellipse or a part of one by its half axes. */
function round(e: Entity): Axes | null {
  if (e.kind === "circle") return { c: e.c as XY, d: [e.r, 0], e: [0, e.r], start: 0, sweep: 2 * Math.PI };
  if (e.kind !== "arc" && e.kind !== "ellipse" && e.kind !== "ellipse_arc") return null;
  const c = e.c as XY;
  const d: XY = e.kind === "arc" ? [e.r, 0] : [e.m[0] - c[0], e.m[1] - c[1]];
  const v: XY = e.kind === "arc" ? [0, e.r] : [e.n[0] - c[0], e.n[1] - c[1]];
  if (e.kind === "ellipse") return { c, d, e: v, start: 0, sweep: 2 * Math.PI };
  const angle = (at: number[]) => {
    const [x, y] = [at[0] - c[0], at[1] - c[1]];
    return Math.atan2(
      (x * v[0] + y * v[1]) / (v[0] ** 2 + v[1] ** 2),
      (x * d[0] + y * d[1]) / (d[0] ** 2 + d[1] ** 2),
    );
  };
  const start = angle(e.p);
  return { c, d, e: v, start, sweep: turn(angle(e.q) - start) || 2 * Math.PI };
}

/** The corners of a text's box, from the left end of its base line on. */
export function boxOf(e: Entity & { kind: "text" }): XY[] {
  const far: XY = [e.q[0] + e.m[0] - e.p[0], e.q[1] + e.m[1] - e.p[1]];
  return [e.p as XY, e.q as XY, far, e.m as XY];
}

/** Places along an entity, ``count`` steps for each of its parts. */
export function walk(e: Entity, count = 48): XY[] {
  const steps = [...Array(count + 1).keys()].map((i) => i / count);
  if (e.kind === "point") return [e.at as XY];
  if (e.kind === "line")
    return steps.map((t) => [e.p[0] + t * (e.q[0] - e.p[0]), e.p[1] + t * (e.q[1] - e.p[1])]);
  if (e.kind === "text") return [...boxOf(e), e.p as XY];
  if (e.kind === "spline")
    return spans(e).flatMap(([a, b, c, d], i) =>
      steps.slice(i ? 1 : 0).map((t): XY => {
        const w = 1 - t;
        const at = (k: number) => w ** 3 * a[k] + 3 * w * w * t * b[k] + 3 * w * t * t * c[k] + t ** 3 * d[k];
        return [at(0), at(1)];
      }),
    );
  const r = round(e)!;
  return steps.map((t) => {
    const a = r.start + r.sweep * t;
    return [0, 1].map((k) => r.c[k] + Math.cos(a) * r.d[k] + Math.sin(a) * r.e[k]) as XY;
  });
}

/** A spline as Béziers end to end: natural through its points, or clamped and even over its control points. */
export function spans(e: Entity & { kind: "spline" }): Span[] {
  const points = e.points as XY[];
  return e.form === "control" ? overControls(points) : through(points, e.knots ?? []);
}

function through(points: XY[], given: number[]): Span[] {
  const n = points.length;
  const far = (i: number) => Math.hypot(points[i + 1][0] - points[i][0], points[i + 1][1] - points[i][1]);
  const knots = given.length === n ? given : [0];
  if (knots.length < n)
    for (let i = 0; i < n - 1; i++) knots.push(knots[i] + Math.sqrt(Math.max(far(i), 1e-9)));
  const h = knots.slice(1).map((t, i) => t - knots[i]);
  // first derivatives of the natural spline: a tridiagonal system, solved by elimination
  const slopes = [0, 1].map((k) => {
    const rise = h.map((w, i) => (points[i + 1][k] - points[i][k]) / w);
    const [low, mid, high, right] = [[0], [2], [1], [3 * rise[0]]];
    for (let i = 1; i < n - 1; i++) {
      low.push(h[i]);
      mid.push(2 * (h[i - 1] + h[i]));
      high.push(h[i - 1]);
      right.push(3 * (h[i] * rise[i - 1] + h[i - 1] * rise[i]));
    }
    low.push(1);
    mid.push(2);
    right.push(3 * rise[n - 2]);
    for (let i = 1; i < n; i++) {
      const f = low[i] / mid[i - 1];
      mid[i] -= f * high[i - 1];
      right[i] -= f * right[i - 1];
    }
    const found = Array<number>(n);
    for (let i = n - 1; i >= 0; i--)
      found[i] = (right[i] - (i < n - 1 ? high[i] * found[i + 1] : 0)) / mid[i];
    return found;
  });
  return h.map((w, i) => {
    const leg = (j: number, way: number): XY =>
      [0, 1].map((k) => points[j][k] + (way * w * slopes[k][j]) / 3) as XY;
    return [points[i], leg(i, 1), leg(i + 1, -1), points[i + 1]];
  });
}

function overControls(points: XY[]): Span[] {
  if (points.length === 3) {
    const third = (a: XY, b: XY): XY => [a[0] + ((b[0] - a[0]) * 2) / 3, a[1] + ((b[1] - a[1]) * 2) / 3];
    return [[points[0], third(points[0], points[1]), third(points[2], points[1]), points[2]]];
  }
  // knots are put in until each stands three times (Boehm); what is left are Béziers
  const n = points.length;
  const inner = n - 3;
  let knots = [0, 0, 0, 0, ...[...Array(inner - 1).keys()].map((i) => (i + 1) / inner), 1, 1, 1, 1];
  let controls = points;
  for (let i = 1; i < inner; i++)
    for (let times = 0; times < 2; times++) [knots, controls] = inserted(knots, controls, i / inner);
  return [...Array(inner).keys()].map((i) => controls.slice(3 * i, 3 * i + 4) as Span);
}

function inserted(knots: number[], controls: XY[], t: number): [number[], XY[]] {
  let k = knots.length - 1;
  while (knots[k] > t) k--;
  const fresh = [...Array(controls.length + 1).keys()].map((i): XY => {
    if (i <= k - 3) return controls[i];
    if (i > k) return controls[i - 1];
    const room = knots[i + 3] - knots[i];
    const a = room > 0 ? (t - knots[i]) / room : 0;
    return [0, 1].map((c) => (1 - a) * controls[i - 1][c] + a * (controls[i] ?? controls[i - 1])[c]) as XY;
  });
  return [[...knots.slice(0, k + 1), t, ...knots.slice(k + 1)], fresh];
}

/** The nearest place of a walk to ``at``. */
export function nearestOn(places: XY[], at: XY): XY {
  let best: XY = places[0];
  let least = Infinity;
  for (let i = 1; i < places.length; i++) {
    const [p, q] = [places[i - 1], places[i]];
    const d: XY = [q[0] - p[0], q[1] - p[1]];
    const t = ((at[0] - p[0]) * d[0] + (at[1] - p[1]) * d[1]) / (d[0] ** 2 + d[1] ** 2 || 1);
    const k = Math.max(0, Math.min(1, t));
    const here: XY = [p[0] + k * d[0], p[1] + k * d[1]];
    const off = Math.hypot(here[0] - at[0], here[1] - at[1]);
    if (off < least) [best, least] = [here, off];
  }
  return best;
}

/** SVG path of an ellipse or a part of one. */
export function roundPath(e: Entity): string {
  const r = round(e);
  if (!r) return "";
  const size = `${Math.hypot(...r.d)} ${Math.hypot(...r.e)} ${(Math.atan2(r.d[1], r.d[0]) * 180) / Math.PI}`;
  const at = (t: number) => {
    const a = r.start + r.sweep * t;
    return [0, 1].map((k) => r.c[k] + Math.cos(a) * r.d[k] + Math.sin(a) * r.e[k]).join(" ");
  };
  return `M${at(0)}A${size} 0 1 ${at(0.5)}A${size} 0 1 ${at(1)}`;
}
