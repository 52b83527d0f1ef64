/** The sheet's lines held against the part: asked for page by page and version by version, while they are looked at. */
import { useEffect } from "react";
import { get, type Refused } from "../api/client";
import type { LinePiece, SheetLines } from "../api/types";
import { board, stillAt, useBoard } from "../state/store";
import { keyOf, pageNow } from "./pages";

function named(): string {
  const { build, sheetPage, lineTolerance } = board();
  const file = pageNow();
  return [file && keyOf(file), sheetPage, build?.version, lineTolerance].join(" ");
}

async function ask(of: string) {
  const { part, sheetPage, lineTolerance } = board();
  if (!part) return;
  let said: SheetLines | null = null;
  let trouble = "";
  try {
    said = await get<SheetLines>(`/api/parts/${part.id}/sheet/${sheetPage}/lines?tolerance=${lineTolerance}`);
  } catch (error) {
    trouble = (error as Refused).sentence;
  }
  if (stillAt(part) && board().lines?.of === of) useBoard.setState({ lines: { of, said, trouble } });
}

/** What is known of the lines of the page that is looked at, of the part as it is built; kept up while it is used. */
export function useLines() {
  const lining = useBoard((s) => s.lining);
  const ready = useBoard((s) => s.build?.version === s.part?.version);
  const of = useBoard(() => named());
  const lines = useBoard((s) => s.lines);
  useEffect(() => {
    if (!lining || !ready || board().lines?.of === of) return;
    useBoard.setState({ lines: { of, said: null, trouble: "" }, linePiece: null });
    ask(of);
  }, [lining, ready, of]);
  return lines?.of === of ? lines : null;
}

/** Names a piece of a list: of a view, what no edge explains or what is not shown. */
export const pieceName = (view: number, list: "unexplained" | "missing", k: number) => `${view} ${list} ${k}`;

export function pieceAt(name: string): LinePiece | null {
  const [view, list, k] = name.split(" ");
  const found = board().lines?.said?.views[Number(view)];
  return found?.[list as "unexplained" | "missing"][Number(k)] ?? null;
}
