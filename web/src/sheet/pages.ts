/** The pages of all of a part's sheets, counted through; which sheet each is on. */
import type { Doc, XY } from "../api/types";
import { board, useBoard } from "../state/store";

type SheetFile = NonNullable<Doc["sheet"]>;
type Look = Partial<NonNullable<SheetFile["looks"]>[string]>;

export interface SheetPage {
  sheet: SheetFile;
  number: number; // of the sheet, from 0
  own: number; // of its pages, from 0
  points: XY;
}

export function pagesOf(document: Doc | undefined): SheetPage[] {
  const sheets = document?.sheet ? [document.sheet, ...(document.further ?? [])] : [];
  return sheets.flatMap((sheet, number) =>
    sheet.pages.map((points, own) => ({ sheet, number, own, points: points as XY })),
  );
}

/** The page that is looked at, null while there is none. */
export function pageNow(): SheetPage | null {
  const { part, sheetPage } = board();
  const all = pagesOf(part?.document);
  return all[Math.min(sheetPage, all.length - 1)] ?? null;
}

/** How a page is turned, scaled and what was placed on it. */
export const lookOf = (page: SheetPage): Look => page.sheet.looks?.[String(page.own)] ?? {};

/** What tells a page's picture and reading from others. */
export const keyOf = (page: SheetPage) => `${page.sheet.sha256} ${page.own}`;

export const usePages = () => {
  const document = useBoard((s) => s.part?.document);
  return pagesOf(document);
};
