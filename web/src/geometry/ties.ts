/** What a click would make: where it catches, and the ties that follow from it. */
import type { XY } from "../api/types";

/** A tie that follows from a click. ``of`` “point”: the placed point with ``ref``; “line”: the drawn line. */
export interface Tie {
  of: "point" | "line";
  kind:
    | "coincident"
    | "midpoint"
    | "horizontal"
    | "vertical"
    | "parallel"
    | "perpendicular"
    | "tangent"
    | "typed"; // where it stands was typed: X and Y from the origin
  ref: string | null;
  x?: string;
  y?: string;
}

/** A curve that runs up to where a line starts, and the direction it would go on in. */
export interface Lead {
  ref: string;
  way: XY;
}

export interface Snap {
  at: XY;
  ties: Tie[];
  words: string;
  guides?: [XY, XY][]; // alignment lines to show, from the point touched to what is caught
  start?: XY; // where the line's start slides to, along the curve it lies on, so that the line touches that curve
}
