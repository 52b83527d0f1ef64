import type { XY } from "../../api/types";
import { apply } from "../../geometry/affine";
import { dist, mid, said, sub } from "../../geometry/geometry";
import { nearestOf, rimTouches, tangentTo } from "../../geometry/tangency";
import type { Snap, Tie } from "../../geometry/ties";
import { typedAs, unprefixed } from "../../geometry/typed";
import { affine, board } from "../../state/store";
import type { Ghost } from "../../state/toolInHand";
import { edgesToUse } from "../partEdges";
import { Batch, entitiesNow, perUnit, redraw, Tool, unitName } from "./tool";

/** How near the pointer must be to where a circle would touch what it is on, in pixels. */
const RIM = 12;

type Placed = { at: XY; ties: Tie[] };

/** A rectangle from corner to corner, or from its centre: idle → placing. */
export class RectangleTool extends Tool {
  readonly standsAnywhere = true;
  readonly id: string;
  readonly label: string;
  private start: Placed | null = null;

  constructor(private centred: boolean) {
    super();
    this.id = centred ? "centre-rectangle" : "rectangle";
    this.label = centred ? "Centre rectangle" : "Rectangle";
  }

  hint() {
    if (!this.start) return this.centred ? "press where its centre goes" : "press where one corner goes";
    return `press the ${this.centred ? "" : "opposite "}corner, or type width, Tab, height`;
  }

  protected follow() {
    if (!this.start || !this.snap) return;
    const [w, h] = this.spans(this.snap.at).map((v) => Math.abs(v) / perUnit());
    this.typed = [
      { key: "width", label: "Width", text: this.written("width"), now: w, unit: unitName() },
      { key: "height", label: "Height", text: this.written("height"), now: h, unit: unitName() },
    ];
  }

  private spans(at: XY): XY {
    const d = sub(at, this.start!.at);
    return this.centred ? [2 * d[0], 2 * d[1]] : d;
  }

  /** Lower left corner, width and height as they would be placed. */
  private box(): { at: XY; w: number; h: number; right: boolean; up: boolean } | null {
    if (!this.start || !this.snap) return null;
    const [dx, dy] = this.spans(this.snap.at);
    const w = this.value("width", Math.abs(dx) / perUnit()) * perUnit();
    const h = this.value("height", Math.abs(dy) / perUnit()) * perUnit();
    const [right, up] = [dx >= 0, dy >= 0];
    const s = this.start.at;
    const at: XY = this.centred
      ? [s[0] - w / 2, s[1] - h / 2]
      : [right ? s[0] : s[0] - w, up ? s[1] : s[1] - h];
    return { at, w, h, right, up };
  }

  ghosts(): Ghost[] {
    const b = this.box();
    if (!b) return this.snap ? [{ kind: "point", at: this.snap.at }] : [];
    return this.corners(b).map((p, i, all) => ({ kind: "line", p, q: all[(i + 1) % 4] }));
  }

  private corners({ at: [x, y], w, h }: { at: XY; w: number; h: number }): XY[] {
    return [
      [x, y],
      [x + w, y],
      [x + w, y + h],
      [x, y + h],
    ];
  }

  click(s: Snap) {
    if (!this.start) {
      this.start = { at: s.at, ties: s.ties.filter((t) => t.of === "point") };
      redraw();
      return;
    }
    this.snap = s;
    const box = this.box()!;
    if (box.w < 1e-6 || box.h < 1e-6) return;
    this.place(box, s);
  }

  private place(box: NonNullable<ReturnType<RectangleTool["box"]>>, s: Snap) {
    const b = new Batch();
    const corners = this.corners(box);
    const ids = corners.map((p, i) => b.entity("l", { kind: "line", p, q: corners[(i + 1) % 4] }));
    ids.forEach((id, i) => {
      b.tie("coincident", [`${id}.q`, `${ids[(i + 1) % 4]}.p`]);
      b.tie(i % 2 ? "vertical" : "horizontal", [id]);
    });
    // the corner each click made: 0 lower left, counter-clockwise
    const first = box.up ? (box.right ? 0 : 1) : box.right ? 3 : 2;
    const [width, height] = [this.text("width"), this.text("height")];
    if (this.centred) {
      const across = b.entity("l", { kind: "line", p: corners[0], q: corners[2], construction: true });
      b.tie("coincident", [`${across}.p`, `${ids[0]}.p`]);
      b.tie("coincident", [`${across}.q`, `${ids[2]}.p`]);
      const held = this.start!.ties.find(
        (t) => t.kind === "coincident" && t.ref && !/^[lca]\d+$|^[xy]$/.test(t.ref),
      );
      const centre = held?.ref ?? b.entity("p", { kind: "point", at: mid(corners[0], corners[2]) });
      b.tie("midpoint", [centre, across]);
      b.snapped(
        this.start!.ties.filter((t) => t.kind === "typed"),
        centre,
      );
    } else {
      b.snapped(this.start!.ties, `${ids[first]}.p`);
      if (!width && !height) b.snapped(s.ties, `${ids[(first + 2) % 4]}.p`);
    }
    if (width) b.size("distance", [ids[0]], width);
    if (height) b.size("distance", [ids[1]], height);
    this.start = null;
    this.clearTyped();
    redraw();
    b.store();
  }

  back() {
    if (!this.start) return false;
    this.start = null;
    this.clearTyped();
    redraw();
    return true;
  }
}

/** What a circle's rim catches: where it would just touch the curve under the pointer, that is meant. */
function touchingRim(s: Snap, centre: XY): Snap {
  const m = affine(board());
  const [on] = s.ties;
  const e = [...entitiesNow(), ...edgesToUse()].find((x) => x.id === on?.ref);
  if (!m || s.ties.length !== 1 || on.kind !== "coincident" || !e) return s;
  const touch = nearestOf(rimTouches(e, centre), (at) => dist(apply(m, at), apply(m, s.at)));
  if (!touch || touch.off > RIM) return s;
  return { ...s, at: touch.at, ties: [tangentTo(e.id)], words: `tangent to ${said(e.id)}` };
}

/** A circle: idle → sizing. */
export class CircleTool extends Tool {
  readonly standsAnywhere = true;
  readonly id = "circle";
  readonly label = "Circle";
  private centre: Placed | null = null;

  hint() {
    return this.centre ? "press where the rim passes, or type the diameter" : "press where the centre goes";
  }

  protected follow() {
    if (!this.centre || !this.snap) return;
    const now = (2 * dist(this.snap.at, this.centre.at)) / perUnit();
    this.typed = [{ key: "diameter", label: "Ø", text: this.written("diameter"), now, unit: unitName() }];
  }

  private radius(): number {
    const size = this.value("diameter", (2 * dist(this.snap!.at, this.centre!.at)) / perUnit()) * perUnit();
    return typedAs(this.text("diameter")) === "radius" ? size : size / 2;
  }

  ghosts(): Ghost[] {
    if (!this.centre || !this.snap) return this.snap ? [{ kind: "point", at: this.snap.at }] : [];
    return [{ kind: "circle", c: this.centre.at, r: this.radius() }];
  }

  move(s: Snap) {
    super.move(this.centre ? touchingRim(s, this.centre.at) : s);
  }

  click(s: Snap) {
    if (!this.centre) {
      this.centre = { at: s.at, ties: s.ties.filter((t) => t.of === "point") };
      redraw();
      return;
    }
    this.snap = touchingRim(s, this.centre.at);
    const r = this.radius();
    if (r < 1e-6) return;
    const b = new Batch();
    const id = b.entity("c", { kind: "circle", c: this.centre.at, r });
    b.snapped(this.centre.ties, `${id}.c`);
    const typed = this.text("diameter");
    if (typed) b.size(typedAs(typed) ?? "diameter", [id], unprefixed(typed));
    else
      for (const t of this.snap.ties)
        if (t.kind === "tangent" && t.ref) b.tie("tangent", [t.ref, id], true);
        else if (t.kind === "coincident" && t.ref && /\./.test(t.ref)) b.tie("coincident", [t.ref, id], true);
    this.centre = null;
    this.clearTyped();
    redraw();
    b.store();
  }

  back() {
    if (!this.centre) return false;
    this.centre = null;
    this.clearTyped();
    redraw();
    return true;
  }
}

/** An arc about a centre: idle → start → end, counter-clockwise or clockwise as the pointer goes round. */
export class ArcTool extends Tool {
  readonly standsAnywhere = true;
  readonly id = "arc";
  readonly label = "Arc";
  private centre: Placed | null = null;
  private start: Placed | null = null;
  private turned = 0;
  private last = 0;

  hint() {
    if (!this.centre) return "press where the centre goes";
    return this.start ? "press where the arc ends" : "press where the arc starts, or type the radius";
  }

  protected follow() {
    if (!this.centre || !this.snap) return;
    if (!this.start) {
      const now = dist(this.snap.at, this.centre.at) / perUnit();
      this.typed = [{ key: "radius", label: "R", text: this.written("radius"), now, unit: unitName() }];
      return;
    }
    const d = sub(this.snap.at, this.centre.at);
    const angle = Math.atan2(d[1], d[0]);
    let step = angle - this.last;
    if (step > Math.PI) step -= 2 * Math.PI;
    if (step < -Math.PI) step += 2 * Math.PI;
    this.turned += step;
    this.last = angle;
  }

  private radius(): number {
    if (this.start) return dist(this.start.at, this.centre!.at);
    return this.value("radius", dist(this.snap!.at, this.centre!.at) / perUnit()) * perUnit();
  }

  private onRim(at: XY): XY {
    const [c, r] = [this.centre!.at, this.radius()];
    const d = dist(at, c) || 1;
    return [c[0] + ((at[0] - c[0]) / d) * r, c[1] + ((at[1] - c[1]) / d) * r];
  }

  ghosts(): Ghost[] {
    if (!this.snap) return [];
    if (!this.centre) return [{ kind: "point", at: this.snap.at }];
    if (!this.start) return [{ kind: "circle", c: this.centre.at, r: this.radius() }];
    const end = this.onRim(this.snap.at);
    const [p, q] = this.turned >= 0 ? [this.start.at, end] : [end, this.start.at];
    return [{ kind: "arc", c: this.centre.at, r: this.radius(), p, q }];
  }

  click(s: Snap) {
    this.snap = s;
    if (!this.centre) {
      this.centre = { at: s.at, ties: s.ties.filter((t) => t.of === "point") };
    } else if (!this.start) {
      const at = this.text("radius") ? this.onRim(s.at) : s.at;
      if (dist(at, this.centre.at) < 1e-6) return;
      this.start = { at, ties: this.text("radius") ? [] : s.ties };
      const d = sub(at, this.centre.at);
      this.last = Math.atan2(d[1], d[0]);
      this.turned = 0;
      this.typed = this.typed.map((t) => ({ ...t, now: this.radius() / perUnit() }));
    } else {
      const end = this.onRim(s.at);
      if (dist(end, this.start.at) < 1e-6) return;
      this.place(end, dist(end, s.at) < 1e-6 ? s.ties : []);
      return;
    }
    redraw();
  }

  private place(end: XY, ties: Tie[]) {
    const b = new Batch();
    const [centre, start] = [this.centre!, this.start!];
    const forward = this.turned >= 0;
    const [p, q] = forward ? [start.at, end] : [end, start.at];
    const id = b.entity("a", { kind: "arc", c: centre.at, r: dist(start.at, centre.at), p, q });
    b.snapped(centre.ties, `${id}.c`);
    b.snapped(start.ties, `${id}.${forward ? "p" : "q"}`);
    b.snapped(ties, `${id}.${forward ? "q" : "p"}`);
    const typed = this.text("radius");
    if (typed) b.size("radius", [id], unprefixed(typed));
    this.centre = this.start = null;
    this.clearTyped();
    redraw();
    b.store();
  }

  back() {
    if (!this.centre) return false;
    if (this.start) this.start = null;
    else this.centre = null;
    redraw();
    return true;
  }
}

export class PointTool extends Tool {
  readonly standsAnywhere = true;
  readonly id = "point";
  readonly label = "Point";

  hint() {
    return "press where the point goes";
  }

  ghosts(): Ghost[] {
    return this.snap ? [{ kind: "point", at: this.snap.at }] : [];
  }

  click(s: Snap) {
    const b = new Batch();
    const id = b.entity("p", { kind: "point", at: s.at });
    b.snapped(s.ties, id);
    b.store();
  }
}
