/** The sheet beside the board: how much room it has, which page is looked at, what a press on it is for, what was read. */
import type { SheetLines, SheetReading, XY } from "../../api/types";

/** Beside the board, at half the window, or over the whole board. */
export type SheetSize = "side" | "half" | "whole";

/** What the next press on the drawing is for: a balloon, a known length, a measurement, a view whose outline goes into
 * the sketch, the corners of a view that is placed; or a balloon's place. */
export type SheetMode = XY | "aim" | "scale" | "measure" | "outline" | "place" | null;

/** What stands on one page of one file; ``trouble``: why it cannot be read. */
export interface PageReading {
  of: string; // file and page
  said: SheetReading | null;
  trouble: string;
}

/** A page's lines held against one version of the part; ``trouble``: why they cannot be. */
export interface PageLines {
  of: string; // file, page, version and tolerance
  said: SheetLines | null;
  trouble: string;
}

export interface SheetSlice {
  sheetSize: SheetSize;
  sheetPage: number;
  sheetMode: SheetMode;
  following: boolean; // the sheet goes to the view of a sketch that is opened
  sheetAt: { page: number; box: number[] } | null; // where it was sent last: shares of a page
  sheetRead: PageReading | null; // newest; null while it was not asked for
  reading: boolean; // the list of what was read is open
  readLit: string | null; // which text of it is lit on the sheet
  lining: boolean; // the sheet's lines are held against the part
  lines: PageLines | null;
  lineTolerance: number; // mm of the part
  blend: number; // 0: the sheet alone, 1: the part's lines alone
  linePiece: string | null; // what of the list is looked at: view, side and place in the list
  outlineWith: { centres: boolean; hidden: boolean; others: boolean }; // what comes along with a view's outline
  several: string[]; // callouts chosen together, in the order they were pressed
  workingOut: string | null; // arithmetic over balloons that is being put together: “[1] - [2]”
}

export const sheet: SheetSlice = {
  sheetSize: "side",
  sheetPage: 0,
  sheetMode: null,
  following: true,
  sheetAt: null,
  sheetRead: null,
  reading: false,
  readLit: null,
  lining: false,
  lines: null,
  lineTolerance: 0.1,
  blend: 0.4,
  linePiece: null,
  outlineWith: { centres: true, hidden: false, others: false },
  several: [],
  workingOut: null,
};
