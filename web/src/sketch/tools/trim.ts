import type { Entity, XY } from "../../api/types";
import { run } from "../../document/commands";
import { walk } from "../../geometry/curves";
import { dist, onCurve } from "../../geometry/geometry";
import { type Trace, traces } from "../../geometry/snap";
import type { Snap } from "../../geometry/ties";
import { board } from "../../state/store";
import type { Ghost } from "../../state/toolInHand";
import { entitiesNow, redraw, Tool } from "./tool";

const SAMPLES = 240;

const WORK = {
  trim: [
    "Trim",
    "point at the piece that should go, or pull across several",
    "press: the dashed piece goes; pull across several",
  ],
  extend: [
    "Extend",
    "point at a line or arc near the end that should go on",
    "press: that end goes on to the next curve",
  ],
  split: ["Split", "point at the place to cut a line or arc in two", "press: it is cut in two here"],
} as const;

/** Cutting pieces away, carrying ends on, cutting in two: press by press. What would go is shown dashed; the core
 * works out the exact crossings. */
export class TrimTool extends Tool {
  readonly id: keyof typeof WORK;
  readonly label: string;
  readonly catches = false;
  private hit: { entity: string; at: XY; points: XY[] }[] = [];
  private trail: XY[] = [];

  sweeps() {
    return this.id === "trim";
  }

  constructor(work: keyof typeof WORK) {
    super();
    this.id = work;
    this.label = WORK[work][0];
  }

  hint() {
    return WORK[this.id][this.target() ? 2 : 1];
  }

  private target(): Entity | null {
    const { under } = board();
    const e = entitiesNow().find((x) => x.id === under?.split(".")[0]);
    return e && e.kind !== "point" ? e : null;
  }

  /** Every piece the pull crosses is marked once. */
  sweep(at: XY) {
    const last = this.trail[this.trail.length - 1];
    this.trail.push(at);
    if (!last) return;
    for (const t of traces(entitiesNow())) {
      const place = crossedAt(t, last, at);
      const e = place && entitiesNow().find((x) => x.id === t.ref);
      if (!e || e.kind === "point") continue;
      const known = this.hit.some((h) => h.entity === e.id && alongside(h.points, place));
      if (!known) this.hit.push({ entity: e.id, at: place, points: piece(e, place) });
    }
    redraw();
  }

  interrupt() {
    this.hit = [];
    this.trail = [];
    redraw();
  }

  swept() {
    const [first, ...then] = this.hit.map(({ entity, at }) => ({ entity, at }));
    this.interrupt();
    if (first) run({ do: "sketch_trim", step: board().sketch!, ...first, then });
  }

  ghosts(): Ghost[] {
    if (this.trail.length)
      return [
        ...this.hit.map((h): Ghost => ({ kind: "trail", points: h.points })),
        { kind: "path", points: this.trail },
      ];
    const [e, at] = [this.target(), board().pointer];
    if (!e || !at) return [];
    if (this.id === "trim") return [{ kind: "trail", points: piece(e, at) }];
    if (this.id === "extend") return [{ kind: "trail", points: half(e, at) }];
    return [{ kind: "circle", c: onCurve(e, at), r: 5 / board().view.scale }];
  }

  click(_s: Snap) {
    const [e, at] = [this.target(), board().pointer];
    if (e && at) run({ do: `sketch_${this.id}`, step: board().sketch!, entity: e.id, at });
  }
}

/** The half of an entity towards the end nearer to ``at``. */
function half(e: Entity, at: XY): XY[] {
  const places = walk(e, SAMPLES);
  const last = dist(places[places.length - 1], at) < dist(places[0], at);
  return last ? places.slice(SAMPLES / 2) : places.slice(0, SAMPLES / 2);
}

/** Roughly the piece of an entity around ``at`` up to the next crossings either way. */
function piece(e: Entity, at: XY): XY[] {
  const places = walk(e, SAMPLES);
  const others = traces(entitiesNow()).filter((t) => t.ref !== e.id && t.ref !== "x" && t.ref !== "y");
  const near = onCurve(e, at);
  let here = 0;
  places.forEach((p, i) => {
    if (dist(p, near) < dist(places[here], near)) here = i;
  });
  const crossed = (i: number) => others.some((t) => between(t, places[i], places[i + 1]));
  const closed = e.kind === "circle" || e.kind === "ellipse";
  const wrap = (i: number) => (i + SAMPLES) % SAMPLES;
  let [from, to] = [here, here];
  while ((closed ? here - from < SAMPLES : from > 0) && !crossed(closed ? wrap(from - 1) : from - 1)) from--;
  while ((closed ? to - here < SAMPLES : to < SAMPLES) && !crossed(closed ? wrap(to) : to)) to++;
  if (closed && to - from >= SAMPLES) return places;
  const found: XY[] = [];
  for (let i = from; i <= to; i++) found.push(places[closed ? wrap(i) : i]);
  return found;
}

/** Where a short straight pull crosses a curve, if it does. */
function crossedAt(t: Trace, a: XY, b: XY): XY | null {
  if (!between(t, a, b)) return null;
  let [lo, hi] = [a, b];
  for (let i = 0; i < 30; i++) {
    const middle: XY = [(lo[0] + hi[0]) / 2, (lo[1] + hi[1]) / 2];
    if (t.off(lo)[0] > 0 === t.off(middle)[0] > 0) lo = middle;
    else hi = middle;
  }
  const at = t.nearest(lo);
  return dist(at, lo) < 1e-3 * (dist(a, b) + 1e-9) + 1e-6 ? at : null;
}

/** Whether a place lies on a piece drawn as short straight runs. */
function alongside(points: XY[], at: XY): boolean {
  const longest = points.reduce((m, p, i) => (i ? Math.max(m, dist(p, points[i - 1])) : m), 0);
  return points.some((p) => dist(p, at) <= longest);
}

function between(t: Trace, a: XY, b: XY): boolean {
  if (t.off(a)[0] > 0 === t.off(b)[0] > 0) return false;
  const middle: XY = [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2];
  return dist(t.nearest(middle), middle) <= dist(a, b);
}
