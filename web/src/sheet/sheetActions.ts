/** Actions on the sheet: its room beside the board, reading it, ballooning, working sizes out. */
import { fit } from "../camera/viewControl";
import type { Action } from "../state/action";
import { board, editable, type SheetSize, useBoard } from "../state/store";
import { openReading, readPage } from "./readSheet";
import { chooseView } from "./takeOutline";

const SIZES: SheetSize[] = ["side", "half", "whole"];

const shown = () => Boolean(board().part?.document.sheet);

/** Give the sheet more or less room: beside the board, half the window, the whole board. */
export function resize(by: 1 | -1) {
  const at = SIZES.indexOf(board().sheetSize);
  useBoard.setState({ sheetSize: SIZES[Math.min(SIZES.length - 1, Math.max(0, at + by))] });
  // the board has its new width by then
  setTimeout(() => board().scene && board().sketch === null && fit(), 80);
}

/** Begin to balloon: the next presses on the drawing are for that. */
export function balloon() {
  const ballooning = board().sheetMode === "aim" || Array.isArray(board().sheetMode);
  useBoard.setState({
    sheetMode: ballooning ? null : shown() ? "aim" : [0, 0],
    reading: false,
    workingOut: null,
  });
  if (!ballooning && shown()) readPage();
}

export function workOut() {
  useBoard.setState((s) => ({
    workingOut: s.workingOut === null ? "" : null,
    sheetMode: null,
    reading: false,
  }));
}

export const SHEET_ACTIONS: Action[] = [
  {
    id: "sheet-follow",
    words: "Sheet follows opened sketches on/off",
    keys: "s f",
    group: "view",
    when: shown,
    run: () => useBoard.setState((s) => ({ following: !s.following })),
  },
  {
    id: "sheet-wider",
    words: "More room for the sheet",
    also: "half whole drawing larger",
    keys: "w",
    group: "view",
    when: () => shown() && board().sheetSize !== "whole",
    run: () => resize(1),
  },
  {
    id: "sheet-narrower",
    words: "Less room for the sheet",
    also: "drawing smaller beside",
    keys: "n",
    group: "view",
    when: () => shown() && board().sheetSize !== "side",
    run: () => resize(-1),
  },
  {
    id: "sheet-read",
    words: "Read the sheet",
    also: "callouts sizes balloons all",
    keys: "s r",
    group: "check",
    when: () => shown() && editable(),
    run: () => void openReading(),
  },
  {
    id: "sheet-lines",
    words: "Hold the sheet's lines against the part",
    also: "overlay compare explained differences",
    keys: "s l",
    group: "check",
    when: () => shown() && (board().build?.bodies?.length ?? 0) > 0,
    run: () => useBoard.setState((s) => ({ lining: !s.lining, reading: false, linePiece: null })),
  },
  {
    id: "sheet-outline",
    words: "Outline of a view into the sketch",
    also: "sheet lines trace bring in",
    keys: "s v",
    group: "edit",
    when: () => shown() && editable() && board().sketch !== null,
    run: () => void chooseView(),
  },
  {
    id: "sheet-balloon",
    words: "Balloon sizes",
    also: "callout",
    keys: "s b",
    group: "check",
    when: editable,
    run: balloon,
  },
  {
    id: "sheet-work-out",
    words: "Work a size out from others",
    also: "callout sum difference",
    keys: "s w",
    group: "check",
    when: () => editable() && (board().part?.document.callouts ?? []).length > 0,
    run: workOut,
  },
];
