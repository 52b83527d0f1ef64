/** What was cut out or kept as a stencil, put into a sketch. */
import type { Constraint, Dimension, Entity, Sketch, SketchStep, XY } from "../../api/types";
import { isSketch } from "../../api/types";
import { run } from "../../document/commands";
import { add, pointRefs, sub } from "../../geometry/geometry";
import type { Snap } from "../../geometry/ties";
import { board, showMessage } from "../../state/store";
import type { Ghost } from "../../state/toolInHand";
import { CarryTool, carried, field, turned } from "./copying";
import { redraw } from "./tool";

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
        step: board().sketch!,
        stencil: this.stencil()!.id,
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
