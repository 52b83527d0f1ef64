/** Tools that place one point after the other and make their shape from all of them. */
import type { XY } from "../../api/types";
import { apply } from "../../geometry/affine";
import { add, dist, mid, mul, said, sub, unit } from "../../geometry/geometry";
import type { Snap, Tie } from "../../geometry/ties";
import { affine } from "../../state/store";
import type { Ghost } from "../../state/toolInHand";
import { bow, bowThrough, circleThrough, leaving } from "./bow";
import { Batch, entitiesNow, perUnit, redraw, Tool, unitName } from "./tool";

const NEAR = 9; // px within which an arc through three is taken to go on smoothly

export interface Placed {
  at: XY;
  ties: Tie[];
  ways?: Tie[]; // what was caught of the direction it was placed in
}

/** idle → first point → … → the last point makes it. */
export abstract class PointsTool extends Tool {
  readonly standsAnywhere = true;
  protected points: Placed[] = [];
  private settled: Record<string, string> = {}; // what was typed for points that are placed
  abstract readonly asks: string[]; // what each press places

  hint() {
    const caught = this.snap?.ties.length ? ` · ${this.snap.words}` : "";
    return `press ${this.asks[this.points.length]}${caught}`;
  }

  /** The points so far and where the pointer is. */
  protected at(): XY[] {
    return [...this.points.map((p) => p.at), ...(this.snap ? [this.pulled(this.snap.at)] : [])];
  }

  /** Where the next point goes for a pointer at ``at``: typed values pull it. */
  protected pulled(at: XY): XY {
    return at;
  }

  protected abstract shape(at: XY[]): Ghost[];
  protected abstract make(b: Batch, at: XY[]): boolean;

  ghosts(): Ghost[] {
    const at = this.at();
    if (!at.length) return [];
    return this.points.length ? this.shape(at) : [{ kind: "point", at: at[0] }];
  }

  click(s: Snap) {
    this.snap = s;
    const at = this.pulled(s.at);
    const last = this.points[this.points.length - 1];
    if (last && dist(last.at, at) < 1e-6) return;
    const ties = dist(at, s.at) < 1e-9 ? s.ties.filter((t) => t.of === "point") : [];
    // a typed length pulls the point along the direction that was caught
    const same = last && dist(unit(sub(at, last.at)), unit(sub(s.at, last.at))) < 1e-9;
    const ways = same ? s.ties.filter((t) => t.of === "line") : [];
    if (this.points.length + 1 < this.asks.length) {
      this.points.push({ at, ties, ways });
      for (const t of this.typed) if (t.text) this.settled[t.key] = t.text;
      this.clearTyped();
      this.follow();
      redraw();
      return;
    }
    const all = [...this.points, { at, ties, ways }];
    const b = new Batch();
    this.points = all;
    const good = this.make(
      b,
      all.map((p) => p.at),
    );
    this.points = good ? [] : all.slice(0, -1);
    if (good) {
      this.clearTyped();
      this.settled = {};
    }
    redraw();
    if (good) b.store();
  }

  protected text(key: string): string {
    return super.text(key) || (this.settled[key] ?? "");
  }

  /** The tie a placed point brought, kept for ``ref``. */
  protected hold(b: Batch, index: number, ref: string) {
    b.snapped(this.points[index].ties, ref);
  }

  /** A placed point that caught another stays on the curve ``id``. */
  protected onRim(b: Batch, index: number, id: string) {
    for (const t of this.points[index].ties)
      if (t.kind === "coincident" && t.ref && /\.|^p\d+$|^origin$/.test(t.ref))
        b.tie("coincident", [t.ref, id], true);
  }

  /** The direction in which a placed point was caught, kept for the line ``id``. */
  protected heading(b: Batch, index: number, id: string) {
    for (const t of this.points[index].ways ?? []) b.tie(t.kind, t.ref ? [id, t.ref] : [id], true);
  }

  back() {
    if (!this.points.length) return false;
    this.points.pop();
    this.clearTyped();
    this.settled = {};
    redraw();
    return true;
  }
}

export class ThreePointArcTool extends PointsTool {
  readonly id = "three-point-arc";
  readonly label = "Arc through three";
  readonly asks = ["where the arc starts", "where it ends", "where it passes"];

  move(s: Snap) {
    super.move(this.smooth(s));
  }

  click(s: Snap) {
    super.click(this.smooth(s));
  }

  /** Where the arc passes is caught where it goes on smoothly from what its ends lie on. */
  private smooth(s: Snap): Snap {
    const m = affine();
    if (this.points.length !== 2 || s.words !== "free" || !m) return s;
    const ends = this.points.map((p) => p.at) as [XY, XY];
    let best: { at: XY; off: number; refs: string[] } | null = null;
    for (const k of [0, 1]) {
      const ref = this.points[k].ties.find((t) => /\.[pq]$/.test(t.ref ?? ""))?.ref;
      const way = ref ? leaving(entitiesNow(), ref) : null;
      const arc = way && bow(ends[k], way, ends[1 - k]);
      if (!ref || !arc) continue;
      const at = add(arc.c, mul(unit(sub(s.at, arc.c)), arc.r));
      const off = dist(apply(m, at), apply(m, s.at));
      const passed = bowThrough(ends[k], ends[1 - k], at);
      // the other way round the same circle it would turn back
      if (off > NEAR || !passed || passed.forward !== arc.forward) continue;
      const id = ref.split(".")[0];
      if (best && Math.abs(dist(best.at, arc.c) - arc.r) < 1e-6 * arc.r) best.refs.push(id);
      else if (!best || off < best.off) best = { at, off, refs: [id] };
    }
    if (!best) return s;
    return {
      at: best.at,
      ties: best.refs.map((ref) => ({ of: "point", kind: "tangent", ref })),
      words: `tangent to ${best.refs.map(said).join(" and ")}`,
    };
  }

  protected shape(at: XY[]): Ghost[] {
    const arc = at.length > 2 ? bowThrough(at[0], at[1], at[2]) : null;
    return arc ? [{ kind: "arc", ...arc }] : [{ kind: "line", p: at[0], q: at[1] ?? at[0] }];
  }

  protected make(b: Batch, at: XY[]) {
    const arc = bowThrough(at[0], at[1], at[2]);
    if (!arc) return false;
    const id = b.entity("a", { kind: "arc", c: arc.c, r: arc.r, p: arc.p, q: arc.q });
    this.hold(b, 0, `${id}.${arc.forward ? "p" : "q"}`);
    this.hold(b, 1, `${id}.${arc.forward ? "q" : "p"}`);
    this.onRim(b, 2, id);
    for (const t of this.points[2].ties)
      if (t.kind === "tangent" && t.ref) b.tie("tangent", [t.ref, id], true);
    return true;
  }
}

/** A circle over a diameter, or through three places. */
export class RimCircleTool extends PointsTool {
  readonly id: string;
  readonly label: string;
  readonly asks: string[];

  constructor(private three: boolean) {
    super();
    this.id = three ? "three-point-circle" : "two-point-circle";
    this.label = three ? "Circle through three" : "Circle over two";
    this.asks = three
      ? ["where the rim passes", "where it passes too", "where it passes as well"]
      : ["one end of a diameter", "its other end"];
  }

  private round(at: XY[]) {
    if (this.three) return at.length > 2 ? circleThrough(at[0], at[1], at[2]) : null;
    return at.length > 1 ? { c: mid(at[0], at[1]), r: dist(at[0], at[1]) / 2 } : null;
  }

  protected shape(at: XY[]): Ghost[] {
    const found = this.round(at);
    return found ? [{ kind: "circle", ...found }] : [{ kind: "line", p: at[0], q: at[1] ?? at[0] }];
  }

  protected make(b: Batch, at: XY[]) {
    const found = this.round(at);
    if (!found) return false;
    const id = b.entity("c", { kind: "circle", ...found });
    this.points.forEach((_, i) => {
      this.onRim(b, i, id);
    });
    return true;
  }
}

/** A rectangle at any angle: one side, then how far it reaches. */
export class TurnedRectangleTool extends PointsTool {
  readonly id = "turned-rectangle";
  readonly label = "Turned rectangle";
  readonly asks = ["where one side starts", "where that side ends", "how far it reaches"];

  from() {
    return this.points.length === 1 ? this.points[0].at : null;
  }

  protected follow() {
    if (!this.snap) return;
    const k = perUnit();
    if (this.points.length === 1) {
      const now = dist(this.points[0].at, this.snap.at) / k;
      this.typed = [{ key: "width", label: "Side", text: this.written("width"), now, unit: unitName() }];
    } else if (this.points.length === 2) {
      const now = Math.abs(this.reach(this.snap.at)) / k;
      this.typed = [{ key: "height", label: "Reach", text: this.written("height"), now, unit: unitName() }];
    }
  }

  private reach(at: XY): number {
    const u = unit(sub(this.points[1].at, this.points[0].at));
    const d = sub(at, this.points[0].at);
    return u[0] * d[1] - u[1] * d[0];
  }

  protected pulled(at: XY): XY {
    const k = perUnit();
    if (this.points.length === 1 && this.text("width")) {
      const [a, d] = [this.points[0].at, dist(this.points[0].at, at)];
      return add(a, mul(unit(sub(at, a)), this.value("width", d / k) * k));
    }
    return at;
  }

  private corners(at: XY[]): XY[] {
    const u = unit(sub(at[1], at[0]));
    const now = this.reach(at[2]);
    const h = Math.sign(now) * this.value("height", Math.abs(now) / perUnit()) * perUnit();
    const up = mul([-u[1], u[0]], h);
    return [at[0], at[1], add(at[1], up), add(at[0], up)];
  }

  protected shape(at: XY[]): Ghost[] {
    if (at.length < 3) return [{ kind: "line", p: at[0], q: at[1] ?? at[0] }];
    return this.corners(at).map((p, i, all) => ({ kind: "line", p, q: all[(i + 1) % 4] }));
  }

  protected make(b: Batch, at: XY[]) {
    if (Math.abs(this.reach(at[2])) < 1e-6) return false;
    const corners = this.corners(at);
    const ids = corners.map((p, i) => b.entity("l", { kind: "line", p, q: corners[(i + 1) % 4] }));
    ids.forEach((id, i) => {
      b.tie("coincident", [`${id}.q`, `${ids[(i + 1) % 4]}.p`]);
      if (i < 3) b.tie("perpendicular", [id, ids[i + 1]]);
    });
    this.hold(b, 0, `${ids[0]}.p`);
    this.hold(b, 1, `${ids[0]}.q`);
    this.heading(b, 1, ids[0]);
    if (!this.text("height")) this.onRim(b, 2, ids[2]);
    if (this.text("width")) b.size("distance", [ids[0]], this.text("width"));
    if (this.text("height")) b.size("distance", [ids[1]], this.text("height"));
    return true;
  }
}
