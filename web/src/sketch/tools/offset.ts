import type { Entity, XY } from "../../api/types";
import { run } from "../../document/commands";
import { add, dist, mul, onCurve, sub, unit } from "../../geometry/geometry";
import type { Snap } from "../../geometry/ties";
import { board, useBoard } from "../../state/store";
import type { Ghost } from "../../state/toolInHand";
import { entitiesNow, perUnit, redraw, Tool, unitName } from "./tool";

/** A parallel copy of what was chosen, on the pointer's side. Each piece is shown moved aside by itself;
 * the core lets the corners meet. */
export class OffsetTool extends Tool {
  readonly id = "offset";
  readonly label = "Offset";
  readonly catches = false;

  constructor(private ids: string[]) {
    super();
  }

  hint() {
    return "move to the side it should lie on; type the distance, Enter";
  }

  private parts(): Entity[] {
    return entitiesNow().filter((e) => this.ids.includes(e.id));
  }

  /** The part nearest to a place, and how far it is. */
  private nearest(at: XY): [Entity, number] | null {
    const list = this.parts().map((e): [Entity, number] => [e, dist(onCurve(e, at), at)]);
    return list.sort((a, b) => a[1] - b[1])[0] ?? null;
  }

  protected follow() {
    if (!this.snap) return;
    const now = (this.nearest(this.snap.at)?.[1] ?? 0) / perUnit();
    this.typed = [
      { key: "distance", label: "Distance", text: this.written("distance"), now, unit: unitName() },
    ];
  }

  ghosts(): Ghost[] {
    const at = this.snap?.at;
    const near = at && this.nearest(at);
    if (!at || !near) return [];
    const w = this.value("distance", near[1] / perUnit()) * perUnit();
    return this.parts().flatMap((e): Ghost[] => {
      if (e.kind === "line") {
        const u = unit(sub(e.q as XY, e.p as XY));
        const d = sub(at, e.p as XY);
        const n = mul([-u[1], u[0]], Math.sign(u[0] * d[1] - u[1] * d[0]) * w);
        return [{ kind: "line", p: add(e.p as XY, n), q: add(e.q as XY, n) }];
      }
      if (e.kind !== "circle" && e.kind !== "arc") return [];
      const r = e.r + (dist(at, e.c as XY) < e.r ? -w : w);
      if (r <= 0) return [];
      if (e.kind === "circle") return [{ kind: "circle", c: e.c as XY, r }];
      const out = (p: number[]): XY => add(e.c as XY, mul(sub(p as XY, e.c as XY), r / e.r));
      return [{ kind: "arc", c: e.c as XY, r, p: out(e.p), q: out(e.q) }];
    });
  }

  click(s: Snap) {
    const near = this.nearest(s.at);
    if (!near) return;
    const distance = this.text("distance") || String(Number((near[1] / perUnit()).toFixed(2)));
    const at = board().pointer ?? s.at;
    run({ do: "sketch_offset", step: board().sketch!, ids: this.ids, distance, at }).then((done) => {
      if (done) useBoard.setState({ tool: null, chosen: [] });
      else redraw();
    });
  }
}
