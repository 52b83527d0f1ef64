/** Lays a dimension out on screen as ISO 129 draws it: extension lines, dimension line, filled arrows, text above the line. */
import type { Dimension, Entity, XY } from "../api/types";
import { type Affine, apply, unapply } from "./affine";
import { add, dist, inSweep, lineEnds, mid, mul, onCurve, pointAt, sub, unit } from "./geometry";

export interface Layout {
  lines: [XY, XY][];
  arcs: string[];
  arrows: { at: XY; angle: number }[];
  text: XY;
  turn: number; // degrees
}

const OVER = 3;
const GAP = 2.5;
const ANGLE_OF = (d: XY) => Math.atan2(d[1], d[0]);

function readable(angle: number): number {
  let a = (angle * 180) / Math.PI;
  if (a > 89.99) a -= 180;
  if (a < -90.01) a += 180;
  return a;
}

export function ends(d: Dimension, entities: Entity[]): [XY, XY] | null {
  const line = (ref: string) => lineEnds(entities, ref);
  if (d.refs.length === 1) return line(d.refs[0]);
  if (d.rim) return rims(d, entities);
  const rounds = d.refs.map((r) => entities.find((x) => x.id === r));
  const [one, two] = rounds;
  if ((one?.kind === "circle" || one?.kind === "arc") && (two?.kind === "circle" || two?.kind === "arc")) {
    // the wall between two round ones: straight out from the middle of the first
    const out = unit(one.kind === "arc" ? sub(onCurve(one, add(one.c as XY, [1, 0])), one.c as XY) : [1, 0]);
    return [add(one.c as XY, mul(out, one.r)), add(two.c as XY, mul(out, two.r))];
  }
  const points = d.refs.map((r) => pointAt(entities, r));
  if (points[0] && points[1]) return [points[0], points[1]];
  const lineRef = d.refs.find((r) => line(r));
  if (!lineRef) return null;
  const base = d.refs.length === 2 && line(d.refs[0]) && line(d.refs[1]) ? d.refs[0] : lineRef;
  const [a, b] = line(base)!;
  const other = d.refs.find((r) => r !== base)!;
  const p = pointAt(entities, other) ?? mid(...line(other)!);
  const u = unit(sub(b, a));
  const foot = add(a, mul(u, (p[0] - a[0]) * u[0] + (p[1] - a[1]) * u[1]));
  // across a centre line: from the other side, where its mirror image stands
  return [d.across ? sub(mul(foot, 2), p) : foot, p];
}

/** Where a distance to the near or far sides of circles starts and ends. */
function rims(d: Dimension, entities: Entity[]): [XY, XY] | null {
  const round = (ref: string) =>
    entities.find((x) => x.id === ref && (x.kind === "circle" || x.kind === "arc"));
  const middles = d.refs.map((r) => (round(r) ? pointAt(entities, `${r}.c`) : pointAt(entities, r)));
  const at = d.refs.findIndex((r) => round(r));
  const from = middles[at];
  if (!from) return null;
  let to = middles[1 - at];
  const straight = lineEnds(entities, d.refs[1 - at]);
  if (!to && straight) {
    const u = unit(sub(straight[1], straight[0]));
    const w = sub(from, straight[0]);
    to = add(straight[0], mul(u, w[0] * u[0] + w[1] * u[1]));
  }
  if (!to) return null;
  const way = mul(unit(sub(to, from)), d.rim === "near" ? 1 : -1);
  const reach = (ref: string) => {
    const e = round(ref);
    return e && (e.kind === "circle" || e.kind === "arc") ? e.r : 0;
  };
  return [add(from, mul(way, reach(d.refs[at]))), sub(to, mul(way, reach(d.refs[1 - at])))];
}

/** An arc's length: an arc beside it with arrows at both ends, as ISO 129 draws it. */
function curved(d: Dimension, entities: Entity[], at: XY, m: Affine): Layout | null {
  const e = entities.find((x) => x.id === d.refs[0]);
  if (e?.kind !== "arc") return null;
  const c = e.c as XY;
  const k = Math.max(dist(at, c), 0.2 * e.r) / e.r;
  const [p, q] = [e.p as XY, e.q as XY].map((end): XY => add(c, mul(sub(end, c), k)));
  const [sp, sq, sc, text] = [p, q, c, at].map((x) => apply(m, x));
  const R = dist(sp, sc);
  const turn = (end: number[]) => Math.atan2(end[1] - c[1], end[0] - c[0]);
  const large = (turn(e.q) - turn(e.p) + 4 * Math.PI) % (2 * Math.PI) > Math.PI ? 1 : 0;
  const flip = m[0] * m[3] - m[1] * m[2] < 0 ? 0 : 1; // y points up in the sketch, down on the screen
  const tangent = (s: XY, way: number) => ANGLE_OF([-(s[1] - sc[1]) * way, (s[0] - sc[0]) * way]);
  const side = flip ? 1 : -1;
  return {
    lines: [
      [apply(m, e.p as XY), sp],
      [apply(m, e.q as XY), sq],
    ],
    arcs: [`M${sp[0]} ${sp[1]}A${R} ${R} 0 ${large} ${flip} ${sq[0]} ${sq[1]}`],
    arrows: [
      { at: sp, angle: tangent(sp, -side) },
      { at: sq, angle: tangent(sq, side) },
    ],
    text: [text[0], text[1] - 5],
    turn: 0,
  };
}

/** Where the text goes when nobody has put it anywhere. */
export function restingPlace(d: Dimension, entities: Entity[], m: Affine): XY {
  if (d.at) return d.at as XY;
  const k = 26 / (Math.hypot(m[0], m[1]) || 1);
  if (d.kind === "radius" || d.kind === "diameter" || d.kind === "arc_length") {
    const e = entities.find((x) => x.id === d.refs[0]);
    if (e?.kind === "circle") return add(e.c as XY, [e.r * 0.8 + k, e.r * 0.8 + k]);
    if (e?.kind === "arc") {
      // outside the arc, over the middle of its sweep, so that the arrow meets it
      const angle = (p: number[]) => Math.atan2(p[1] - e.c[1], p[0] - e.c[0]);
      const sweep = (angle(e.q) - angle(e.p) + 4 * Math.PI) % (2 * Math.PI);
      const middle = angle(e.p) + sweep / 2;
      return add(e.c as XY, mul([Math.cos(middle), Math.sin(middle)], e.r + 1.2 * k));
    }
  }
  const e = ends(d, entities);
  if (!e) return [0, 0];
  const u = unit(sub(e[1], e[0]));
  return add(mid(...e), [u[1] * k, -u[0] * k]);
}

export function layout(d: Dimension, entities: Entity[], m: Affine): Layout | null {
  const at = restingPlace(d, entities, m);
  if (d.kind === "radius" || d.kind === "diameter") return round(d, entities, at, m);
  if (d.kind === "angle") return angular(d, entities, at, m);
  if (d.kind === "arc_length") return curved(d, entities, at, m);
  return linear(d, entities, at, m);
}

function linear(d: Dimension, entities: Entity[], at: XY, m: Affine): Layout | null {
  const found = ends(d, entities);
  if (!found) return null;
  const [a, b] = found;
  const way: XY =
    d.along === "horizontal"
      ? [1, 0]
      : d.along === "vertical"
        ? [0, 1]
        : dist(a, b) < 1e-9
          ? [1, 0]
          : unit(sub(b, a));
  const onLine = (p: XY) => add(at, mul(way, (p[0] - at[0]) * way[0] + (p[1] - at[1]) * way[1]));
  const [fa, fb] = [apply(m, onLine(a)), apply(m, onLine(b))];
  const [sa, sb] = [apply(m, a), apply(m, b)];
  const text = apply(m, at);
  const dir = unit(sub(fb, fa));
  const lines: [XY, XY][] = [];
  for (const [from, to] of [
    [sa, fa],
    [sb, fb],
  ] as [XY, XY][]) {
    if (dist(from, to) < 4) continue;
    const u = unit(sub(to, from));
    lines.push([add(from, mul(u, GAP)), add(to, mul(u, OVER))]);
  }
  const room = dist(fa, fb);
  const inside = room > 26;
  const t = (text[0] - fa[0]) * dir[0] + (text[1] - fa[1]) * dir[1];
  const reach = 16;
  const from = Math.min(0, t - reach) - (inside || t < 0 ? 0 : 10);
  const to = Math.max(room, t + reach) + (inside || t > room ? 0 : 10);
  const beyond = t < 0 || t > room || !inside;
  lines.push(beyond ? [add(fa, mul(dir, from)), add(fa, mul(dir, to))] : [fa, fb]);
  const out = ANGLE_OF(dir);
  return {
    lines,
    arcs: [],
    arrows: [
      { at: fa, angle: inside ? out + Math.PI : out },
      { at: fb, angle: inside ? out : out + Math.PI },
    ],
    text: lifted(text, readable(out)),
    turn: readable(out),
  };
}

function lifted(at: XY, turn: number): XY {
  const r = (turn * Math.PI) / 180;
  return [at[0] + 4 * Math.sin(r), at[1] - 4 * Math.cos(r)];
}

function round(d: Dimension, entities: Entity[], at: XY, m: Affine): Layout | null {
  const e = entities.find((x) => x.id === d.refs[0]);
  if (!e || (e.kind !== "circle" && e.kind !== "arc")) return null;
  const c = e.c as XY;
  const u = dist(at, c) < 1e-9 ? ([1, 0] as XY) : unit(sub(at, c));
  const near = apply(m, add(c, mul(u, e.r)));
  const far = apply(m, add(c, mul(u, -e.r)));
  const [centre, text] = [apply(m, c), apply(m, at)];
  const outside = dist(at, c) > e.r;
  const dir = ANGLE_OF(sub(near, centre));
  const lines: [XY, XY][] = [
    [d.kind === "diameter" && !outside ? far : outside ? near : centre, outside ? text : near],
  ];
  const arrows = outside
    ? [{ at: near, angle: dir + Math.PI }]
    : d.kind === "diameter"
      ? [
          { at: near, angle: dir },
          { at: far, angle: dir + Math.PI },
        ]
      : [{ at: near, angle: dir }];
  const side = text[0] >= centre[0] ? 1 : -1;
  const shelf: XY = [text[0] + side * 44, text[1]];
  if (outside) lines.push([text, shelf]);
  return {
    lines,
    arcs: e.kind === "arc" ? arrows.flatMap((a) => carriedOn(e, unapply(m, a.at), m)) : [],
    arrows,
    text: outside ? [text[0] + side * 22, text[1] - 4] : lifted(text, 0),
    turn: 0,
  };
}

/** The thin extension of an arc out to where an arrow meets its circle beside it; nothing where it lies on the arc. */
function carriedOn(e: Entity & { kind: "arc" }, to: XY | null, m: Affine): string[] {
  const c = e.c as XY;
  if (!to || inSweep(e.p as XY, e.q as XY, c, to)) return [];
  const nearest = dist(to, e.p as XY) < dist(to, e.q as XY) ? (e.p as XY) : (e.q as XY);
  const [from, end, middle] = [nearest, to, c].map((k) => apply(m, k));
  const R = dist(end, middle);
  const cross = (from[0] - middle[0]) * (end[1] - middle[1]) - (from[1] - middle[1]) * (end[0] - middle[0]);
  return [`M${from[0]} ${from[1]}A${R} ${R} 0 0 ${cross > 0 ? 1 : 0} ${end[0]} ${end[1]}`];
}

function angular(d: Dimension, entities: Entity[], at: XY, m: Affine): Layout | null {
  const line = (ref: string) => lineEnds(entities, ref);
  const [one, two] = d.refs.map(line);
  if (!one || !two) return null;
  const [u, v0] = [unit(sub(one[1], one[0])), unit(sub(two[1], two[0]))];
  const cross = u[0] * v0[1] - u[1] * v0[0];
  if (Math.abs(cross) < 1e-9) return null;
  const w = sub(two[0], one[0]);
  const apex = add(one[0], mul(u, (w[0] * v0[1] - w[1] * v0[0]) / cross));
  const v = d.supplement ? mul(v0, -1) : v0;
  const toText = sub(at, apex);
  // the angle or its vertical twin, whichever side the text stands on
  const flip = toText[0] * (u[0] + v[0]) + toText[1] * (u[1] + v[1]) < 0 ? -1 : 1;
  const r = dist(at, apex);
  const [p, q] = [add(apex, mul(u, flip * r)), add(apex, mul(v, flip * r))];
  const [sp, sq, sc, text] = [p, q, apex, at].map((k) => apply(m, k));
  const R = dist(sp, sc);
  const turn = (sp[0] - sc[0]) * (sq[1] - sc[1]) - (sp[1] - sc[1]) * (sq[0] - sc[0]) > 0 ? 1 : 0;
  const tangent = (s: XY, way: number) => ANGLE_OF([-(s[1] - sc[1]) * way, (s[0] - sc[0]) * way]);
  const lines: [XY, XY][] = [];
  for (const [l, end] of [
    [one, p],
    [two, q],
  ] as [[XY, XY], XY][]) {
    const nearest = dist(l[0], end) < dist(l[1], end) ? l[0] : l[1];
    if (dist(apply(m, nearest), apply(m, end)) > 6 && dist(nearest, apex) < r)
      lines.push([apply(m, nearest), apply(m, end)]);
  }
  return {
    lines,
    arcs: [`M${sp[0]} ${sp[1]}A${R} ${R} 0 0 ${turn} ${sq[0]} ${sq[1]}`],
    arrows: [
      { at: sp, angle: tangent(sp, turn ? -1 : 1) },
      { at: sq, angle: tangent(sq, turn ? 1 : -1) },
    ],
    text: [text[0], text[1] - 5],
    turn: 0,
  };
}
