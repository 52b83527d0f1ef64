/** The sketch's colours, as the drawing code of the board gives them, and its affine as SVG wants it. */
import type { Affine } from "../geometry/affine";

export const INK = "#1E2A44";
export const PENCIL = "#8C8577";
export const RED = "#B83720";
export const PROOF = "#0D7063";
export const OCHRE = "#A8741A";
export const matrix = (m: Affine) => `matrix(${m.join(" ")})`;
