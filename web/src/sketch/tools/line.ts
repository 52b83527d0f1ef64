import type { XY } from "../../api/types";
import { add, dist, mul, sub, unit } from "../geometry";
import type { Snap, Tie } from "../snap";
import { Batch, type Ghost, perUnit, redraw, Tool, unitName } from "./tool";

/** Chained lines: idle → placing → placing …; closing on the chain's first point ends it. */
export class LineTool extends Tool {
  readonly id = "line";
  readonly label = "Line";
  private start: { at: XY; ties: Tie[]; ref: string | null } | null = null;
  private first: XY | null = null;
  private busy = false;

  hint() {
    if (!this.start) return "press where the line starts";
    return `press where it ends${this.snap ? ` · ${this.snap.words}` : ""}; type a length, Tab for the angle`;
  }

  from() {
    return this.start?.at ?? null;
  }

  protected follow() {
    if (!this.start || !this.snap) return;
    const d = sub(this.snap.at, this.start.at);
    const angle = (Math.atan2(d[1], d[0]) * 180) / Math.PI;
    this.typed = [
      {
        key: "length",
        label: "Length",
        text: this.text("length"),
        now: Math.hypot(...d) / perUnit(),
        unit: unitName(),
      },
      { key: "angle", label: "Angle", text: this.text("angle"), now: angle, unit: "°" },
    ];
  }

  private end(): XY | null {
    if (!this.start || !this.snap) return null;
    const d = sub(this.snap.at, this.start.at);
    const typedAngle = Number(this.text("angle"));
    const turn =
      this.text("angle") && Number.isFinite(typedAngle)
        ? (typedAngle * Math.PI) / 180
        : Math.atan2(d[1], d[0]);
    const size = this.value("length", Math.hypot(...d) / perUnit()) * perUnit();
    return add(this.start.at, mul([Math.cos(turn), Math.sin(turn)], size));
  }

  ghosts(): Ghost[] {
    const q = this.end();
    if (!q || !this.start) return this.snap ? [{ kind: "point", at: this.snap.at }] : [];
    return [{ kind: "line", p: this.start.at, q }];
  }

  click(s: Snap) {
    if (this.busy) return;
    if (!this.start) {
      this.start = { at: s.at, ties: s.ties, ref: null };
      this.first = s.at;
      redraw();
      return;
    }
    this.snap = s;
    const q = this.end()!;
    if (dist(q, this.start.at) < 1e-6) return;
    this.place(this.start, q, s);
  }

  private async place(start: NonNullable<LineTool["start"]>, q: XY, s: Snap) {
    const b = new Batch();
    const id = b.entity("l", { kind: "line", p: start.at, q });
    if (start.ref) b.tie("coincident", [start.ref, `${id}.p`], true);
    else b.snapped(start.ties, `${id}.p`);
    const [length, angle] = [this.text("length"), this.text("angle")];
    const ties = length || angle ? s.ties.filter((t) => t.of === "line" && !angle) : s.ties;
    b.snapped(ties, `${id}.q`, id);
    const off = mul(unit([-(q[1] - start.at[1]), q[0] - start.at[0]]), 8);
    const middle = add(mul(add(start.at, q), 0.5), off);
    if (angle) {
      const a = Math.abs(Number(angle.replace("°", "")));
      if (a === 0 || a === 180) b.tie("horizontal", [id]);
      else if (a === 90 || a === 270) b.tie("vertical", [id]);
      else b.size("angle", ["x", id], angle.replace(/^-/, ""), { at: add(start.at, [14, 5]) });
    }
    if (length) b.size("distance", [id], length, { at: middle });
    this.busy = true;
    this.clearTyped();
    const done = await b.store();
    this.busy = false;
    const closed = this.first && dist(this.first, q) < 1e-6;
    this.start = done && !closed ? { at: q, ties: [], ref: `${id}.q` } : done ? null : this.start;
    redraw();
  }

  back() {
    if (!this.start) return false;
    this.start = null;
    this.clearTyped();
    redraw();
    return true;
  }
}
