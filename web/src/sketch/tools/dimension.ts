import type { Dimension, Entity, XY } from "../../api/types";
import { ends } from "../../geometry/dimensionLayout";
import { dist, lineEnds, mid, onCurve, pointAt, said, sub } from "../../geometry/geometry";
import type { Snap } from "../../geometry/ties";
import { typedAs, unprefixed } from "../../geometry/typed";
import { board, type CommandDraft, useBoard } from "../../state/store";
import type { Ghost } from "../../state/toolInHand";
import { edgesToUse } from "../partEdges";
import { Batch, entitiesNow, perUnit, redraw, Tool } from "./tool";

export type Plan = Pick<Dimension, "kind" | "refs"> & {
  along?: Dimension["along"];
  supplement?: boolean;
  rim?: Dimension["rim"];
  across?: boolean;
};

const isPoint = (ref: string) => ref === "origin" || ref.includes(".") || formOf(ref) === "p";
const isRound = (ref: string) => /^[ca]$/.test(formOf(ref));
const isLine = (ref: string) => ref === "x" || ref === "y" || /^[lt]$/.test(formOf(ref));

/** The sketch's own entities, and the part's edges that are not brought in yet (z0, z1 …): both can be measured to. */
const all = (): Entity[] => [...entitiesNow(), ...edgesToUse()];

/** The letter of what a ref names as a whole; empty for a point of it. */
function formOf(ref: string): string {
  if (ref.includes(".")) return "";
  const edge = ref[0] === "z" ? edgesToUse().find((e) => e.id === ref) : null;
  return edge ? ({ line: "l", circle: "c", arc: "a", point: "p" }[edge.kind as string] ?? "") : ref[0];
}

/** What a dimension on these picks would be, given where its text is put; null if they give none. */
export function planFor(refs: string[], at: XY, entities: Entity[], rim: Dimension["rim"] = ""): Plan | null {
  if (refs.length === 1) {
    const e = entities.find((x) => x.id === refs[0]);
    if (e?.kind === "circle") return { kind: "diameter", refs };
    if (e?.kind === "arc") return { kind: "radius", refs };
    if (e?.kind === "line" || e?.kind === "text")
      return { kind: "distance", refs, along: sideways(e.p as XY, e.q as XY, at) };
    return null;
  }
  if (refs.length !== 2) return null;
  const arc = refs.find((r) => formOf(r) === "a");
  if (arc && refs.some((r) => r === `${arc}.p` || r === `${arc}.q`))
    return { kind: "arc_length", refs: [arc] };
  if (rim && refs.some(isRound)) return { kind: "distance", refs, rim };
  const picks = refs.map((r) => (isRound(r) ? `${r}.c` : r));
  const [one, two] = picks;
  if (isPoint(one) && isPoint(two)) {
    const [a, b] = [pointAt(entities, one), pointAt(entities, two)];
    return a && b ? { kind: "distance", refs: picks, along: sideways(a, b, at) } : null;
  }
  const lines = picks.map((r) => (isLine(r) ? lineEnds(entities, r) : null));
  if (lines[0] && lines[1]) {
    const [u, v] = lines.map((l) => sub(l![1], l![0]));
    const sine = Math.abs(u[0] * v[1] - u[1] * v[0]) / (Math.hypot(...u) * Math.hypot(...v));
    if (sine < 1e-4) return { kind: "distance", refs: picks };
    return { kind: "angle", refs: picks, supplement: farEnd(lines[0]!, lines[1]!, at) };
  }
  return { kind: "distance", refs: picks };
}

/** Shortest, horizontal or vertical, by where the text stands. */
function sideways(a: XY, b: XY, at: XY): Dimension["along"] {
  const [lo, hi] = [
    [Math.min(a[0], b[0]), Math.min(a[1], b[1])],
    [Math.max(a[0], b[0]), Math.max(a[1], b[1])],
  ];
  const size = dist(a, b);
  if (hi[0] - lo[0] < 1e-6 * size || hi[1] - lo[1] < 1e-6 * size) return "shortest";
  const inX = at[0] > lo[0] && at[0] < hi[0];
  const inY = at[1] > lo[1] && at[1] < hi[1];
  if (inX && !inY) return "horizontal";
  if (inY && !inX) return "vertical";
  return "shortest";
}

/** Whether the text stands in the angle between the first line and the second one's backward side. */
function farEnd(one: [XY, XY], two: [XY, XY], at: XY): boolean {
  const [u, v] = [sub(one[1], one[0]), sub(two[1], two[0])];
  const cross = u[0] * v[1] - u[1] * v[0];
  const w = sub(two[0], one[0]);
  const t = (w[0] * v[1] - w[1] * v[0]) / cross;
  const d = sub(at, [one[0][0] + t * u[0], one[0][1] + t * u[1]]);
  // coordinates of the text in the frame of the two directions
  const a = (d[0] * v[1] - d[1] * v[0]) / cross;
  const b = (u[0] * d[1] - u[1] * d[0]) / cross;
  return a * b < 0;
}

/** What a planned dimension measures now, in the document's unit or degrees: shown in its field to be typed over. */
export function measureNow(plan: Plan, entities: Entity[]): number {
  const of = (ref: string) => entities.find((e) => e.id === ref);
  if (plan.kind === "radius" || plan.kind === "diameter") {
    const e = of(plan.refs[0]);
    const r = e && (e.kind === "circle" || e.kind === "arc") ? e.r : 0;
    return ((plan.kind === "radius" ? 1 : 2) * r) / perUnit();
  }
  if (plan.kind === "angle") {
    const [u, v] = plan.refs.map((r) => lineEnds(entities, r)!).map((l) => sub(l[1], l[0]));
    const turned = Math.abs(
      (Math.atan2(u[0] * v[1] - u[1] * v[0], u[0] * v[0] + u[1] * v[1]) * 180) / Math.PI,
    );
    return plan.supplement ? 180 - turned : turned;
  }
  if (plan.kind === "arc_length") {
    const e = of(plan.refs[0]);
    if (e?.kind !== "arc") return 0;
    const turn = (at: number[]) => Math.atan2(at[1] - e.c[1], at[0] - e.c[0]);
    return (e.r * ((turn(e.q) - turn(e.p) + 4 * Math.PI) % (2 * Math.PI))) / perUnit();
  }
  if (plan.rim) {
    const found = ends({ refs: plan.refs, rim: plan.rim } as Dimension, entities);
    return found ? dist(...found) / perUnit() : 0;
  }
  const single = plan.refs.length === 1 ? lineEnds(entities, plan.refs[0]) : null;
  const points = plan.refs.map((r) => pointAt(entities, r));
  const lineRef = plan.refs.find(isLine);
  if (!single && lineRef) {
    const line = lineEnds(entities, lineRef)!;
    const other = plan.refs.find((r) => r !== lineRef)!;
    const p = pointAt(entities, other) ?? lineEnds(entities, other)![0];
    const u = sub(line[1], line[0]);
    const d = sub(p, line[0]);
    const off = Math.abs(u[0] * d[1] - u[1] * d[0]) / Math.hypot(...u) / perUnit();
    return plan.across ? 2 * off : off;
  }
  const [a, b] = single ?? [points[0]!, points[1]!];
  const d = sub(b, a);
  const size = { horizontal: Math.abs(d[0]), vertical: Math.abs(d[1]), shortest: Math.hypot(...d) }[
    plan.along ?? "shortest"
  ];
  return size / perUnit();
}

const AXES = new Set(["x", "y"]);
const NEXT = { "": "near", near: "far", far: "" } as const;
const SIDES = { "": "the centre", near: "the near side", far: "the far side" };

/** Pick one or two things, then put the text down: picking → placing → typing (in the value field). */
export class DimensionTool extends Tool {
  readonly id = "dimension";
  readonly label = "Dimension";
  refs: string[] = [];
  private rim: "" | "near" | "far" = "";
  private across = false;

  constructor(refs: string[] = []) {
    super();
    this.refs = refs;
  }

  hint() {
    if (!this.refs.length) return "press a line, circle, arc or point to dimension";
    const plan = this.snap && planFor(this.refs, this.snap.at, all(), this.rim);
    const now = this.refs.map(said).join(" and ");
    if (!plan) return `${now}: press a second thing`;
    if (this.refs.length > 1 && this.refs.some(isRound) && plan.kind === "distance")
      return `${now}: press to put the distance to ${SIDES[this.rim]} down; n switches to ${SIDES[NEXT[this.rim]]}`;
    if (this.refs.length > 1 && this.overLine())
      return `${now}: press to put the ${this.across ? "width across the centre line" : "distance"} down; w switches`;
    const axis = this.axis();
    if (axis)
      return `${now}: press to put the ${plan.kind.replace("_", " ")} down; t takes the ${said(axis)} too`;
    const more = isRound(this.refs[0]) && this.refs.length === 1 ? "; an arc's end gives its length" : "";
    return `${now}: press to put the ${plan.kind.replace("_", " ")} down, or press a second thing${more}`;
  }

  /** Whether one of the picks can be a centre line: an axis or a construction line. */
  private overLine(): boolean {
    const plan = this.plan(this.snap?.at ?? [0, 0]);
    const middle = (ref: string) =>
      ref === "x" || ref === "y" || (isLine(ref) && !!all().find((e) => e.id === ref)?.construction);
    return plan?.kind === "distance" && !plan.rim && this.refs.some(middle);
  }

  private plan(at: XY): Plan | null {
    const plan = planFor(this.refs, at, all(), this.rim);
    return plan && this.across && plan.kind === "distance" && !plan.rim ? { ...plan, across: true } : plan;
  }

  /** The axis under the pointer that a press would not take, though it could be measured to. */
  private axis(): string | null {
    const hit = board().under;
    const takes = hit && AXES.has(hit) && this.refs.length === 1 && !this.refs.includes(hit);
    return takes && this.plan([1e9, 1e9]) && this.useful(hit, all()) ? hit : null;
  }

  key(key: string): boolean {
    const axis = key === "t" ? this.axis() : null;
    if (axis) {
      this.refs = [...this.refs, axis];
      redraw();
      return true;
    }
    if (key === "w" && this.refs.length > 1 && this.overLine()) {
      this.across = !this.across;
      redraw();
      return true;
    }
    if (key !== "n" || this.refs.length < 2 || !this.refs.some(isRound)) return false;
    this.rim = NEXT[this.rim];
    redraw();
    return true;
  }

  ghosts(): Ghost[] {
    const named = [board().under ?? "", ...this.refs].map((r) => r.split(".")[0]);
    const edges = edgesToUse().filter((e) => named.includes(e.id));
    const shown: Ghost[] = edges.map((entity) => ({ kind: "strong", entity }));
    return this.snap && this.refs.length ? [...shown, { kind: "point", at: this.snap.at }] : shown;
  }

  click(s: Snap) {
    const entities = all();
    const hit = board().under;
    this.snap = s;
    // a size's text may lie on an axis: where there is a size already, the axis is taken only when that is said (t)
    const text = hit && AXES.has(hit) && this.plan(s.at) !== null;
    const adds =
      hit && !text && !this.refs.includes(hit) && this.refs.length < 2 && this.useful(hit, entities);
    if (adds) {
      this.refs = [...this.refs, hit];
      redraw();
      return;
    }
    const plan = this.plan(s.at);
    if (plan) this.place(plan, s.at);
  }

  private useful(hit: string, entities: Entity[]): boolean {
    if (!this.refs.length) return true;
    const one = this.refs[0];
    if (isRound(one) && `${one}.c` === hit) return false;
    if (one.split(".")[0] === hit.split(".")[0] && (isLine(one) || isLine(hit))) return false;
    return planFor([one, hit], this.snap?.at ?? [0, 0], entities) !== null;
  }

  private place(plan: Plan, at: XY) {
    const now = measureNow(plan, all());
    const refs = this.refs;
    const make = (expr: string, name: string): CommandDraft => {
      const b = new Batch();
      // how far apart two lines are says that they run alongside each other
      if (plan.kind === "distance" && plan.refs.length === 2 && plan.refs.every(isLine))
        alongside(b, plan.refs);
      const typed = expr.trim();
      const round = plan.kind === "radius" || plan.kind === "diameter";
      const kind = (round && typedAs(typed)) || plan.kind;
      b.size(kind, plan.refs, round ? unprefixed(typed) : typed, {
        at,
        name,
        ...(plan.along ? { along: plan.along } : {}),
        ...(plan.rim ? { rim: plan.rim } : {}),
        ...(plan.across ? { across: true } : {}),
        ...(plan.supplement ? { supplement: true } : {}),
      });
      return b.command();
    };
    this.refs = [];
    this.rim = "";
    this.across = false;
    useBoard.setState({
      field: {
        dimension: null,
        make,
        text: String(Number(now.toFixed(3))),
        at,
        kind: plan.kind.replace("_", " "),
      },
      chosen: refs,
    });
    redraw();
  }

  back() {
    if (!this.refs.length) return false;
    this.refs = this.refs.slice(0, -1);
    redraw();
    return true;
  }
}

function alongside(b: Batch, refs: string[]) {
  const axis = refs.find((r) => r === "x" || r === "y");
  const line = refs.find((r) => r !== axis)!;
  if (axis) b.tie(axis === "x" ? "horizontal" : "vertical", [line], true);
  else b.tie("parallel", refs, true);
}

export const middleOf = (e: Entity): XY =>
  e.kind === "line"
    ? mid(e.p as XY, e.q as XY)
    : e.kind === "point"
      ? (e.at as XY)
      : e.kind === "spline"
        ? onCurve(e, e.points[0] as XY)
        : (e.c as XY);
