/** When a sketch is opened, the sheet goes to the view that shows its plane, unless it is told not to. */
import { get } from "../api/client";
import type { SheetLines, XYZ } from "../api/types";
import { board, frameOf, stillAt, useBoard } from "../state/store";
import { keyOf, lookOf, pagesOf, type SheetPage } from "./pages";
import type { Side } from "./placedViews";

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

type Seen = { side: Side | null; box: number[]; cut?: number | null };

/** The box of the view that shows a side: that one, else the one from behind, where its outline is the same. */
export function viewOf(views: Seen[], side: Side): number[] | null {
  const from = (wanted: Side) =>
    (views.find((v) => v.side === wanted && v.cut == null) ?? views.find((v) => v.side === wanted))?.box;
  return from(side) ?? from(OPPOSITE[side]) ?? null;
}

const known = new Map<string, Seen[]>(); // views of a page, of one build

async function viewsOn(page: SheetPage, number: number): Promise<Seen[]> {
  const { part, build } = board();
  const placed = (lookOf(page).views ?? []).map((v) => ({ side: v.side, box: v.corners.flat() }));
  if (!part || !build?.bodies?.length || /png|jpeg/.test(page.sheet.media_type)) return placed;
  const of = `${part.id} ${keyOf(page)} ${build.version}`;
  if (!known.has(of)) {
    known.clear();
    try {
      const said = await get<SheetLines>(`/api/parts/${part.id}/sheet/${number}/lines`);
      known.set(
        of,
        said.views.filter((v) => !v.by_hand),
      );
    } catch {
      return placed; // it is a help, and nobody asked for it
    }
  }
  return [...placed, ...(known.get(of) ?? [])];
}

async function follow(sketch: string) {
  const s = board();
  const frame = frameOf(s, sketch);
  const side = frame && sideOf(frame.normal as XYZ);
  const pages = pagesOf(s.part?.document);
  if (!side || !s.part || !pages.length) return;
  const part = s.part;
  const first = Math.min(s.sheetPage, pages.length - 1);
  for (const number of [first, ...pages.keys()].filter((n, i) => i === 0 || n !== first)) {
    const box = viewOf(await viewsOn(pages[number], number), side);
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
