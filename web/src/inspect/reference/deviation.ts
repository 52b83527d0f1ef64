/** From how far a mesh lies off a part to colours: out of the part in warm ones, within it in cold ones. */
import type { Paint } from "../../view/painted";
import { linear, type Rgb, rgb } from "../checks/paint";

const GOOD = rgb("#6fa894");
const OUT = ["#e6d9a8", "#d08a3a", "#b83720"].map(rgb);
const IN = ["#b9cfd8", "#5c8fa8", "#2b3f63"].map(rgb);

/** ``within`` and ``most`` in mm: up to the one all is well, from the other on the colour is the last. */
export function deviationColour(off: number, within: number, most: number): Rgb {
  const size = Math.abs(off);
  if (size <= within) return GOOD;
  const scale = off > 0 ? OUT : IN;
  const share = most > within ? Math.log(size / within) / Math.log(most / within) : 1;
  const at = Math.min(1, Math.max(0, share)) * (scale.length - 1);
  const k = Math.min(Math.floor(at), scale.length - 2);
  return scale[k].map((v, i) => v + (scale[k + 1][i] - v) * (at - k)) as unknown as Rgb;
}

export function deviationPaint(
  file: { corners: Float32Array; values: Float32Array },
  within: number,
  most: number,
): Paint {
  const colours = new Float32Array(file.values.length * 3);
  file.values.forEach((v, i) => {
    colours.set(linear(deviationColour(v, within, most)), 3 * i);
  });
  return { corners: file.corners, colours };
}

/** The corners of the box round places, three figures each: what a view has to show. */
export function boxCorners(places: Float32Array): [number, number, number][] {
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  for (let i = 0; i < places.length; i++) {
    const v = places[i];
    const k = i % 3;
    if (v < low[k]) low[k] = v;
    if (v > high[k]) high[k] = v;
  }
  if (!places.length) return [];
  return [0, 1, 2, 3, 4, 5, 6, 7].map(
    (n) => [0, 1, 2].map((k) => ((n >> k) & 1 ? high[k] : low[k])) as [number, number, number],
  );
}
