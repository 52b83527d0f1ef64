/** Ellipses, splines and text. */
import type { XY } from "../../api/types";
import { add, dist, mid, mul, sub, unit } from "../../geometry/geometry";
import type { Snap } from "../../geometry/ties";
import { showMessage } from "../../state/store";
import type { Ghost, Typed } from "../../state/toolInHand";
import { PointsTool } from "./points";
import { Batch, perUnit, redraw, unitName } from "./tool";

const left = (v: XY): XY => [-v[1], v[0]];
const dot = (a: XY, b: XY) => a[0] * b[0] + a[1] * b[1];

/** An ellipse by its centre and the ends of its half axes; or the part of one between two more presses. */
export class EllipseTool extends PointsTool {
  readonly id: string;
  readonly label: string;
  readonly asks: string[];

  constructor(private part: boolean) {
    super();
    this.id = part ? "ellipse-arc" : "ellipse";
    this.label = part ? "Arc of an ellipse" : "Ellipse";
    const ends = part ? ["where the arc starts", "where it ends, counter-clockwise"] : [];
    this.asks = ["the centre", "one end of an axis", "how wide it is across", ...ends];
  }

  protected follow() {
    const n = this.points.length;
    if (!this.snap || n === 0 || n > 2) return;
    const k = perUnit();
    const [c, m] = [this.points[0].at, this.points[1]?.at ?? this.snap.at];
    const now = n === 1 ? dist(c, m) : this.half(c, m, this.snap.at);
    const key = n === 1 ? "first" : "second";
    const label = n === 1 ? "Half axis" : "Other half";
    this.typed = [{ key, label, text: this.written(key), now: now / k, unit: unitName() }];
  }

  private half(c: XY, m: XY, at: XY): number {
    return Math.abs(dot(left(unit(sub(m, c))), sub(at, c)));
  }

  protected pulled(at: XY): XY {
    if (this.points.length !== 1 || !this.text("first")) return at;
    const c = this.points[0].at;
    const k = perUnit();
    return add(c, mul(unit(sub(at, c)), this.value("first", dist(c, at) / k) * k));
  }

  /** Centre and ends of the half axes for the points so far. */
  private axes(at: XY[]): { c: XY; m: XY; n: XY } | null {
    const [c, m, third] = at;
    const k = perUnit();
    const b = this.value("second", this.half(c, m, third) / k) * k;
    return b > 1e-6 ? { c, m, n: add(c, mul(left(unit(sub(m, c))), b)) } : null;
  }

  /** The place of the ellipse in the direction of ``at``. */
  private rim({ c, m, n }: { c: XY; m: XY; n: XY }, at: XY): XY {
    const [d, e, w] = [sub(m, c), sub(n, c), sub(at, c)];
    const a = Math.atan2(dot(w, e) / dot(e, e), dot(w, d) / dot(d, d));
    return add(c, add(mul(d, Math.cos(a)), mul(e, Math.sin(a))));
  }

  protected shape(at: XY[]): Ghost[] {
    const axes = at.length > 2 ? this.axes(at) : null;
    if (!axes) return [{ kind: "line", p: at[0], q: at[1] ?? at[0] }];
    if (at.length < 5) return [{ kind: "ellipse", ...axes }];
    return [{ kind: "ellipse_arc", ...axes, p: this.rim(axes, at[3]), q: this.rim(axes, at[4]) }];
  }

  protected make(b: Batch, at: XY[]) {
    const axes = this.axes(at);
    if (!axes) return false;
    const ends = this.part ? { p: this.rim(axes, at[3]), q: this.rim(axes, at[4]) } : null;
    if (ends && dist(ends.p, ends.q) < 1e-6) return false;
    const id = b.entity("e", ends ? { kind: "ellipse_arc", ...axes, ...ends } : { kind: "ellipse", ...axes });
    this.hold(b, 0, `${id}.c`);
    this.hold(b, 1, `${id}.m`);
    if (!this.text("second")) this.onRim(b, 2, id);
    const d = sub(axes.m, axes.c);
    const size = dist(axes.m, axes.c);
    if (Math.abs(d[1]) < 1e-9 * size) b.tie("horizontal", [`${id}.c`, `${id}.m`], true);
    if (Math.abs(d[0]) < 1e-9 * size) b.tie("vertical", [`${id}.c`, `${id}.m`], true);
    if (ends) {
      if (dist(ends.p, at[3]) < 1e-9) this.hold(b, 3, `${id}.p`);
      if (dist(ends.q, at[4]) < 1e-9) this.hold(b, 4, `${id}.q`);
    }
    for (const [key, end] of [
      ["first", "m"],
      ["second", "n"],
    ] as const) {
      const typed = this.text(key);
      if (typed) b.size("distance", [`${id}.c`, `${id}.${end}`], typed);
    }
    return true;
  }
}

/** A spline: press its points, then Enter or press the last one again. x switches what the points are. */
export class SplineTool extends PointsTool {
  readonly id = "spline";
  readonly label = "Spline";
  private form: "through" | "control" = "through";

  get asks(): string[] {
    return Array(this.points.length + 2).fill("the next point");
  }

  hint() {
    const on =
      this.form === "through" ? "the curve passes its points" : "the points draw the curve towards them";
    const end = this.points.length > 2 ? "; Enter or the last point again ends it" : "";
    const first = this.points.length ? "the next point" : "where the spline starts";
    return `press ${first}${end} · ${on}, x switches${this.snap?.ties.length ? ` · ${this.snap.words}` : ""}`;
  }

  key(key: string): boolean {
    if (key !== "x") return false;
    this.form = this.form === "through" ? "control" : "through";
    redraw();
    return true;
  }

  click(s: Snap) {
    const last = this.points[this.points.length - 1];
    if (last && dist(last.at, s.at) < 1e-6) {
      this.enter();
      return;
    }
    super.click(s);
  }

  enter() {
    if (this.points.length < 3) return;
    const b = new Batch();
    const at = this.points.map((p) => p.at);
    const id = b.entity("s", { kind: "spline", form: this.form, points: at });
    at.forEach((_, i) => {
      this.hold(b, i, `${id}.${i === 0 ? "p" : i === at.length - 1 ? "q" : `k${i}`}`);
    });
    this.points = [];
    redraw();
    b.store();
  }

  protected shape(at: XY[]): Ghost[] {
    const apart = at.filter((p, i) => i === 0 || dist(p, at[i - 1]) > 1e-6);
    if (apart.length < 3) return apart.length > 1 ? [{ kind: "line", p: apart[0], q: apart[1] }] : [];
    const curve: Ghost = { kind: "spline", form: this.form, points: apart };
    const legs = apart.slice(1).map((q, i): Ghost => ({ kind: "line", p: apart[i], q }));
    return this.form === "control" ? [curve, ...legs] : [curve];
  }

  protected make() {
    return false; // ended by Enter, never by a count of points
  }
}

/** A line of text: its base line, then what it says. */
export class TextTool extends PointsTool {
  readonly id = "text";
  readonly label = "Text";
  readonly asks = ["where the base line starts", "where it ends"];

  hint() {
    return this.points.length ? `type the text, then press ${this.asks[1]}` : super.hint();
  }

  from(): XY | null {
    return this.points[0]?.at ?? null;
  }

  protected follow() {
    if (!this.snap || !this.points.length) return;
    const field = (key: string, label: string, now: number, unit: string): Typed => ({
      key,
      label,
      text: this.typed.find((t) => t.key === key)?.text ?? "", // as typed: a space may be on its way to more
      now,
      unit,
    });
    this.typed = [
      field("text", "Text", 0, "letters"),
      field("height", "Height", this.height(this.at()) / perUnit(), unitName()),
    ];
  }

  private words(): string {
    return this.text("text") || "TEXT";
  }

  /** About as high as its letters come out; the core knows them better. */
  private height(at: XY[]): number {
    return at.length < 2 ? 0 : dist(at[0], at[1]) / (0.92 * this.words().length);
  }

  private laid(at: XY[]) {
    const up = mul(left(unit(sub(at[1], at[0]))), this.height(at));
    const m = add(at[0], up);
    return { p: at[0], q: at[1], m, c: mid(m, at[1]) };
  }

  protected shape(at: XY[]): Ghost[] {
    return at.length < 2 || dist(at[0], at[1]) < 1e-6
      ? []
      : [{ kind: "text", text: this.words(), ...this.laid(at) }];
  }

  protected make(b: Batch, at: XY[]) {
    if (!this.text("text")) {
      showMessage("Type what the text says first: its letters go into the field beside the pointer.", "red");
      return false;
    }
    const id = b.entity("t", { kind: "text", text: this.words(), ...this.laid(at) });
    this.hold(b, 0, `${id}.p`);
    const d = sub(at[1], at[0]);
    if (Math.abs(d[1]) < 0.02 * Math.abs(d[0])) b.tie("horizontal", [id], true);
    if (Math.abs(d[0]) < 0.02 * Math.abs(d[1])) b.tie("vertical", [id], true);
    const typed = this.text("height");
    if (typed) b.size("distance", [`${id}.p`, `${id}.m`], typed);
    else if (this.points[1].ties.length) this.hold(b, 1, `${id}.q`);
    return true;
  }
}
