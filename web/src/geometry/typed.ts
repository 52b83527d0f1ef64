/** How a round size is typed: “R17”, “Ø34”, or a bare value. */

/** A radius, and not a value whose name begins with r. */
const RADIUS = /^\s*R(?=\s*[\d.,(])/i;

/** What a round size was typed as; null for a bare value. */
export const typedAs = (text: string): "radius" | "diameter" | null =>
  RADIUS.test(text) ? "radius" : /^\s*[Ø⌀]/.test(text) ? "diameter" : null;

/** About what a typed size gives, for drawing it before the core has worked it out: null where it cannot be told. */
export function roughly(text: string): number | null {
  const plain = text.trim().replaceAll(",", ".");
  if (plain && Number.isFinite(Number(plain))) return Number(plain);
  const mixed = /^(\d+) +(\d+)\/(\d+)$/.exec(plain);
  if (mixed) return Number(mixed[1]) + Number(mixed[2]) / Number(mixed[3]);
  const two = /^([\d.]+)\s*([-+*/])\s*([\d.]+)$/.exec(plain);
  if (!two) return null;
  const [a, b] = [Number(two[1]), Number(two[3])];
  const found = { "+": a + b, "-": a - b, "*": a * b, "/": a / b }[two[2]];
  return Number.isFinite(found) ? (found ?? null) : null;
}

export const unprefixed = (text: string) =>
  text
    .replace(RADIUS, "")
    .replace(/^\s*[Ø⌀]/, "")
    .trim();

/** A chamfer as a drawing writes it: 3, 3 × 45°, 3 × 2 (two distances), 3 × 30° (distance and angle). */
export function bevel(text: string): { distance: string; second?: string; angle?: string } {
  const [, distance, other] = /^(.+?)\s*(?:×|(?<=[\d)\s])[xX](?=[\d(\s]))\s*(.+)$/.exec(text) ?? [];
  if (!distance) return { distance: text };
  const angle = /^(.+?)\s*(°|deg)\s*$/.exec(other)?.[1];
  if (angle === undefined) return { distance: distance.trim(), second: other.trim() };
  return angle === "45" ? { distance: distance.trim() } : { distance: distance.trim(), angle };
}
