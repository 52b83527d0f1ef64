/** Tools that move, turn, scale and copy what is chosen, pattern it, put it in elsewhere, make and place stencils. */
import type { Constraint, Dimension, Entity, Sketch, SketchStep, XY } from "../../api/types";
import { isSketch } from "../../api/types";
import { run } from "../../document/commands";
import { add, dist, mul, pointRefs, sub } from "../../geometry/geometry";
import type { Snap } from "../../geometry/ties";
import { board, type CommandDraft, showMessage, useBoard } from "../../state/store";
import type { Ghost, Typed } from "../../state/toolInHand";
import { PointsTool } from "./points";
import { entitiesNow, perUnit, redraw, unitName } from "./tool";

type Put = (at: XY) => XY;

/** Entities as they would be drawn where ``put`` carries them. */
export function carried(entities: Entity[], put: Put, scale = 1): Ghost[] {
  return entities.flatMap((e): Ghost[] => {
    const at = pointRefs(e).map(([ref, p]): [string, XY] => [ref.split(".")[1] ?? "at", put(p)]);
    if (e.kind === "spline")
      return [{ kind: "spline", form: e.form ?? "through", points: at.map(([, p]) => p) }];
    const r = e.kind === "circle" || e.kind === "arc" ? { r: e.r * scale } : {};
    return [{ ...e, ...Object.fromEntries(at), ...r } as unknown as Ghost];
  });
}

const turned = (about: XY, degrees: number, scale = 1): Put => {
  const a = (degrees * Math.PI) / 180;
  const [c, s] = [scale * Math.cos(a), scale * Math.sin(a)];
  return (p) => {
    const [x, y] = sub(p, about);
    return [about[0] + c * x - s * y, about[1] + s * x + c * y];
  };
};

const field = (key: string, label: string, text: string, now: number, unit: string): Typed => ({
  key,
  label,
  text,
  now,
  unit,
});

/** What these tools share: things chosen beforehand, and one command at the end. */
abstract class CarryTool extends PointsTool {
  constructor(
    readonly id: string,
    readonly label: string,
    protected readonly ids: string[],
  ) {
    super();
  }

  protected things(): Entity[] {
    const wanted = new Set(this.ids);
    return entitiesNow().filter((e) => wanted.has(e.id));
  }

  protected raw(key: string): string {
    return this.typed.find((t) => t.key === key)?.text ?? "";
  }

  protected number(key: string, otherwise: number): number {
    const n = Number(this.raw(key).replace(",", "."));
    return this.raw(key).trim() && Number.isFinite(n) ? n : otherwise;
  }

  protected async finish(command: CommandDraft) {
    if (await run({ ...command, step: board().sketch }, true)) useBoard.setState({ tool: null, chosen: [] });
  }

  protected make() {
    return false;
  }
}

/** Move or copy: base point → target, or typed distances. */
export class MoveTool extends CarryTool {
  readonly asks = ["the point to hold it by", "where that point goes"];

  constructor(
    ids: string[],
    private copy: boolean,
  ) {
    super(copy ? "copy" : "move", copy ? "Copy" : "Move", ids);
  }

  from() {
    return this.points[0]?.at ?? null;
  }

  protected follow() {
    if (!this.snap || !this.points.length) return;
    const d = mul(sub(this.snap.at, this.points[0].at), 1 / perUnit());
    this.typed = [
      field("x", "X", this.raw("x"), d[0], unitName()),
      field("y", "Y", this.raw("y"), d[1], unitName()),
    ];
  }

  protected pulled(at: XY): XY {
    const from = this.points[0]?.at;
    if (!from || !(this.raw("x") || this.raw("y"))) return at;
    const k = perUnit();
    return add(from, [this.number("x", 0) * k, this.number("y", 0) * k]);
  }

  protected shape(at: XY[]): Ghost[] {
    const d = sub(at[1] ?? at[0], at[0]);
    return [...carried(this.things(), (p) => add(p, d)), { kind: "line", p: at[0], q: at[1] ?? at[0] }];
  }

  click(s: Snap) {
    if (!this.points.length) super.click(s);
    else {
      const to = this.pulled(s.at);
      const base = this.points[0].at;
      this.finish({ do: "sketch_move", ids: this.ids, base, to, copy_it: this.copy });
    }
  }
}

/** Turn or scale about a point: by a typed value, or from one place to another. */
export class TurnTool extends CarryTool {
  readonly asks = ["the point to hold fast", "where to take it", "where that goes"];

  constructor(
    ids: string[],
    private grow: boolean,
  ) {
    super(grow ? "scale" : "turn", grow ? "Scale" : "Turn", ids);
  }

  hint() {
    if (this.points.length !== 1) return super.hint();
    return this.grow
      ? "type how many times as large, or press where to take it"
      : "type the angle, or press where to take it";
  }

  protected follow() {
    if (!this.snap || !this.points.length) return;
    const now = this.points.length > 1 ? this.change(this.snap.at) : this.grow ? 1 : 0;
    this.typed = [
      this.grow
        ? field("by", "Times", this.raw("by"), now, "times")
        : field("by", "Angle", this.raw("by"), now, "°"),
    ];
  }

  /** The angle (degrees) or factor from where it was taken to ``at``. */
  private change(at: XY): number {
    const [u, v] = [sub(this.points[1].at, this.points[0].at), sub(at, this.points[0].at)];
    if (this.grow) return Math.hypot(...v) / (Math.hypot(...u) || 1);
    return ((Math.atan2(v[1], v[0]) - Math.atan2(u[1], u[0])) * 180) / Math.PI;
  }

  protected shape(at: XY[]): Ghost[] {
    const now = at.length > 2 ? this.change(at[2]) : this.grow ? 1 : 0;
    const by = this.number("by", now);
    const put = this.grow ? turned(at[0], 0, by) : turned(at[0], by);
    return [
      ...carried(this.things(), put, this.grow ? by : 1),
      { kind: "line", p: at[0], q: at[at.length - 1] },
    ];
  }

  enter() {
    if (this.points.length && this.raw("by").trim()) this.done(this.raw("by").trim());
  }

  click(s: Snap) {
    if (this.points.length < 2) super.click(s);
    else this.done(String(this.change(s.at)));
  }

  private done(by: string) {
    const base = this.points[0].at;
    this.finish({
      do: "sketch_move",
      ids: this.ids,
      base,
      to: base,
      ...(this.grow ? { scale: by } : { turn: by }),
    });
  }
}

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

/** What was taken out of a sketch to be put in elsewhere. */
interface Taken {
  entities: Entity[];
  constraints: Constraint[];
  dimensions: Dimension[];
  base: XY;
}

let taken: Taken | null = null;
export const carrying = () => taken !== null;

/** Take what is chosen: it can be put into any sketch from now on. */
export function take(sketch: Sketch, ids: string[]): number {
  const wanted = new Set(ids);
  const entities = (sketch.entities ?? []).filter((e) => wanted.has(e.id));
  const inner = (t: { refs: string[] }) => t.refs.every((r) => wanted.has(r.split(".")[0]));
  if (!entities.length) return 0;
  taken = {
    entities,
    constraints: (sketch.constraints ?? []).filter(inner),
    dimensions: (sketch.dimensions ?? []).filter(inner),
    base: pointRefs(entities[0])[0][1],
  };
  return entities.length;
}

export class PutInTool extends CarryTool {
  readonly asks = ["where it goes"];

  constructor() {
    super("put-in", "Put in", []);
  }

  ghosts(): Ghost[] {
    if (!this.snap || !taken) return [];
    const d = sub(this.snap.at, taken.base);
    return carried(taken.entities, (p) => add(p, d));
  }

  protected shape(): Ghost[] {
    return [];
  }

  click(s: Snap) {
    if (!taken) return;
    const { base, ...rest } = taken;
    this.finish({ do: "sketch_paste", ...rest, base, to: s.at });
  }
}

/** Make a stencil of what is chosen: type its name, press its insertion point. */
export class StencilTool extends CarryTool {
  readonly asks = ["its insertion point"];

  constructor(ids: string[]) {
    super("stencil", "Make a stencil", ids);
    this.follow();
  }

  hint() {
    return "type the stencil's name, then press its insertion point";
  }

  protected follow() {
    this.typed = [field("name", "Name", this.raw("name"), 0, "letters")];
  }

  ghosts(): Ghost[] {
    return this.snap ? [{ kind: "point", at: this.snap.at }, ...carried(this.things(), (p) => p)] : [];
  }

  protected shape(): Ghost[] {
    return [];
  }

  enter() {
    /* its place is pressed, never typed */
  }

  click(s: Snap) {
    const name = this.raw("name").trim();
    if (!name) {
      showMessage("Type a name for the stencil first.", "red");
      return;
    }
    this.finish({ do: "sketch_stencil", ids: this.ids, at: s.at, name });
  }
}

/** The stencils that stand before the open sketch in the route. */
export function stencilsHere(): SketchStep[] {
  const s = board();
  const all = s.part?.document.steps ?? [];
  const here = all.findIndex((x) => x.id === s.sketch);
  return all.slice(0, Math.max(here, 0)).filter((x): x is SketchStep => isSketch(x) && !!x.stencil);
}

/** Place a stencil; x goes on to the next one. */
export class PlaceTool extends CarryTool {
  readonly asks = ["where its insertion point goes"];
  private which = 0;

  constructor() {
    super("place", "Place a stencil", []);
  }

  private stencil(): SketchStep | undefined {
    const all = stencilsHere();
    return all[this.which % Math.max(all.length, 1)];
  }

  hint() {
    const more = stencilsHere().length > 1 ? "; x for the next stencil" : "";
    return `press where the insertion point of “${this.stencil()?.stencil}” goes, or type its angle first${more}`;
  }

  key(key: string): boolean {
    if (key !== "x") return false;
    this.which++;
    redraw();
    return true;
  }

  protected follow() {
    this.typed = [field("turn", "Angle", this.raw("turn"), 0, "°")];
  }

  ghosts(): Ghost[] {
    const shape = this.stencil()?.sketch?.entities;
    if (!this.snap || !shape) return [];
    const turn = turned([0, 0], this.number("turn", 0));
    const at = this.snap.at;
    return carried(shape as Entity[], (p) => add(turn(p), at));
  }

  protected shape(): Ghost[] {
    return [];
  }

  click(s: Snap) {
    const onto = s.ties.find(
      (t) => t.of === "point" && t.kind === "coincident" && /\.|^p\d|^origin$/.test(t.ref ?? ""),
    )?.ref;
    const turn = this.raw("turn").trim();
    run(
      {
        do: "sketch_placement",
        step: board().sketch,
        stencil: this.stencil()?.id,
        at: s.at,
        turn,
        onto: onto ?? null,
      },
      true,
    );
  }

  enter() {
    if (this.snap) this.click(this.snap);
  }
}
