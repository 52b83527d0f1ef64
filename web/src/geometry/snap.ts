/** What a click would catch: points, middles, curves, and the directions a drafter means. Shown before the click. */
import type { Entity, XY } from "../api/types";
import { type Affine, apply, unapply } from "./affine";
import { nearestOn, walk } from "./curves";
import { add, dist, mid, mul, onCurve, pointRefs, said, sub, unit } from "./geometry";
import { nearby } from "./nearby";
import { nearestOf, squares, tangentTo, touches, touchesAlong, touchesBoth } from "./tangency";
import type { Lead, Snap, Tie } from "./ties";

const POINT = 9;
const CURVE = 7;
const ALIGN = 6;
const SLIDE = 14; // how far the start of a line slides along its curve
const REACH = 24; // nothing farther from the pointer can be caught by its place

interface Options {
  entities: Entity[];
  near: Entity[]; // those of them near the pointer
  m: Affine;
  from: XY | null; // where the line being drawn starts
  held: boolean; // inference held off
  lead?: Lead | null;
  straight?: boolean; // a line is being drawn: it may touch curves, or stand square on them
  rim?: string | null; // the curve the line's start lies on and can slide along
  without?: string[];
  touched?: string[]; // points the pointer has passed over: what is drawn can be lined up with them
}

export function snap(screen: XY, asked: Omit<Options, "near">): Snap | null {
  const raw = unapply(asked.m, screen);
  if (!raw) return null;
  if (asked.held) return { at: raw, ties: [], words: "free" };
  const o: Options = { ...asked, near: nearby(asked.entities, screen, asked.m, REACH) };
  const found = caught(screen, raw, o);
  return o.straight && o.from && !found.start ? leavingRim(found, o) : found;
}

function caught(screen: XY, raw: XY, o: Options): Snap {
  const near = nearPoint(screen, o);
  if (near) {
    const direction = o.from ? levelOf(o.from, near.at, 1e-9) : null;
    return direction
      ? { ...near, ties: [...near.ties, direction], words: `${near.words}, ${direction.kind}` }
      : near;
  }
  const touched = o.straight && o.from ? touching(screen, o.from, o) : null;
  if (touched) return touched;
  const direction = o.from ? directionOf(raw, o.from, o) : null;
  const meeting = direction ? null : nearMeeting(screen, raw, o);
  if (meeting) return meeting;
  const guided = direction ? direction.at : raw;
  const curve = nearCurve(apply(o.m, guided), o, direction ? { from: o.from!, to: guided } : null);
  if (curve) {
    return {
      at: curve.at,
      ties: [...curve.ties, ...(direction ? [direction.tie] : [])],
      words: [curve.words, direction?.words].filter(Boolean).join(", "),
    };
  }
  const lined = linedUp(raw, o, direction);
  if (lined) return lined;
  if (direction) return { at: direction.at, ties: [direction.tie], words: direction.words };
  return { at: raw, ties: [], words: "free" };
}

/** Where the line would touch a curve near the pointer, the one it starts on too if its start can slide there; or where
 * it would stand square on a circle. */
function touching(screen: XY, from: XY, o: Options): Snap | null {
  const off = (at: XY) => dist(apply(o.m, at), screen);
  const here = unapply(o.m, screen)!;
  const rim = o.entities.find((e) => e.id === o.rim);
  let best: { snap: Snap; off: number } | null = null;
  const offer = (found: Snap, far: number) => {
    if (far < POINT && (!best || far < best.off)) best = { snap: found, off: far };
  };
  for (const e of o.near) {
    if (e.id === o.rim || o.without?.includes(e.id) || off(onCurve(e, here)) > POINT) continue;
    const on: Tie = { of: "point", kind: "coincident", ref: e.id };
    const both = rim && touchesBoth(rim, e, from, here);
    if (both && dist(apply(o.m, both[0]), apply(o.m, from)) < SLIDE)
      offer(
        {
          at: both[1],
          start: both[0],
          ties: [on, tangentTo(e.id), tangentTo(rim.id)],
          words: `tangent to ${said(rim.id)} and ${said(e.id)}`,
        },
        off(both[1]),
      );
    const touch = nearestOf(touches(e, from), off);
    if (touch)
      offer({ at: touch.at, ties: [on, tangentTo(e.id)], words: `tangent to ${said(e.id)}` }, touch.off);
    const square = nearestOf(squares(e, from), off);
    const through: Tie = { of: "line", kind: "coincident", ref: `${e.id}.c` };
    if (square)
      offer({ at: square.at, ties: [on, through], words: `square to ${said(e.id)}` }, square.off + 3);
  }
  return (best as { snap: Snap } | null)?.snap ?? null;
}

/** What is caught, with the line's start slid along its curve to where the line touches that, if that is near. */
function leavingRim(found: Snap, o: Options): Snap {
  const rim = o.entities.find((e) => e.id === o.rim);
  const from = o.from!;
  if (!rim || dist(apply(o.m, found.at), apply(o.m, from)) < 3 * SLIDE) return found;
  const held = found.ties.some((t) => t.of === "line");
  const way = unit(sub(found.at, from));
  const far = (at: XY) => dist(apply(o.m, at), apply(o.m, from));
  const touch = nearestOf(held ? touchesAlong(rim, way) : touches(rim, found.at), far);
  if (!touch || touch.off > SLIDE) return found;
  // along a direction that is held the whole line moves over, unless its end is caught by something
  const bound = found.ties.some((t) => t.of === "point");
  if (held && bound) return found;
  return {
    ...found,
    at: held ? add(found.at, sub(touch.at, from)) : found.at,
    start: touch.at,
    ties: [...found.ties, tangentTo(rim.id)],
    words:
      found.words === "free" ? `tangent to ${said(rim.id)}` : `${found.words}, tangent to ${said(rim.id)}`,
  };
}

/** In line with touched points, across or up and down; along a direction that is held, where that crosses it. */
function linedUp(raw: XY, o: Options, direction: { at: XY; tie: Tie; words: string } | null): Snap | null {
  const there = apply(o.m, direction?.at ?? raw);
  const way = direction && o.from ? unit(sub(direction.at, o.from)) : null;
  let best: { snap: Snap; off: number } | null = null;
  const level: { ref: string; p: XY; axis: 0 | 1; off: number }[] = [];
  for (const ref of o.touched ?? []) {
    const p = ref === "origin" ? ([0, 0] as XY) : placeOf(o.entities, ref);
    if (!p || (o.from && dist(p, o.from) < 1e-9)) continue;
    for (const axis of [0, 1] as const) {
      let at: XY = axis === 0 ? [p[0], raw[1]] : [raw[0], p[1]];
      if (way && o.from) {
        if (Math.abs(way[axis]) < 1e-6) continue; // it runs the same way: never in line, or always
        at = add(o.from, mul(way, (p[axis] - o.from[axis]) / way[axis]));
      }
      const off = dist(apply(o.m, at), there);
      if (off >= ALIGN || dist(apply(o.m, at), apply(o.m, p)) < 12) continue;
      level.push({ ref, p, axis, off });
      if (best && off >= best.off) continue;
      const lined: Tie = { of: "point", kind: axis === 0 ? "vertical" : "horizontal", ref };
      const words = `in line with ${said(ref)}`;
      best = {
        off,
        snap: direction
          ? { at, ties: [direction.tie, lined], words: `${direction.words}, ${words}`, guides: [[p, at]] }
          : { at, ties: [lined], words, guides: [[p, at]] },
      };
    }
  }
  const [up, across] = [0, 1].map(
    (axis) => level.filter((l) => l.axis === axis).sort((a, b) => a.off - b.off)[0],
  );
  if (direction || !up || !across || up.ref === across.ref) return best?.snap ?? null;
  const at: XY = [up.p[0], across.p[1]];
  return {
    at,
    ties: [
      { of: "point", kind: "vertical", ref: up.ref },
      { of: "point", kind: "horizontal", ref: across.ref },
    ],
    words: `in line with ${said(up.ref)} and ${said(across.ref)}`,
    guides: [
      [up.p, at],
      [across.p, at],
    ],
  };
}

function placeOf(entities: Entity[], ref: string): XY | null {
  const id = ref.split(".")[0];
  const e = entities.find((x) => x.id === id);
  return (e && pointRefs(e).find(([r]) => r === ref)?.[1]) ?? null;
}

/** An edge of the part that lies before or behind the sketch's plane must be pointed at more closely. */
function far(ref: string, o: Options): number {
  if (ref[0] !== "z") return 1;
  const edge = o.entities.find((e) => e.id === ref.split(".")[0]);
  return Math.abs(edge?.lift ?? 0) > 1e-6 ? 2 : 1;
}

function nearPoint(screen: XY, o: Options): Snap | null {
  let best: Snap | null = null;
  let least = POINT;
  const offer = (ref: string, at: XY, kind: Tie["kind"], words: string, reach: number) => {
    const d = dist(apply(o.m, at), screen) * far(ref, o);
    if (d < Math.min(least, reach) && !o.without?.includes(ref)) {
      least = d;
      best = { at, ties: [{ of: "point", kind, ref }], words };
    }
  };
  // of those in one place the first is meant: the sketch's own points, then the origin, then the part's (z1, z2 …)
  const points = (own: boolean) => {
    for (const e of o.near)
      if (e.id.startsWith("z") !== own)
        for (const [ref, at] of pointRefs(e)) offer(ref, at, "coincident", said(ref), POINT);
  };
  points(true);
  offer("origin", [0, 0], "coincident", "the origin", POINT);
  points(false);
  for (const e of o.near)
    if (e.kind === "line")
      offer(e.id, mid(e.p as XY, e.q as XY), "midpoint", `middle of ${said(e.id)}`, POINT - 1);
  return best;
}

function levelOf(from: XY, at: XY, slack: number): Tie | null {
  if (dist(from, at) < 1e-9) return null;
  if (Math.abs(at[1] - from[1]) <= slack) return { of: "line", kind: "horizontal", ref: null };
  if (Math.abs(at[0] - from[0]) <= slack) return { of: "line", kind: "vertical", ref: null };
  return null;
}

function directionOf(raw: XY, from: XY, o: Options): { at: XY; tie: Tie; words: string } | null {
  const there = apply(o.m, raw);
  if (dist(there, apply(o.m, from)) < 12) return null;
  let best: { at: XY; tie: Tie; words: string } | null = null;
  let least = ALIGN;
  // of those equally near the first that is offered is meant
  const offer = (at: XY, kind: Tie["kind"], ref: string | null) => {
    const off = dist(apply(o.m, at), there);
    if (off >= least) return;
    least = off;
    best = { at, tie: { of: "line", kind, ref }, words: ref ? `${kind} to ${said(ref)}` : kind };
  };
  const d = sub(raw, from);
  const ahead = o.lead ? d[0] * o.lead.way[0] + d[1] * o.lead.way[1] : 0;
  if (o.lead && ahead > 0) offer(add(from, mul(o.lead.way, ahead)), "tangent", o.lead.ref);
  offer([raw[0], from[1]], "horizontal", null);
  offer([from[0], raw[1]], "vertical", null);
  for (const e of o.entities) {
    if (e.kind !== "line") continue;
    const u = unit(sub(e.q as XY, e.p as XY));
    if (Math.abs(u[0]) < 1e-6 || Math.abs(u[1]) < 1e-6) continue;
    for (const [kind, w] of [
      ["parallel", u],
      ["perpendicular", [-u[1], u[0]] as XY],
    ] as const) {
      offer(add(from, mul(w, d[0] * w[0] + d[1] * w[1])), kind, e.id);
    }
  }
  return best;
}

function nearCurve(screen: XY, o: Options, ray: { from: XY; to: XY } | null): Snap | null {
  let best: Snap | null = null;
  let least = CURVE;
  const here = unapply(o.m, screen);
  if (!here) return null;
  const offer = (ref: string, at: XY) => {
    const d = dist(apply(o.m, at), screen) * far(ref, o);
    if (d < least && !o.without?.includes(ref)) {
      least = d;
      best = { at, ties: [{ of: "point", kind: "coincident", ref }], words: `on ${said(ref)}` };
    }
  };
  for (const e of o.near) {
    if (e.kind === "point") continue;
    const at = onCurve(e, here);
    offer(e.id, (ray && e.kind === "line" && crossing(ray, e.p as XY, e.q as XY)) || at);
  }
  offer("x", ray ? (crossing(ray, [-1, 0], [1, 0], true) ?? [here[0], 0]) : [here[0], 0]);
  offer("y", ray ? (crossing(ray, [0, -1], [0, 1], true) ?? [0, here[1]]) : [0, here[1]]);
  return best;
}

export interface Trace {
  ref: string;
  /** Signed distance from the curve carried on beyond its ends, and its gradient. */
  off: (p: XY) => [number, XY];
  nearest: (p: XY) => XY;
}

/** All curves and the axes as traces. */
export function traces(entities: Entity[]): Trace[] {
  const straight = (ref: string, p: XY, q: XY, nearest: (at: XY) => XY): Trace => {
    const n: XY = [-unit(sub(q, p))[1], unit(sub(q, p))[0]];
    return { ref, off: (at) => [n[0] * (at[0] - p[0]) + n[1] * (at[1] - p[1]), n], nearest };
  };
  const found = [
    straight("x", [0, 0], [1, 0], (at) => [at[0], 0]),
    straight("y", [0, 0], [0, 1], (at) => [0, at[1]]),
  ];
  for (const e of entities) {
    if (e.kind === "point") continue;
    const nearest = (at: XY) => onCurve(e, at);
    if (e.kind === "line") found.push(straight(e.id, e.p as XY, e.q as XY, nearest));
    else if (e.kind !== "circle" && e.kind !== "arc") found.push(bent(e, nearest));
    else
      found.push({
        ref: e.id,
        off: (at) => {
          const d = sub(at, e.c as XY);
          return [Math.hypot(d[0], d[1]) - e.r, unit(d)];
        },
        nearest,
      });
  }
  return found;
}

/** A curve of any other kind, by its places: signed by the side of its nearest piece. */
function bent(e: Entity, nearest: (at: XY) => XY): Trace {
  const places = walk(e, 160);
  return {
    ref: e.id,
    nearest,
    off: (at) => {
      const here = nearestOn(places, at);
      let k = 1;
      while (k < places.length - 1 && dist(nearestOn(places.slice(k - 1, k + 1), here), here) > 1e-9) k++;
      const u = unit(sub(places[k], places[k - 1]));
      const n: XY = [-u[1], u[0]];
      return [n[0] * (at[0] - here[0]) + n[1] * (at[1] - here[1]), n];
    },
  };
}

/** Where two curves near the pointer meet: both are tied at once. */
function nearMeeting(screen: XY, here: XY, o: Options): Snap | null {
  const close = traces(o.near).filter(
    (t) => !o.without?.includes(t.ref) && dist(apply(o.m, t.nearest(here)), screen) < POINT,
  );
  for (let i = 0; i < close.length; i++)
    for (let j = i + 1; j < close.length; j++) {
      const at = meeting(close[i], close[j], here);
      if (!at || dist(apply(o.m, at), screen) > POINT) continue;
      const refs = [close[i].ref, close[j].ref];
      return {
        at,
        ties: refs.map((ref) => ({ of: "point", kind: "coincident", ref })),
        words: `where ${said(refs[0])} and ${said(refs[1])} meet`,
      };
    }
  return null;
}

/** Newton's iteration from ``at``; null when the curves do not cross there. */
function meeting(a: Trace, b: Trace, at: XY): XY | null {
  let p = at;
  for (let i = 0; i < 12; i++) {
    const [[f, u], [g, v]] = [a.off(p), b.off(p)];
    const det = u[0] * v[1] - u[1] * v[0];
    if (Math.abs(det) < 0.05) return null; // they touch or run side by side: nothing to be caught
    p = [p[0] - (f * v[1] - g * u[1]) / det, p[1] - (g * u[0] - f * v[0]) / det];
  }
  const there = Math.abs(a.off(p)[0]) + Math.abs(b.off(p)[0]);
  if (!(there < 1e-9 * (1 + Math.hypot(p[0], p[1])))) return null;
  const within = (t: Trace) => dist(t.nearest(p), p) < 1e-6 * (1 + Math.hypot(p[0], p[1]));
  return within(a) && within(b) ? p : null;
}

/** Where the line being drawn crosses another. */
function crossing(ray: { from: XY; to: XY }, p: XY, q: XY, endless = false): XY | null {
  const [u, v] = [sub(ray.to, ray.from), sub(q, p)];
  const cross = u[0] * v[1] - u[1] * v[0];
  if (Math.abs(cross) < 1e-9) return null;
  const w = sub(p, ray.from);
  const s = (w[0] * u[1] - w[1] * u[0]) / cross;
  if (!endless && (s < -0.01 || s > 1.01)) return null;
  return add(p, mul(v, s));
}

/** Whether a place lies in the box of a text. */
function within(e: Entity & { kind: "text" }, at: XY): boolean {
  const [u, v, d] = [sub(e.q as XY, e.p as XY), sub(e.m as XY, e.p as XY), sub(at, e.p as XY)];
  const det = u[0] * v[1] - u[1] * v[0];
  const [s, t] = [(d[0] * v[1] - d[1] * v[0]) / det, (u[0] * d[1] - u[1] * d[0]) / det];
  return s >= 0 && s <= 1 && t >= 0 && t <= 1;
}

/** Everything under the pointer, for picking, the likeliest first: points before curves before axes. */
export function allUnder(screen: XY, all: Entity[], m: Affine): string[] {
  const entities = nearby(all, screen, m, REACH);
  const near = (found: [string, XY][], reach: number) =>
    found
      .map(([ref, at]): [string, number] => [ref, dist(apply(m, at), screen)])
      .filter(([, d]) => d < reach)
      .sort((a, b) => a[1] - b[1])
      .map(([ref]) => ref);
  const here = unapply(m, screen);
  const points = near([...entities.flatMap((e) => pointRefs(e)), ["origin", [0, 0]]], 8);
  if (!here) return points;
  const curves = entities
    .filter((e) => e.kind !== "point")
    .map((e): [string, XY] => [e.id, onCurve(e, here)]);
  const axes: [string, XY][] = [
    ["x", [here[0], 0]],
    ["y", [0, here[1]]],
  ];
  // a text is pressed anywhere on its letters
  const texts = entities.flatMap((e) => (here && e.kind === "text" && within(e, here) ? [e.id] : []));
  // a line is meant before its middle; Tab goes on to that
  const middles = entities.flatMap((e): [string, XY][] =>
    e.kind === "line" ? [[`${e.id}.mid`, mid(e.p as XY, e.q as XY)]] : [],
  );
  return [...points, ...near(curves, 7), ...texts, ...near(middles, 6), ...near(axes, 5)];
}
