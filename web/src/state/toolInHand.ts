/** What the board knows of the drawing tool in hand. */
import type { Entity, XY } from "../api/types";
import type { Lead, Snap } from "../geometry/ties";

export type Ghost =
  | { kind: "line"; p: XY; q: XY }
  | { kind: "circle"; c: XY; r: number }
  | { kind: "arc"; c: XY; r: number; p: XY; q: XY }
  | { kind: "ellipse"; c: XY; m: XY; n: XY }
  | { kind: "ellipse_arc"; c: XY; m: XY; n: XY; p: XY; q: XY }
  | { kind: "spline"; form: "through" | "control"; points: XY[] }
  | { kind: "text"; text: string; p: XY; q: XY; m: XY; c: XY }
  | { kind: "faint" | "strong"; entity: Entity }
  | { kind: "trail" | "path"; points: XY[] }
  | { kind: "point"; at: XY };

/** A value that can be typed while drawing. */
export interface Typed {
  key: string;
  label: string;
  text: string; // what was typed; empty: follows the pointer
  now: number; // what the pointer gives
  unit: string;
}

export interface ToolInHand {
  readonly id: string;
  readonly label: string;
  readonly catches: boolean;
  readonly standsAnywhere: boolean;
  readonly snap: Snap | null;
  readonly typed: Typed[];
  places: Typed[];
  readonly feeds: { callout: string; text: string }[];
  hint(): string;
  ghosts(): Ghost[];
  click(s: Snap): void;
  key(key: string): boolean;
  entryWords(): string | null;
  lead(): Lead | null;
  from(): XY | null;
  straight(): boolean;
  slides(): string | null;
  sweeps(): boolean;
  sweep(at: XY): void;
  swept(): void;
  interrupt(): void;
  move(s: Snap): void;
  typePlace(begun: string): boolean;
  enter(): void;
  type(key: string, text: string): void;
  feed(callout: string, text: string): boolean;
  back(): boolean;
}
