/** Where balloons stand round what they speak of: outwards from the middle, none on another, all within the frame. */
import type { XY } from "../api/types";

const OUT = 30; // px from the place to its balloon
const APART = 23; // px between the middles of two balloons
const EDGE = 13; // px to the frame

/** A place for each balloon, in the order of ``at``; the same again gives the same. */
export function spread(at: XY[], [wide, high]: XY): XY[] {
  if (!at.length) return [];
  const middle: XY = [
    at.reduce((s, p) => s + p[0], 0) / at.length,
    at.reduce((s, p) => s + p[1], 0) / at.length,
  ];
  const held = ([x, y]: XY): XY => [
    Math.min(wide - EDGE, Math.max(EDGE, x)),
    Math.min(high - EDGE, Math.max(EDGE, y)),
  ];
  const found: XY[] = [];
  at.forEach((p, i) => {
    const away = Math.hypot(p[0] - middle[0], p[1] - middle[1]);
    const start = away > 1 ? Math.atan2(p[1] - middle[1], p[0] - middle[0]) : i * 2.4;
    let best = held([p[0] + OUT * Math.cos(start), p[1] + OUT * Math.sin(start)]);
    // ever wider rounds about the place, the outward way first, until one is free
    search: for (let ring = 0; ring < 12; ring += 1)
      for (let k = 0; k < 13; k += 1) {
        const turn = start + (k % 2 ? -1 : 1) * Math.ceil(k / 2) * 0.48;
        const r = OUT + ring * APART * 0.6;
        const place = held([p[0] + r * Math.cos(turn), p[1] + r * Math.sin(turn)]);
        if (found.every((q) => Math.hypot(q[0] - place[0], q[1] - place[1]) >= APART)) {
          best = place;
          break search;
        }
      }
    found.push(best);
  });
  return found;
}
