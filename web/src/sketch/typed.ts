/** How a round size is typed: “R17”, “Ø34”, or a bare value. */

/** A radius, and not a value whose name begins with r. */
const RADIUS = /^\s*R(?=\s*[\d.,(])/i;

/** What a round size was typed as; null for a bare value. */
export const typedAs = (text: string): "radius" | "diameter" | null =>
  RADIUS.test(text) ? "radius" : /^\s*[Ø⌀]/.test(text) ? "diameter" : null;

export const unprefixed = (text: string) =>
  text
    .replace(RADIUS, "")
    .replace(/^\s*[Ø⌀]/, "")
    .trim();
