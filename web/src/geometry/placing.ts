/** Where texts of sizes go that nobody has put anywhere: outside the outline if there is room, over nothing else. */
import type { Dimension, Entity, XY } from "../api/types";
import type { Affine } from "./affine";
import { apply, unapply } from "./affine";
import { walk } from "./curves";
import { ends, type Layout, layout, restingPlace } from "./dimensionLayout";
import { add, dist, lineEnds, mid, mul, sub, unit } from "./geometry";

type Box = [number, number, number, number]; // left, top, right, bottom in pixels
type Piece = { a: XY; b: XY; weight: number };

const AWAY = [26, 48, 70, 96]; // pixels from what is measured, or from the outline
const TURNS = [45, 135, 225, 315, 20, 160, 200, 340, 70, 110, 250, 290];
const MOST = 700; // entities; with more the texts stand where they would alone
const OVER_TEXT = 400;
const OVER_LINE = 60;
const INSIDE = 45;
const THROUGH_TEXT = 80;
const PER_PIXEL = 0.25;

let known: { dimensions: Dimension[]; entities: Entity[]; seen: string; places: Map<string, XY> } | null =
  null;

/** The same, worked out once for a sketch as it is seen: moving the view about changes nothing. While something is
 * dragged (``held``) the texts stay where they were. */
export function textPlacesNow(
  dimensions: Dimension[],
  entities: Entity[],
  m: Affine,
  held = false,
): Map<string, XY> {
  const seen = m
    .slice(0, 4)
    .map((v) => v.toPrecision(6))
    .join();
  const same =
    known?.dimensions === dimensions && (held || (known.entities === entities && known.seen === seen));
  if (!same || !known) known = { dimensions, entities, seen, places: textPlaces(dimensions, entities, m) };
  return known.places;
}

/** Where each size's text stands, in sketch mm: where it was put, or where it is in nothing's way. */
export function textPlaces(dimensions: Dimension[], entities: Entity[], m: Affine): Map<string, XY> {
  const places = new Map<string, XY>();
  const free = dimensions.filter((d) => !d.at);
  for (const d of dimensions) if (d.at) places.set(d.id, d.at as XY);
  if (!free.length) return places;
  if (entities.length > MOST) {
    for (const d of free) places.set(d.id, restingPlace(d, entities, m));
    return places;
  }
  const pieces = entities.flatMap((e) => piecesOf(e, m));
  const drawn = pieces.filter((p) => p.weight === 1);
  const outline = around((drawn.length ? drawn : pieces).flatMap((p) => [p.a, p.b]));
  const texts: Box[] = [];
  const stand = (d: Dimension, l: Layout) => {
    texts.push(textBox(d, l));
    for (const [a, b] of l.lines) pieces.push({ a, b, weight: 0.6 });
  };
  for (const d of dimensions) {
    const l = d.at ? layout(d, entities, m) : null;
    if (l) stand(d, l);
  }
  for (const d of free) {
    const home = apply(m, d.kind === "angle" ? middleOf(d, entities) : restingPlace(d, entities, m));
    let best: XY | null = null;
    let least = Number.POSITIVE_INFINITY;
    for (const at of candidates(d, entities, m, outline)) {
      const l = layout({ ...d, at }, entities, m);
      if (!l) continue;
      const cost = costOf(d, l, pieces, texts, outline) + PER_PIXEL * dist(apply(m, at), home);
      if (cost < least) [least, best] = [cost, at];
    }
    const at = best ?? restingPlace(d, entities, m);
    places.set(d.id, at);
    const l = layout({ ...d, at }, entities, m);
    if (l) stand(d, l);
  }
  return places;
}

function piecesOf(e: Entity, m: Affine): Piece[] {
  if (e.kind === "point") return [];
  const at = (e.kind === "line" ? [e.p as XY, e.q as XY] : walk(e, 16)).map((p) => apply(m, p));
  const weight = e.construction ? 0.25 : 1;
  return at.slice(1).map((b, i) => ({ a: at[i], b, weight }));
}

function around(points: XY[]): Box {
  const [xs, ys] = [points.map((p) => p[0]), points.map((p) => p[1])];
  return [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)];
}

function textBox(d: Dimension, l: Layout): Box {
  const long = Math.max(3, Math.min(d.expr.length, 8) + (d.name ? d.name.length + 3 : 0));
  const [w, h] = [long * 8.3 + 8, 17];
  const turn = (l.turn * Math.PI) / 180;
  const [c, s] = [Math.abs(Math.cos(turn)), Math.abs(Math.sin(turn))];
  const [half, tall] = [(w * c + h * s) / 2, (w * s + h * c) / 2];
  // the text stands above the place, seen along its own direction
  const [x, y] = [l.text[0] + 5 * Math.sin(turn), l.text[1] - 5 * Math.cos(turn)];
  return [x - half, y - tall, x + half, y + tall];
}

const overlap = (a: Box, b: Box) => a[0] < b[2] && b[0] < a[2] && a[1] < b[3] && b[1] < a[3];

/** Whether a straight piece passes through a box. */
function passes(a: XY, b: XY, box: Box): boolean {
  let [from, to] = [0, 1];
  for (const i of [0, 1]) {
    const d = b[i] - a[i];
    const [low, high] = [box[i] - a[i], box[i + 2] - a[i]];
    if (Math.abs(d) < 1e-9) {
      if (low > 0 || high < 0) return false;
      continue;
    }
    from = Math.max(from, Math.min(low / d, high / d));
    to = Math.min(to, Math.max(low / d, high / d));
  }
  return from <= to;
}

function costOf(d: Dimension, l: Layout, pieces: Piece[], texts: Box[], outline: Box): number {
  const box = textBox(d, l);
  let cost = 0;
  for (const t of texts) {
    if (overlap(box, t)) cost += OVER_TEXT;
    else if (l.lines.some(([a, b]) => passes(a, b, t))) cost += THROUGH_TEXT;
  }
  let crossed = 0;
  for (const p of pieces) if (passes(p.a, p.b, box)) crossed += p.weight;
  cost += OVER_LINE * Math.min(crossed, 4);
  const [x, y] = [(box[0] + box[2]) / 2, (box[1] + box[3]) / 2];
  if (x > outline[0] && x < outline[2] && y > outline[1] && y < outline[3]) cost += INSIDE;
  return cost;
}

/** Places worth trying, in sketch mm. */
function candidates(d: Dimension, entities: Entity[], m: Affine, outline: Box): XY[] {
  const k = 1 / (Math.hypot(m[0], m[1]) || 1);
  if (d.kind === "radius" || d.kind === "diameter" || d.kind === "arc_length") {
    const e = entities.find((x) => x.id === d.refs[0]);
    if (e?.kind !== "circle" && e?.kind !== "arc") return [];
    const turns = e.kind === "circle" ? TURNS : within(e);
    return AWAY.flatMap((px) =>
      turns.map((t): XY => {
        const turn = (t * Math.PI) / 180;
        return add(e.c as XY, mul([Math.cos(turn), Math.sin(turn)], e.r + (px - 8) * k));
      }),
    );
  }
  if (d.kind === "angle") return inTheAngle(d, entities, k);
  const found = ends(d, entities);
  if (!found) return [];
  const [a, b] = found;
  const way: XY = d.along === "horizontal" ? [1, 0] : d.along === "vertical" ? [0, 1] : unit(sub(b, a));
  const normal: XY = [-way[1], way[0]];
  const middle = mid(a, b);
  const off = (p: XY) => normal[0] * p[0] + normal[1] * p[1];
  const here = [off(a), off(b)];
  const corners = [
    [outline[0], outline[1]],
    [outline[2], outline[1]],
    [outline[0], outline[3]],
    [outline[2], outline[3]],
  ]
    .map((c) => unapply(m, c as XY))
    .filter((c) => c !== null);
  const spread = [...here, ...corners.map(off)];
  const reach = [Math.min(...here), Math.max(...here), Math.min(...spread), Math.max(...spread)];
  return AWAY.flatMap((px) =>
    [reach[0] - px * k, reach[1] + px * k, reach[2] - px * k, reach[3] + px * k].map(
      (at): XY => add(middle, mul(normal, at - off(middle))),
    ),
  );
}

/** Directions over an arc's own sweep, the middle first. */
function within(e: Entity & { kind: "arc" }): number[] {
  const angle = (p: number[]) => (Math.atan2(p[1] - e.c[1], p[0] - e.c[0]) * 180) / Math.PI;
  const sweep = (angle(e.q) - angle(e.p) + 720) % 360 || 360;
  return [0.5, 0.3, 0.7, 0.15, 0.85].map((share) => angle(e.p) + sweep * share);
}

/** The middle of what an angle is measured on: the last of its two lines that is no axis. */
function middleOf(d: Dimension, entities: Entity[]): XY {
  const own = d.refs.filter((r) => r !== "x" && r !== "y");
  const line = lineEnds(entities, own[own.length - 1] ?? d.refs[0]);
  return line ? mid(...line) : [0, 0];
}

function inTheAngle(d: Dimension, entities: Entity[], k: number): XY[] {
  const [one, two] = d.refs.map((r) => lineEnds(entities, r));
  if (!one || !two) return [];
  const [u, v0] = [unit(sub(one[1], one[0])), unit(sub(two[1], two[0]))];
  const cross = u[0] * v0[1] - u[1] * v0[0];
  if (Math.abs(cross) < 1e-9) return [];
  const w = sub(two[0], one[0]);
  const apex = add(one[0], mul(u, (w[0] * v0[1] - w[1] * v0[0]) / cross));
  const v = d.supplement ? mul(v0, -1) : v0;
  const out = unit(add(u, v));
  // beyond where the lines themselves begin, which may be far from where they would meet
  const far = (l: [XY, XY]) => Math.min(dist(l[0], apex), dist(l[1], apex));
  const begin = Math.max(...d.refs.map((r, i) => (r === "x" || r === "y" ? 0 : far(i ? two : one))));
  return [36, 56, 80, 110].flatMap((px) => [
    add(apex, mul(out, begin + px * k)),
    add(apex, mul(out, -begin - px * k)),
  ]);
}
