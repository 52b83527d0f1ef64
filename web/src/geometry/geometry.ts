/** Where things are, for drawing and pointing. Sizes that count are measured by the core. */
import type { Entity, XY } from "../api/types";
import { nearestOn, roundPath, spans, walk } from "./curves";

export const add = (a: XY, b: XY): XY => [a[0] + b[0], a[1] + b[1]];
export const sub = (a: XY, b: XY): XY => [a[0] - b[0], a[1] - b[1]];
export const mul = (a: XY, k: number): XY => [a[0] * k, a[1] * k];
export const dist = (a: XY, b: XY) => Math.hypot(a[0] - b[0], a[1] - b[1]);
export const mid = (a: XY, b: XY): XY => [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2];
export const unit = (a: XY): XY => {
  const d = Math.hypot(a[0], a[1]) || 1;
  return [a[0] / d, a[1] / d];
};

/** A fixed ref, an entity's point, or null. */
export function pointAt(entities: Entity[], ref: string): XY | null {
  if (ref === "origin") return [0, 0];
  const [id, end] = ref.split(".");
  const e = entities.find((x) => x.id === id);
  if (!e) return null;
  if (e.kind === "point") return end ? null : (e.at as XY);
  if (e.kind === "line" && end === "mid") return mid(e.p as XY, e.q as XY);
  return pointRefs(e).find(([r]) => r === ref)?.[1] ?? null;
}

/** The two ends of a line or of one of the fixed axes, or null. */
export function lineEnds(entities: Entity[], ref: string): [XY, XY] | null {
  if (ref === "x")
    return [
      [0, 0],
      [1, 0],
    ];
  if (ref === "y")
    return [
      [0, 0],
      [0, 1],
    ];
  const e = entities.find((x) => x.id === ref);
  return e?.kind === "line" || e?.kind === "text" ? [e.p as XY, e.q as XY] : null;
}

const NAMED: Record<string, string> = {
  line: "pq",
  circle: "c",
  arc: "cpq",
  ellipse: "cmn",
  ellipse_arc: "cmnpq",
  text: "pqmc",
};

export function pointRefs(e: Entity): [string, XY][] {
  if (e.kind === "point") return [[e.id, e.at as XY]];
  if (e.kind === "spline") {
    const last = e.points.length - 1;
    return e.points.map((at, i) => [`${e.id}.${i === 0 ? "p" : i === last ? "q" : `k${i}`}`, at as XY]);
  }
  const named = e as unknown as Record<string, XY>;
  return [...NAMED[e.kind]].map((end) => [`${e.id}.${end}`, named[end]]);
}

/** The nearest place on a curve to ``at``. */
export function onCurve(e: Entity, at: XY): XY {
  if (e.kind === "point") return e.at as XY;
  if (e.kind === "line") {
    const [p, q] = [e.p as XY, e.q as XY];
    const d = sub(q, p);
    const t = ((at[0] - p[0]) * d[0] + (at[1] - p[1]) * d[1]) / (d[0] ** 2 + d[1] ** 2 || 1);
    return add(p, mul(d, Math.max(0, Math.min(1, t))));
  }
  if (e.kind === "spline" || e.kind === "text" || e.kind === "ellipse" || e.kind === "ellipse_arc")
    return nearestOn(walk(e, 160), at);
  const c = e.c as XY;
  const out = add(c, mul(unit(sub(at, c)), e.r));
  if (e.kind === "circle" || inSweep(e.p as XY, e.q as XY, c, out)) return out;
  return dist(at, e.p as XY) < dist(at, e.q as XY) ? (e.p as XY) : (e.q as XY);
}

export function inSweep(p: XY, q: XY, c: XY, at: XY): boolean {
  const angle = (a: XY) => Math.atan2(a[1] - c[1], a[0] - c[0]);
  const turn = (a: number) => ((a % (2 * Math.PI)) + 2 * Math.PI) % (2 * Math.PI);
  return turn(angle(at) - angle(p)) <= turn(angle(q) - angle(p));
}

/** SVG path of an entity in sketch coordinates. */
export function pathOf(e: Entity): string {
  if (e.kind === "point") return "";
  if (e.kind === "line") return `M${e.p[0]} ${e.p[1]}L${e.q[0]} ${e.q[1]}`;
  if (e.kind === "circle") {
    const [[x, y], r] = [e.c, e.r];
    return `M${x - r} ${y}A${r} ${r} 0 1 1 ${x + r} ${y}A${r} ${r} 0 1 1 ${x - r} ${y}`;
  }
  if (e.kind === "spline")
    return `M${e.points[0].join(" ")}${spans(e)
      .map((s) => `C${s.slice(1).map((p) => p.join(" "))}`)
      .join("")}`;
  if (e.kind === "text")
    return `M${walk(e)
      .map((p) => p.join(" "))
      .join("L")}`;
  if (e.kind !== "arc") return roundPath(e);
  const a = (p: XY) => Math.atan2(p[1] - e.c[1], p[0] - e.c[0]);
  const sweep = (a(e.q as XY) - a(e.p as XY) + 4 * Math.PI) % (2 * Math.PI);
  return `M${e.p[0]} ${e.p[1]}A${e.r} ${e.r} 0 ${sweep > Math.PI ? 1 : 0} 1 ${e.q[0]} ${e.q[1]}`;
}

const KIND: Record<string, string> = {
  l: "line",
  c: "circle",
  a: "arc",
  p: "point",
  e: "ellipse",
  s: "spline",
  t: "text",
  d: "dimension",
  k: "constraint",
};
const END: Record<string, string> = {
  p: "start",
  q: "end",
  c: "centre",
  m: "first axis end",
  n: "second axis end",
  mid: "middle",
};
const TEXT_END: Record<string, string> = {
  p: "left end of the base line",
  q: "right end of the base line",
  m: "top left corner",
  c: "centre",
};

/** A ref in words: l3.p → “start of line 3”. */
export function said(ref: string): string {
  if (ref === "origin") return "the origin";
  if (ref === "x") return "the horizontal axis";
  if (ref === "y") return "the vertical axis";
  const [id, end] = ref.split(".");
  if (/^z\d+$/.test(id)) return end ? `${END[end] ?? "point"} of an edge of the part` : "an edge of the part";
  const name = `${KIND[id[0]] ?? id[0]} ${id.slice(1)}`;
  if (!end) return name;
  if (end[0] === "k") return `point ${Number(end.slice(1)) + 1} of ${name}`;
  return `${(id[0] === "t" ? TEXT_END : END)[end]} of ${name}`;
}
