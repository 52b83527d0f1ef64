/** When a sketch is opened, the sheet goes to the view that shows its plane, unless it is told not to. */
import type { XYZ } from "../api/types";
import { board, frameOf, stillAt, useBoard } from "../state/store";
import { pagesOf } from "./pages";
import type { Side } from "./placedViews";
import { placedOn, type SeenView, viewsOn } from "./viewsOnPage";

const TOWARDS: Record<Side, XYZ> = {
  front: [0, -1, 0],
  top: [0, 0, 1],
  right: [1, 0, 0],
  left: [-1, 0, 0],
  under: [0, 0, -1],
  back: [0, 1, 0],
};

/** From which side a plane is seen in its true shape, null for one that no view is square to. */
export function sideOf(normal: XYZ): Side | null {
  const along = (side: Side) => TOWARDS[side].reduce((sum, v, i) => sum + v * normal[i], 0);
  return (Object.keys(TOWARDS) as Side[]).find((side) => along(side) > 0.9999) ?? null;
}

const OPPOSITE: Record<Side, Side> = {
  front: "back",
  back: "front",
  top: "under",
  under: "top",
  left: "right",
  right: "left",
};

/** The box of the view that shows a side: that one, else the one from behind, where its outline is the same. */
export function viewOf(views: SeenView[], side: Side): number[] | null {
  const from = (wanted: Side) =>
    (views.find((v) => v.side === wanted && v.cut == null) ?? views.find((v) => v.side === wanted))?.box;
  return from(side) ?? from(OPPOSITE[side]) ?? null;
}

async function follow(sketch: string) {
  const s = board();
  const frame = frameOf(s, sketch);
  const side = frame && sideOf(frame.normal as XYZ);
  const pages = pagesOf(s.part?.document);
  if (!side || !s.part || !pages.length) return;
  const part = s.part;
  const solid = !!s.build?.bodies?.length;
  const first = Math.min(s.sheetPage, pages.length - 1);
  for (const number of [first, ...pages.keys()].filter((n, i) => i === 0 || n !== first)) {
    const page = pages[number];
    const views = solid ? await viewsOn(part.id, part.version, page, number) : placedOn(page);
    const box = viewOf(views, side);
    if (!stillAt(part) || board().sketch !== sketch || !board().following) return;
    if (box) {
      useBoard.setState({ sheetPage: number, sheetAt: { page: number, box } });
      return;
    }
  }
}

useBoard.subscribe((now, before) => {
  if (now.sketch && now.sketch !== before.sketch && now.following && now.build?.version === now.part?.version)
    follow(now.sketch);
});
