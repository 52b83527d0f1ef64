/** Where the strip of typed values stands: beside the pointer, over as little of the drawing as can be. */
import type { Entity, XY } from "../api/types";
import { walk } from "../geometry/curves";
import type { Ghost } from "../state/toolInHand";

export interface Room {
  width: number;
  height: number;
}

const ASIDE = 22;
const BELOW = 18;
const EDGE = 10;
/** The four corners round the pointer, those that are read first where all are free. */
const CORNERS: [1 | -1, 1 | -1][] = [
  [1, 1],
  [-1, 1],
  [1, -1],
  [-1, -1],
];

/** Places along what is drawn just now and what is there. */
export function placesOf(ghosts: Ghost[], entities: Entity[]): XY[] {
  const drawn = ghosts.flatMap((g): XY[] => {
    if (g.kind === "trail" || g.kind === "path") return g.points;
    if (g.kind === "faint" || g.kind === "strong") return walk(g.entity, 24);
    return walk(g as unknown as Entity, 24);
  });
  return [...drawn, ...along(entities)];
}

const walked = new WeakMap<Entity[], XY[]>();

/** Places along what is there, worked out once for a list of entities. */
function along(entities: Entity[]): XY[] {
  const found = walked.get(entities) ?? entities.flatMap((e) => walk(e, 12));
  walked.set(entities, found);
  return found;
}

/** Left and top (px) of a strip of the given size for a pointer at ``at``; ``over`` are places it should not cover. */
export function stripPlace(at: XY, strip: Room, room: Room, over: XY[]): XY {
  let best: XY = [0, 0];
  let least = Number.POSITIVE_INFINITY;
  CORNERS.forEach(([right, down], k) => {
    const left = right > 0 ? at[0] + ASIDE : at[0] - ASIDE - strip.width;
    const top = down > 0 ? at[1] + BELOW : at[1] - BELOW - strip.height;
    const x = Math.max(Math.min(left, room.width - strip.width - EDGE), EDGE);
    const y = Math.max(Math.min(top, room.height - strip.height - EDGE), EDGE);
    const covered = over.filter(
      ([px, py]) => px > x - 4 && px < x + strip.width + 4 && py > y - 4 && py < y + strip.height + 4,
    ).length;
    // pushed back into the room it may come to lie over the pointer itself
    const on = at[0] > x - 4 && at[0] < x + strip.width + 4 && at[1] > y - 4 && at[1] < y + strip.height + 4;
    const cost = covered + (on ? 1000 : 0) + k * 0.1;
    if (cost < least) {
      least = cost;
      best = [x, y];
    }
  });
  return best;
}
