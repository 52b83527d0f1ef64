/** Copies in rows and round a centre, laid out with the pointer and typed values. */
import type { XY } from "../../api/types";
import { add, dist, mul, sub } from "../../geometry/geometry";
import type { Snap } from "../../geometry/ties";
import { showMessage } from "../../state/store";
import type { Ghost } from "../../state/toolInHand";
import { CarryTool, carried, field, turned } from "./copying";
import { perUnit, redraw, unitName } from "./tool";

/** Copies in rows: start → the first copy, and with x → the first copy of a second direction. */
export class RowsTool extends CarryTool {
  private both = false;

  constructor(ids: string[]) {
    super("rows", "Pattern in rows", ids);
  }

  get asks(): string[] {
    const first = ["a point of it to start from", "where the first copy of it goes"];
    return this.both ? [...first, "where the first copy of the second row goes"] : first;
  }

  hint() {
    const more = this.points.length === 1 ? (this.both ? "; x for one row" : "; x for rows both ways") : "";
    return super.hint() + more;
  }

  key(key: string): boolean {
    if (key !== "x" || this.points.length !== 1) return false;
    this.both = !this.both;
    redraw();
    return true;
  }

  from() {
    return this.points[0]?.at ?? null;
  }

  protected follow() {
    if (!this.snap || !this.points.length) return;
    const n = this.points.length;
    const now = dist(this.snap.at, this.points[0].at) / perUnit();
    this.typed = [
      field(`count${n}`, n > 1 ? "Rows" : "Count", this.raw(`count${n}`), 3, ""),
      field(`step${n}`, "Apart", this.raw(`step${n}`), now, unitName()),
      field(`angle${n}`, "Angle", this.raw(`angle${n}`), this.bearing(this.snap.at), "°"),
    ];
  }

  protected pulled(at: XY): XY {
    const n = this.points.length;
    if (!n || !(this.raw(`step${n}`) || this.raw(`angle${n}`))) return at;
    const from = this.points[0].at;
    const turn = (this.number(`angle${n}`, this.bearing(at)) * Math.PI) / 180;
    const far = this.number(`step${n}`, (dist(from, at) || 1) / perUnit()) * perUnit();
    return add(from, mul([Math.cos(turn), Math.sin(turn)], far));
  }

  /** The direction from where the rows start, in degrees from the horizontal axis. */
  private bearing(at: XY): number {
    const d = sub(at, this.points[0].at);
    return (Math.atan2(d[1], d[0]) * 180) / Math.PI;
  }

  private count(n: number): number {
    return Math.max(1, Math.min(60, Math.round(Number(this.text(`count${n}`)) || 3)));
  }

  protected shape(at: XY[]): Ghost[] {
    if (at.length < 2) return [];
    const [u, v] = [sub(at[1], at[0]), at[2] ? sub(at[2], at[0]) : ([0, 0] as XY)];
    const things = this.things();
    const found: Ghost[] = [{ kind: "line", p: at[0], q: at[1] }];
    if (at[2]) found.push({ kind: "line", p: at[0], q: at[2] });
    for (let j = 0; j < (at[2] ? this.count(2) : 1); j++)
      for (let i = 0; i < this.count(1); i++)
        if (i || j) found.push(...carried(things, (p) => add(p, add(mul(u, i), mul(v, j)))));
    return found;
  }

  click(s: Snap) {
    if (this.points.length + 1 < this.asks.length) {
      super.click(s);
      return;
    }
    const all = [...this.points.map((p) => p.at), this.pulled(s.at)];
    const along = all.slice(1).map((_, i) => i + 1);
    this.finish({
      do: "sketch_pattern",
      ids: this.ids,
      start: all[0],
      ends: all.slice(1),
      counts: along.map((n) => this.text(`count${n}`) || "3"),
      spacings: along.map((n) => this.text(`step${n}`)),
      angles: along.map((n) => this.text(`angle${n}`)),
    });
  }
}

/** Copies round a point: press the centre, then Enter or press again. */
export class RingTool extends CarryTool {
  private centre: string | null = null;
  readonly asks = ["the point to go round", "once more, or Enter, when the count is right"];

  constructor(ids: string[]) {
    super("ring", "Pattern round a point", ids);
  }

  protected follow() {
    if (!this.points.length) return;
    this.typed = [
      field("count", "Count", this.raw("count"), 6, ""),
      field("angle", "Angle", this.raw("angle"), 360 / this.count(), "°"),
    ];
  }

  private count(): number {
    return Math.max(1, Math.min(200, Math.round(this.number("count", 6))));
  }

  protected shape(at: XY[]): Ghost[] {
    const each = this.number("angle", 360 / this.count());
    const things = this.things();
    return Array.from({ length: this.count() - 1 }, (_, i) =>
      carried(things, turned(at[0], each * (i + 1))),
    ).flat();
  }

  click(s: Snap) {
    if (this.centre) {
      this.enter();
      return;
    }
    const ref = s.ties.find(
      (t) => t.of === "point" && t.kind === "coincident" && /\.|^p\d|^origin$/.test(t.ref ?? ""),
    )?.ref;
    if (!ref) {
      showMessage("A pattern goes round a point: press the origin, a centre or an end of something.", "red");
      return;
    }
    this.centre = ref;
    super.click(s);
  }

  enter() {
    if (!this.centre) return;
    const counts = [this.raw("count").trim() || "6"];
    this.finish({
      do: "sketch_pattern",
      ids: this.ids,
      counts,
      about: this.centre,
      angle: this.raw("angle").trim(),
    });
  }

  back() {
    this.centre = null;
    return super.back();
  }
}
