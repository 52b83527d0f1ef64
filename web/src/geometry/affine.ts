/** The affine that draws a plane on the screen, as SVG's matrix() wants it. */
import type { XY } from "../api/types";

export type Affine = [number, number, number, number, number, number];

export const apply = (m: Affine, p: XY): XY => [
  m[0] * p[0] + m[2] * p[1] + m[4],
  m[1] * p[0] + m[3] * p[1] + m[5],
];

/** Pixels → sketch coordinates, or null when the sketch is seen edge on. */
export function unapply(m: Affine, s: XY): XY | null {
  const det = m[0] * m[3] - m[1] * m[2];
  if (Math.abs(det) < 1e-9) return null;
  const [x, y] = [s[0] - m[4], s[1] - m[5]];
  return [(m[3] * x - m[2] * y) / det, (m[0] * y - m[1] * x) / det];
}
