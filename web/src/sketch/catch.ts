/** What the drawing tool in hand catches under the pointer. */
import type { Entity, XY } from "../api/types";
import { snap } from "../geometry/snap";
import type { Snap } from "../geometry/ties";
import { affine, board, sketchOf, sketchStep, useBoard } from "../state/store";
import { edgesToUse } from "./partEdges";

let together: { own: Entity[]; edges: Entity[]; all: Entity[] } | null = null;

/** The sketch's own entities and the part's edges on offer; the same list as long as both are the same. */
function catchable(): Entity[] {
  const [own, edges] = [sketchOf(sketchStep()).entities ?? [], edgesToUse()];
  if (together?.own !== own || together.edges !== edges)
    together = { own, edges, all: edges.length ? [...own, ...edges] : own };
  return together.all;
}

/** What the tool in hand would catch at a place on the board. */
export function caught(at: XY, free: boolean): Snap | null {
  const s = board();
  const m = affine(s);
  if (!s.tool || !m) return null;
  return snap(at, {
    entities: catchable(),
    m,
    from: s.tool.from(),
    lead: s.tool.lead(),
    straight: s.tool.straight(),
    rim: s.tool.slides(),
    held: free,
    touched: s.touched,
  });
}

/** A point the pointer passes over is remembered: what comes next can be lined up with it. */
export function touch(found: Snap) {
  const ref = found.ties.find((t) => t.of === "point" && t.kind === "coincident")?.ref;
  const { touched } = board();
  if (!ref || !(ref.includes(".") || ref === "origin" || /^p\d+$/.test(ref)) || touched.at(-1) === ref)
    return;
  useBoard.setState({ touched: [...touched.filter((r) => r !== ref), ref].slice(-4) });
}
