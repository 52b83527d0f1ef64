/** Tools that move, turn, scale and copy what is chosen, pattern it, put it in elsewhere, make and place stencils. */
import type { Entity, XY } from "../../api/types";
import { run } from "../../document/commands";
import { add, mul, pointRefs, sub } from "../../geometry/geometry";
import type { Snap } from "../../geometry/ties";
import { board, type CommandDraft, useBoard } from "../../state/store";
import type { Ghost, Typed } from "../../state/toolInHand";
import { PointsTool } from "./points";
import { entitiesNow, perUnit, unitName } from "./tool";

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

export const turned = (about: XY, degrees: number, scale = 1): Put => {
  const a = (degrees * Math.PI) / 180;
  const [c, s] = [scale * Math.cos(a), scale * Math.sin(a)];
  return (p) => {
    const [x, y] = sub(p, about);
    return [about[0] + c * x - s * y, about[1] + s * x + c * y];
  };
};

export const field = (key: string, label: string, text: string, now: number, unit: string): Typed => ({
  key,
  label,
  text,
  now,
  unit,
});

type WithoutStep<C> = C extends { step: string } ? Omit<C, "step"> : never;

/** What these tools share: things chosen beforehand, and one command at the end. */
export abstract class CarryTool extends PointsTool {
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

  protected async finish(command: WithoutStep<CommandDraft>) {
    if (await run({ ...command, step: board().sketch! } as CommandDraft, true))
      useBoard.setState({ tool: null, chosen: [] });
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
