/** How solids are drawn: which of faces, edges and hidden edges, and in what ink. */
import {
  Color,
  DoubleSide,
  GreaterDepth,
  LineBasicMaterial,
  LineDashedMaterial,
  MeshLambertMaterial,
  type Plane,
} from "three";

export type Drawn = "edges" | "shaded" | "dashed" | "lines" | "through";

export const DRAWN: Record<Drawn, string> = {
  edges: "shaded, with edges",
  shaded: "shaded",
  dashed: "hidden lines dashed",
  lines: "all lines",
  through: "see-through",
};

const INK = new Color("#1E2A44");
const CHALK = new Color("#F4F1E8");
const PAPER = "#F4F1E8";

/** Relative luminance of a colour (WCAG 2, sRGB). */
function luminance(c: Color): number {
  return 0.2126 * c.r + 0.7152 * c.g + 0.0722 * c.b; // three keeps colours linear
}

/** Ink, or chalk where ink would drown in the body's colour: contrast of at least 2.5 to 1. */
export function edgeColour(body: string, how: Drawn): Color {
  if (how === "dashed" || how === "lines") return INK;
  const contrast = (luminance(new Color(body)) + 0.05) / (luminance(INK) + 0.05);
  return contrast < 2.5 ? CHALK : INK;
}

export function faceMaterial(colour: string, how: Drawn, dimmed: boolean, clippingPlanes: Plane[]) {
  const opacity = dimmed ? 0.35 : how === "through" ? 0.3 : 1;
  const material = new MeshLambertMaterial({
    color: how === "dashed" ? PAPER : colour,
    emissive: how === "dashed" ? new Color(PAPER) : new Color(0),
    side: DoubleSide,
    transparent: opacity < 1,
    opacity,
    depthWrite: how !== "through",
    polygonOffset: true,
    polygonOffsetFactor: 1,
    polygonOffsetUnits: 1,
    clippingPlanes,
  });
  material.visible = how !== "lines";
  return material;
}

export function edgeMaterial(colour: Color, opacity: number, how: Drawn, clippingPlanes: Plane[]) {
  const material = new LineBasicMaterial({
    color: colour,
    transparent: opacity < 1,
    opacity,
    clippingPlanes,
  });
  material.visible = how !== "shaded";
  return material;
}

/** The dashes of what lies behind faces, as ISO 128 draws hidden edges. Null where none are drawn. */
export function hiddenMaterial(colour: Color, how: Drawn, dash: number, clippingPlanes: Plane[]) {
  if (how !== "dashed") return null;
  return new LineDashedMaterial({
    color: colour,
    dashSize: 3 * dash,
    gapSize: 1.5 * dash,
    depthFunc: GreaterDepth,
    depthWrite: false,
    clippingPlanes,
  });
}
