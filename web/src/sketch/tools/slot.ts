import type { XY } from "../../api/types";
import { add, dist, mul, sub, unit } from "../../geometry/geometry";
import type { Ghost, Typed } from "../../state/toolInHand";
import { PointsTool } from "./points";
import { type Batch, perUnit, redraw, unitName } from "./tool";

/** A straight slot: the centres of its two ends, then its width. The length typed is between the centres,
 * or over all (x switches). */
export class SlotTool extends PointsTool {
  readonly id = "slot";
  readonly label = "Slot";
  readonly asks = ["the centre of one end", "the centre of the other end", "how wide it is"];
  private overall = false;

  from() {
    return this.points.length === 1 ? this.points[0].at : null;
  }

  hint() {
    const more = this.points.length === 1 ? "; x switches between centre distance and overall length" : "";
    return super.hint() + more;
  }

  key(key: string): boolean {
    if (key !== "x" || this.points.length !== 1) return false;
    this.overall = !this.overall;
    this.clearTyped();
    this.follow();
    redraw();
    return true;
  }

  entryWords() {
    if (this.points.length !== 1) return null;
    return this.overall ? "length over all" : "distance of the centres";
  }

  protected follow() {
    if (!this.snap || !this.points.length) return;
    const k = perUnit();
    const field = (key: string, label: string, now: number): Typed => ({
      key,
      label,
      text: this.written(key),
      now,
      unit: unitName(),
    });
    const length = field(
      "length",
      this.overall ? "Overall" : "Centres",
      dist(this.points[0].at, (this.points[1] ?? this.snap).at) / k,
    );
    this.typed =
      this.points.length === 1 ? [length] : [field("width", "Width", (2 * this.half(this.snap.at)) / k)];
  }

  /** How far ``at`` lies from the line of centres. */
  private half(at: XY): number {
    const u = unit(sub(this.points[1].at, this.points[0].at));
    const d = sub(at, this.points[0].at);
    return Math.abs(u[0] * d[1] - u[1] * d[0]);
  }

  protected pulled(at: XY): XY {
    if (this.points.length !== 1 || !this.text("length") || this.overall) return at;
    const a = this.points[0].at;
    const k = perUnit();
    return add(a, mul(unit(sub(at, a)), this.value("length", dist(a, at) / k) * k));
  }

  /** Centres and radius once a width is there. With an overall length the second centre moves to fit it. */
  private parts(at: XY[]): { a: XY; b: XY; r: number; n: XY } | null {
    const k = perUnit();
    const r = (this.value("width", (2 * this.half(at[2])) / k) * k) / 2;
    if (!(r > 1e-6)) return null;
    const [a, way] = [at[0], unit(sub(at[1], at[0]))];
    let long = dist(at[0], at[1]);
    if (this.overall && this.text("length")) long = this.value("length", long / k) * k - 2 * r;
    if (!(long > 1e-6)) return null;
    return { a, b: add(a, mul(way, long)), r, n: [-way[1], way[0]] };
  }

  protected shape(at: XY[]): Ghost[] {
    const s = at.length > 2 ? this.parts(at) : null;
    if (!s) return [{ kind: "line", p: at[0], q: at[1] ?? at[0] }];
    const up = mul(s.n, s.r);
    const [p, q, t, u] = [add(s.a, up), add(s.b, up), sub(s.b, up), sub(s.a, up)];
    return [
      { kind: "line", p, q },
      { kind: "line", p: t, q: u },
      { kind: "arc", c: s.b, r: s.r, p: t, q },
      { kind: "arc", c: s.a, r: s.r, p, q: u },
    ];
  }

  protected make(b: Batch, at: XY[]) {
    const s = this.parts(at);
    if (!s) return false;
    const up = mul(s.n, s.r);
    const [p, q, t, u] = [add(s.a, up), add(s.b, up), sub(s.b, up), sub(s.a, up)];
    const [over, under] = [
      b.entity("l", { kind: "line", p, q }),
      b.entity("l", { kind: "line", p: t, q: u }),
    ];
    const right = b.entity("a", { kind: "arc", c: s.b, r: s.r, p: t, q });
    const left = b.entity("a", { kind: "arc", c: s.a, r: s.r, p, q: u });
    for (const [one, other] of [
      [`${over}.q`, `${right}.q`],
      [`${right}.p`, `${under}.p`],
      [`${under}.q`, `${left}.q`],
      [`${left}.p`, `${over}.p`],
    ])
      b.tie("coincident", [one, other]);
    for (const [one, other] of [
      [over, right],
      [right, under],
      [under, left],
      [left, over],
    ])
      b.tie("tangent", [one, other]);
    b.tie("equal", [right, left]);
    this.hold(b, 0, `${left}.c`);
    if (!(this.overall && this.text("length"))) this.hold(b, 1, `${right}.c`);
    this.heading(b, 1, over);
    const width = this.text("width");
    const length = this.text("length");
    if (width) b.size("distance", [`${over}.p`, under], width);
    if (length && !this.overall) b.size("distance", [`${left}.c`, `${right}.c`], length);
    if (length && this.overall) {
      // over all: between points on the two ends, held on the line of centres
      const axis = b.entity("l", {
        kind: "line",
        p: sub(s.a, mul(unit(sub(s.b, s.a)), s.r)),
        q: add(s.b, mul(unit(sub(s.b, s.a)), s.r)),
        construction: true,
      });
      b.tie("coincident", [`${axis}.p`, left]);
      b.tie("coincident", [`${axis}.q`, right]);
      b.tie("coincident", [`${left}.c`, axis]);
      b.tie("coincident", [`${right}.c`, axis]);
      b.size("distance", [axis], length);
    }
    return true;
  }
}

/** A regular polygon about its centre, by the circle through its corners or the one its sides touch. */
export class PolygonTool extends PointsTool {
  readonly id: string;
  readonly label: string;
  readonly asks: string[];
  private sides = 6;

  constructor(private flats: boolean) {
    super();
    this.id = flats ? "polygon-flats" : "polygon";
    this.label = flats ? "Polygon over flats" : "Polygon over corners";
    this.asks = ["the centre", flats ? "the middle of one side" : "one corner"];
  }

  protected follow() {
    if (!this.snap || !this.points.length) return;
    const now = (2 * dist(this.points[0].at, this.snap.at)) / perUnit();
    this.typed = [
      {
        key: "size",
        label: this.flats ? "Flats" : "Corners",
        text: this.written("size"),
        now,
        unit: unitName(),
      },
      { key: "sides", label: "Sides", text: this.written("sides"), now: this.sides, unit: "" },
    ];
    const n = Math.round(Number(this.text("sides")));
    if (this.text("sides") && n >= 3 && n <= 60) this.sides = n;
  }

  protected pulled(at: XY): XY {
    if (!this.points.length || !this.text("size")) return at;
    const c = this.points[0].at;
    const k = perUnit();
    return add(c, mul(unit(sub(at, c)), (this.value("size", (2 * dist(c, at)) / k) * k) / 2));
  }

  private corners(at: XY[]): XY[] {
    const d = sub(at[1], at[0]);
    const half = Math.PI / this.sides;
    const r = Math.hypot(...d) / (this.flats ? Math.cos(half) : 1);
    const first = Math.atan2(d[1], d[0]) - (this.flats ? half : 0);
    return [...Array(this.sides).keys()].map((i) =>
      add(at[0], [r * Math.cos(first + 2 * half * i), r * Math.sin(first + 2 * half * i)]),
    );
  }

  protected shape(at: XY[]): Ghost[] {
    if (at.length < 2) return [];
    const sides: Ghost[] = this.corners(at).map((p, i, all) => ({
      kind: "line",
      p,
      q: all[(i + 1) % all.length],
    }));
    return [...sides, { kind: "circle", c: at[0], r: dist(at[0], at[1]) }];
  }

  protected make(b: Batch, at: XY[]) {
    const corners = this.corners(at);
    const n = corners.length;
    const ids = corners.map((p, i) => b.entity("l", { kind: "line", p, q: corners[(i + 1) % n] }));
    const round = (r: number) => b.entity("c", { kind: "circle", c: at[0], r, construction: true });
    const outer = round(dist(at[0], corners[0]));
    ids.forEach((id, i) => {
      b.tie("coincident", [`${id}.q`, `${ids[(i + 1) % n]}.p`]);
      b.tie("coincident", [`${id}.p`, outer]);
      if (i) b.tie("equal", [ids[0], id]);
    });
    // over flats: a second circle inside touches a side
    const ring = this.flats ? round(dist(at[0], at[1])) : outer;
    if (this.flats) {
      b.tie("concentric", [outer, ring]);
      b.tie("tangent", [ids[0], ring]);
    }
    this.hold(b, 0, `${ring}.c`);
    if (!this.flats) this.hold(b, 1, `${ids[0]}.p`);
    const size = this.text("size");
    if (size) b.size("diameter", [ring], size);
    return true;
  }
}
