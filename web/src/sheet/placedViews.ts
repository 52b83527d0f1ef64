/** Views placed by hand on a page: the part's outline is laid over them. */
import { post } from "../api/client";
import type { Part, XY } from "../api/types";
import { changing, run } from "../document/commands";
import { board, useBoard } from "../state/store";
import { lookOf, pageNow } from "./pages";

export type Side = "front" | "top" | "right" | "left" | "under" | "back";
export const SIDES: Side[] = ["front", "top", "right", "left", "under", "back"];

/** A view between two corners, from the side that fits it. */
export async function placeView(page: number, corners: [XY, XY]) {
  const done = await changing((part) =>
    post<Part>(`/api/parts/${part.id}/sheet/${page}/view`, { version: part.version, corners }),
  );
  if (done) useBoard.setState({ sheetMode: null, lining: true });
}

const placed = () => {
  const page = pageNow();
  return (page && lookOf(page).views) ?? [];
};

/** One of the page's placed views seen from another side, or let go (null). */
export function changeView(index: number, side: Side | null) {
  const page = board().sheetPage;
  const views = placed();
  if (side === null) run({ do: "set_page", page, views: views.filter((_, i) => i !== index) });
  else
    changing((part) =>
      post<Part>(`/api/parts/${part.id}/sheet/${page}/view`, {
        version: part.version,
        corners: views[index].corners,
        side,
        instead: index,
      }),
    );
}
