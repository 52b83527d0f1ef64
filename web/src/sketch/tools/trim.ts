import type { Entity, XY } from "../../api/types";
import { run } from "../../board/change";
import { board } from "../../board/store";
import { dist, onCurve } from "../geometry";
import { type Snap, type Trace, traces } from "../snap";
import { entitiesNow, type Ghost, Tool } from "./tool";

const SAMPLES = 240;

const WORK = {
  trim: ["Trim", "point at the piece that should go", "press: the dashed piece goes"],
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

  ghosts(): Ghost[] {
    const [e, at] = [this.target(), board().pointer];
    if (!e || !at) return [];
    if (this.id === "trim") return [{ kind: "trail", points: piece(e, at) }];
    if (this.id === "extend") return [{ kind: "trail", points: half(e, at) }];
    return [{ kind: "circle", c: onCurve(e, at), r: 5 / board().view.scale }];
  }

  click(_s: Snap) {
    const [e, at] = [this.target(), board().pointer];
    if (e && at) run({ do: `sketch_${this.id}`, step: board().sketch, entity: e.id, at });
  }
}

/** The half of an entity towards the end nearer to ``at``. */
function half(e: Entity, at: XY): XY[] {
  const places = samples(e);
  const last = dist(places[places.length - 1], at) < dist(places[0], at);
  return last ? places.slice(SAMPLES / 2) : places.slice(0, SAMPLES / 2);
}

function samples(e: Entity): XY[] {
  const steps = [...Array(SAMPLES + 1).keys()].map((i) => i / SAMPLES);
  if (e.kind === "point") return [];
  if (e.kind === "line")
    return steps.map((t) => [e.p[0] + t * (e.q[0] - e.p[0]), e.p[1] + t * (e.q[1] - e.p[1])]);
  const angle = (p: number[]) => Math.atan2(p[1] - e.c[1], p[0] - e.c[0]);
  const start = e.kind === "arc" ? angle(e.p) : 0;
  const sweep = e.kind === "arc" ? (angle(e.q) - start + 4 * Math.PI) % (2 * Math.PI) : 2 * Math.PI;
  return steps.map((t) => [
    e.c[0] + e.r * Math.cos(start + sweep * t),
    e.c[1] + e.r * Math.sin(start + sweep * t),
  ]);
}

/** Roughly the piece of an entity around ``at`` up to the next crossings either way. */
function piece(e: Entity, at: XY): XY[] {
  const places = samples(e);
  const others = traces(entitiesNow()).filter((t) => t.ref !== e.id && t.ref !== "x" && t.ref !== "y");
  const near = onCurve(e, at);
  let here = 0;
  places.forEach((p, i) => {
    if (dist(p, near) < dist(places[here], near)) here = i;
  });
  const crossed = (i: number) => others.some((t) => between(t, places[i], places[i + 1]));
  const closed = e.kind === "circle";
  const wrap = (i: number) => (i + SAMPLES) % SAMPLES;
  let [from, to] = [here, here];
  while ((closed ? here - from < SAMPLES : from > 0) && !crossed(closed ? wrap(from - 1) : from - 1)) from--;
  while ((closed ? to - here < SAMPLES : to < SAMPLES) && !crossed(closed ? wrap(to) : to)) to++;
  if (closed && to - from >= SAMPLES) return places;
  const found: XY[] = [];
  for (let i = from; i <= to; i++) found.push(places[closed ? wrap(i) : i]);
  return found;
}

function between(t: Trace, a: XY, b: XY): boolean {
  if (t.off(a)[0] > 0 === t.off(b)[0] > 0) return false;
  const middle: XY = [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2];
  return dist(t.nearest(middle), middle) <= dist(a, b);
}
