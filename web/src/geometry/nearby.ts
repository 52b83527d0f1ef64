/** Which entities of a sketch lie near a place: what a pointer asks with every move. */
import Flatbush from "flatbush";
import type { Entity, XY } from "../api/types";
import { type Affine, unapply } from "./affine";
import { spans, walk } from "./curves";

/** Up to so many entities looking at each costs nothing. */
const FEW = 64;

const indexes = new WeakMap<Entity[], Flatbush>();

/** Places whose box holds an entity; for bent curves the places that steer them, for round ones all of the circle. */
function holding(e: Entity): XY[] {
  if (e.kind === "circle" || e.kind === "arc")
    return [
      [e.c[0] - e.r, e.c[1] - e.r],
      [e.c[0] + e.r, e.c[1] + e.r],
    ];
  if (e.kind === "spline") return spans(e).flat();
  if (e.kind === "ellipse" || e.kind === "ellipse_arc") {
    const reach = Math.hypot(e.m[0] - e.c[0], e.m[1] - e.c[1]) + Math.hypot(e.n[0] - e.c[0], e.n[1] - e.c[1]);
    return [
      [e.c[0] - reach, e.c[1] - reach],
      [e.c[0] + reach, e.c[1] + reach],
    ];
  }
  return walk(e, 1);
}

function indexOf(entities: Entity[]): Flatbush {
  let found = indexes.get(entities);
  if (!found) {
    found = new Flatbush(entities.length);
    for (const e of entities) {
      const places = holding(e);
      const [xs, ys] = [places.map((p) => p[0]), places.map((p) => p[1])];
      found.add(Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys));
    }
    found.finish();
    indexes.set(entities, found);
  }
  return found;
}

/** How many millimetres of the sketch a pixel can be at most, as the affine draws it; null seen edge on. */
function widest([a, b, c, d]: Affine): number | null {
  // the least singular value: how much the sketch is drawn smaller in the direction it is drawn smallest in
  const [sum, det] = [a * a + b * b + c * c + d * d, a * d - b * c];
  const least = Math.sqrt(Math.max(0, (sum - Math.sqrt(Math.max(0, sum * sum - 4 * det * det))) / 2));
  return least > 1e-6 ? 1 / least : null;
}

/**
 * Entities that may come within ``reach`` pixels of a place on the screen, in their order; never one too few.
 *
 * The list is taken as it is: another list of entities is another array.
 */
export function nearby(entities: Entity[], screen: XY, m: Affine, reach: number): Entity[] {
  if (entities.length <= FEW) return entities;
  const [here, wide] = [unapply(m, screen), widest(m)];
  if (!here || wide === null) return entities;
  const far = reach * wide;
  return indexOf(entities)
    .search(here[0] - far, here[1] - far, here[0] + far, here[1] + far)
    .sort((a, b) => a - b)
    .map((i) => entities[i]);
}
