/** From what a check says of places on the part to colours, and what they mean. */
import type { Checked } from "../../api/types";
import type { Paint } from "../../view/painted";

export type Rgb = [number, number, number];
type Band = Checked["bands"][number];

export const rgb = (hex: string): Rgb =>
  [1, 3, 5].map((k) => Number.parseInt(hex.slice(k, k + 2), 16) / 255) as unknown as Rgb;

export const hex = (c: Rgb) =>
  `#${c
    .map((v) =>
      Math.round(v * 255)
        .toString(16)
        .padStart(2, "0"),
    )
    .join("")}`;

const TONES: Record<Band["tone"], Rgb> = {
  bad: rgb("#b83720"),
  poor: rgb("#d08a3a"),
  fair: rgb("#d9c98a"),
  good: rgb("#6fa894"),
  plain: rgb("#c4bbaa"),
};
/** Several good bands beside each other: set-ups. */
const SETUPS = ["#6fa894", "#7f9fc0", "#b9a36b", "#9a8fb5", "#a3b27c", "#c09a8a"].map(rgb);
/** From thin to thick, as walls go. */
const SCALE = ["#d08a3a", "#e6d9a8", "#9dc3b0", "#5c8fa8", "#2b3f63"].map(rgb);
const BARE: Rgb = TONES.plain;

/** The triangles of a check's file, and what it says at each of their corners. */
export function readPaint(buffer: ArrayBuffer): { corners: Float32Array; values: Float32Array } {
  const count = new DataView(buffer).getUint32(4, true);
  return {
    corners: new Float32Array(buffer.slice(8, 8 + 36 * count)),
    values: new Float32Array(buffer.slice(8 + 36 * count, 8 + 48 * count)),
  };
}

export function bandColours(bands: Band[]): Rgb[] {
  const several = bands.filter((b) => b.tone === "good").length > 1;
  let n = 0;
  return bands.map((b) => (several && b.tone === "good" ? SETUPS[n++ % SETUPS.length] : TONES[b.tone]));
}

/** Where a thickness lies from the least that is good to the thickest there is, by its logarithm, 0 to 1. */
export function scaled(value: number, from: number, to: number): number {
  if (!(to > from) || !(from > 0)) return 0;
  return Math.min(1, Math.max(0, Math.log(value / from) / Math.log(to / from)));
}

export function thicknessColour(value: number, least: number, thickest: number): Rgb {
  if (!Number.isFinite(value)) return BARE;
  if (value < least * (1 - 1e-4)) return TONES.bad;
  const at = scaled(value, least || 1e-3, thickest) * (SCALE.length - 1);
  const k = Math.min(Math.floor(at), SCALE.length - 2);
  return SCALE[k].map((v, i) => v + (SCALE[k + 1][i] - v) * (at - k)) as unknown as Rgb;
}

/** A colour as light, which is what is mixed where triangles are drawn (IEC 61966-2-1). */
export const linear = (c: Rgb): Rgb =>
  c.map((v) => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4)) as unknown as Rgb;

/** What is painted, by the bands of a check or by thickness (``least``: the limit of walls, mm). */
export function painted(
  file: { corners: Float32Array; values: Float32Array },
  found: Checked,
  least: number,
): Paint {
  const colours = new Float32Array(file.values.length * 3);
  const bands = bandColours(found.bands).map(linear);
  const thickest = Number(found.figures.thickest ?? 0);
  file.values.forEach((v, i) => {
    const c =
      found.check === "walls" ? linear(thicknessColour(v, least, thickest)) : (bands[v] ?? linear(BARE));
    colours.set(c, 3 * i);
  });
  return { corners: file.corners, colours };
}

/** Graduations for the legend of a thickness scale, from the limit to the thickest. */
export function graduations(least: number, thickest: number): number[] {
  const from = least || 0.1;
  if (!(thickest > from)) return [from];
  const marks = [1, 1.5, 2, 3, 5, 7]
    .flatMap((m) => [-2, -1, 0, 1, 2, 3].map((p) => m * 10 ** p))
    .filter((v) => v > from * 1.15 && v < thickest / 1.15)
    .sort((a, b) => a - b);
  const every = Math.max(1, Math.ceil(marks.length / 4));
  return [from, ...marks.filter((_, i) => i % every === 0), thickest];
}
