/** The part's edges as the open sketch sees them: asked for when it opens, and again when the part before it changes. */
import { get } from "../api/client";
import type { Entity, PartEdge } from "../api/types";
import { board, sketchOf, sketchStep, steps, useBoard } from "../state/store";

let known = "";

/** What the edges hang on: the sketch and all steps before it. */
function ground(): string {
  const s = board();
  const all = steps(s.part);
  const at = all.findIndex((x) => x.id === s.sketch);
  if (at < 1 || !all.slice(0, at).some((x) => !["sketch", "body"].includes(x.kind))) return "";
  const here = all[at];
  return JSON.stringify([s.part!.id, s.sketch, all.slice(0, at), here.kind === "sketch" ? here.on : null]);
}

/** Ask for the edges if what they hang on is new. */
export async function loadPartEdges() {
  const now = ground();
  if (now === known) return;
  known = now;
  if (!now) {
    useBoard.setState({ partEdges: [] });
    return;
  }
  const s = board();
  try {
    const found = await get<PartEdge[]>(`/api/parts/${s.part!.id}/sketches/${s.sketch}/edges`);
    if (known === now) useBoard.setState({ partEdges: found });
  } catch {
    known = ""; // asked again with the next change
    useBoard.setState({ partEdges: [] });
  }
}

// every change of the part may change what the open sketch sees of it
useBoard.subscribe((now, before) => {
  if (now.part !== before.part && now.sketch && now.sketch === before.sketch) loadPartEdges();
});

export function forgetPartEdges() {
  known = "";
  useBoard.setState({ partEdges: [] });
}

/** A place to tell whether two entities stand in the same one. */
const placed = (e: Entity) =>
  JSON.stringify(
    Object.entries(e).filter(([k]) => !["id", "construction", "lift", "knots", "form"].includes(k)),
    (_, v) => (typeof v === "number" ? Number(v.toFixed(6)) : v),
  );

/** The entity of the sketch that stands where an edge on offer does: it was brought in before. */
export function broughtIn(n: number): string | null {
  const offered = board().partEdges[n];
  const at = offered && placed(offered.entity);
  return (sketchOf(sketchStep()).entities ?? []).find((e) => placed(e) === at)?.id ?? null;
}

let made: { edges: PartEdge[]; entities: Entity[]; use: Entity[] } | null = null;

/** Those not yet in the sketch, as entities named z0, z1 …: what a press on one would bring in. */
export function edgesToUse(): Entity[] {
  const { partEdges: edges } = board();
  const entities = sketchOf(sketchStep()).entities ?? NONE;
  if (made?.edges === edges && made.entities === entities) return made.use;
  const there = new Set(entities.map(placed));
  const use = edges.flatMap((e, i) =>
    there.has(placed(e.entity)) ? [] : [{ ...e.entity, id: `z${i}` } as Entity],
  );
  made = { edges, entities, use };
  return use;
}

const NONE: Entity[] = [];
