/** The views of a page: those placed by hand, and those that are recognised. */
import { get } from "../api/client";
import type { SheetLines } from "../api/types";
import { keyOf, lookOf, type SheetPage } from "./pages";
import type { Side } from "./placedViews";

export type SeenView = { side: Side | null; box: number[]; cut?: number | null };

export const placedOn = (page: SheetPage): SeenView[] =>
  (lookOf(page).views ?? []).map((v) => ({ side: v.side, box: v.corners.flat() }));

const known = new Map<string, SeenView[]>(); // of pages, of one build

/** ``number``: the page's among all sheets of a part; ``version``: of the build that it is held against. Those placed by
 * hand are all there are where the others cannot be had. */
export async function viewsOn(
  part: string,
  version: number,
  page: SheetPage,
  number: number,
): Promise<SeenView[]> {
  const build = `${part} ${version} `;
  const of = build + keyOf(page);
  if (!known.has(of) && !/png|jpeg/.test(page.sheet.media_type)) {
    for (const old of known.keys()) if (!old.startsWith(build)) known.delete(old);
    try {
      const said = await get<SheetLines>(`/api/parts/${part}/sheet/${number}/lines`);
      known.set(
        of,
        said.views.filter((v) => !v.by_hand),
      );
    } catch {
      return placedOn(page); // it is a help, and nobody asked for it
    }
  }
  return [...placedOn(page), ...(known.get(of) ?? [])];
}
