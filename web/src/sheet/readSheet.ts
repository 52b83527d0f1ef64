/** What stands on the sheet, asked for page by page, and taken as callouts: all at once or one by one. */
import { get, type Refused } from "../api/client";
import type { Proposed, SheetReading, XY } from "../api/types";
import { run } from "../document/commands";
import { board, showMessage, stillAt, useBoard } from "../state/store";
import { keyOf, pageNow } from "./pages";

const TOGETHER = 300; // commands in one change

/** Read the page that is looked at, unless it has been; null where it cannot be read, with the reason in the state. */
export async function readPage(): Promise<SheetReading | null> {
  const { part, sheetPage: page, sheetRead } = board();
  const file = pageNow();
  if (!part || !file) return null;
  const of = keyOf(file);
  if (sheetRead?.of === of && (sheetRead.said || sheetRead.trouble)) return sheetRead.said;
  useBoard.setState({ sheetRead: { of, said: null, trouble: "" } });
  let said: SheetReading | null = null;
  let trouble = "";
  try {
    said = await get<SheetReading>(`/api/parts/${part.id}/sheet/${page}/reading`);
  } catch (error) {
    trouble = (error as Refused).sentence;
  }
  if (stillAt(part) && board().sheetRead?.of === of) useBoard.setState({ sheetRead: { of, said, trouble } });
  return said;
}

/** What was read of the page that is looked at. */
export function pageReading(): SheetReading | null {
  const file = pageNow();
  const { sheetRead } = board();
  return file && sheetRead?.of === keyOf(file) ? sheetRead.said : null;
}

/** Open the list of what stands on the page. */
export async function openReading() {
  useBoard.setState({ reading: true, sheetMode: null, workingOut: null });
  await readPage();
}

/** The callout that has a text of the page already: as it was read, or taken since. */
export function ownerOf(one: Proposed): string | null {
  const { part, sheetPage } = board();
  const callouts = part?.document.callouts ?? [];
  const there = callouts.find((c) => c.id === one.callout);
  if (there) return there.id;
  const same = (at: XY | null | undefined) => at?.[0] === one.at[0] && at?.[1] === one.at[1];
  return callouts.find((c) => c.page === sheetPage && same(c.at as XY | null | undefined))?.id ?? null;
}

/** Texts of the page as callouts, in one change (very many in several), numbered after those there are. Those that have a balloon stay. */
export async function takeTexts(texts: Proposed[]): Promise<boolean> {
  const { part, sheetPage: page } = board();
  const fresh = texts.filter((t) => !ownerOf(t));
  if (!part || !fresh.length) return false;
  const callouts = part.document.callouts ?? [];
  const top = Math.max(0, ...callouts.map((c) => c.number));
  const id = Math.max(0, ...callouts.map((c) => Number(c.id.slice(1))));
  const unit = pageReading()?.unit ?? null;
  const commands = fresh.map((t, i) => ({
    do: "set_callout" as const,
    callout: { id: `b${id + 1 + i}`, number: top + 1 + i, text: t.text.slice(0, 200), page, at: t.at, unit },
  }));
  let ok = true;
  for (let from = 0; ok && from < commands.length; from += TOGETHER) {
    const some = commands.slice(from, from + TOGETHER);
    ok = await run(some.length > 1 ? { do: "together", commands: some } : some[0]);
  }
  if (ok && commands.length > 1)
    showMessage(`${commands.length} sizes taken from the sheet as callouts.`, "proof");
  return ok;
}

/** The text of the page that a press at a place (shares of the page) means: the one it lies on, or close beside. */
export function textAt(said: SheetReading, [x, y]: XY, size: XY): Proposed | null {
  let best: Proposed | null = null;
  let least = Number.POSITIVE_INFINITY;
  for (const one of [...said.sizes, ...said.notes]) {
    const [left, top, right, bottom] = one.box;
    const [w, h] = [(right - left) * size[0], (bottom - top) * size[1]];
    const dx = Math.max(left - x, x - right, 0) * size[0];
    const dy = Math.max(top - y, y - bottom, 0) * size[1];
    const away = Math.hypot(dx, dy);
    if (away <= 0.8 * Math.min(w, h) && away < least) {
      least = away;
      best = one;
    }
  }
  return best;
}
