/** Edges of the part brought into the sketch: as its outline, or with x as construction. */
import type { Entity } from "../../api/types";
import { run } from "../../document/commands";
import { apply } from "../../geometry/affine";
import { dist, onCurve } from "../../geometry/geometry";
import type { Snap } from "../../geometry/ties";
import { affine, board, numberOf } from "../../state/store";
import type { Ghost } from "../../state/toolInHand";
import { edgesToUse } from "../partEdges";
import { Batch, redraw, Tool } from "./tool";

const REACH = 14; // pixels

export class EdgesTool extends Tool {
  readonly id = "edges";
  readonly label = "Edges of the part";
  readonly catches = false;
  private construction = false;

  hint() {
    if (!board().partEdges.length) return "there is no edge of the part before this sketch";
    const as = this.construction ? "as construction" : "as outline";
    const near = this.near();
    const what = near ? `press to bring in ${named(near)}` : "point at an edge of the part";
    return `${what}, ${as}; x switches`;
  }

  key(key: string): boolean {
    if (key !== "x") return false;
    this.construction = !this.construction;
    redraw();
    return true;
  }

  private near(): { n: number; e: Entity } | null {
    const m = affine();
    if (!this.snap || !m) return null;
    const at = apply(m, this.snap.at);
    let best: { n: number; e: Entity } | null = null;
    let least = REACH;
    for (const e of edgesToUse()) {
      const off = dist(apply(m, onCurve(e, this.snap!.at)), at);
      if (off < least) [best, least] = [{ n: Number(e.id.slice(1)), e }, off];
    }
    return best;
  }

  ghosts(): Ghost[] {
    const near = this.near();
    const thin = edgesToUse().filter((e) => e.id !== near?.e.id);
    return [
      ...thin.map((e): Ghost => ({ kind: "faint", entity: e })),
      ...(near ? [{ kind: "strong", entity: near.e } as Ghost] : []),
    ];
  }

  click(s: Snap) {
    this.snap = s;
    const near = this.near();
    if (near) bring([near.n], this.construction);
  }
}

/** What would be brought in, in words: the line of an edge, a silhouette, or a cut through a face. */
function named({ n, e }: { n: number; e: Entity }): string {
  const kind = e.kind === "ellipse_arc" ? "arc of an ellipse" : e.kind;
  const from = board().partEdges[n];
  if (from && "step" in from.of) {
    const number = numberOf(board().part, from.of.step);
    return e.kind === "line" || e.construction ? `the axis of step ${number}` : `the point of step ${number}`;
  }
  if (from?.silhouette) return `the ${kind} where this face turns away (its silhouette)`;
  if (from?.cut) return `the ${kind} where this sketch's plane cuts the face`;
  return `this ${kind}`;
}

function bring(which: number[], construction: boolean) {
  const b = new Batch();
  for (const n of which) b.edge(n, construction);
  if (which.length) run(b.command(), true);
}

/** All edges that lie in the plane of the sketch: the outline of the face it is on. */
export function bringOutline() {
  const missing = edgesToUse().map((e) => Number(e.id.slice(1)));
  bring(
    missing.filter((n) => board().partEdges[n].in_plane),
    false,
  );
}
