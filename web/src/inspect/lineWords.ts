/** How views of a sheet and shares of its lines are told. */
import type { SheetViewLines } from "../api/types";
import { lengthSaid } from "../ui/measures";

export const SEEN_FROM: Record<string, string> = {
  front: "seen from the front",
  top: "seen from above",
  right: "seen from the right",
  left: "seen from the left",
  under: "seen from under",
  back: "seen from behind",
};

const ACROSS: Record<string, string> = { front: "y", back: "y", top: "z", under: "z", right: "x", left: "x" };

type SeenView = Pick<SheetViewLines, "side" | "turn" | "name" | "cut" | "partly"> &
  Partial<Pick<SheetViewLines, "cuts" | "inclined">>;

const planes = (v: SeenView, unit: "mm" | "in") =>
  (v.cuts?.length ? v.cuts : [v.cut!]).map((at) => lengthSaid(at, unit, 3)).join(", ");

/** A view in words: a section by its letters, where it is cut, from which side it is seen. */
export function viewSaid(v: SeenView, unit: "mm" | "in"): string {
  if (!v.side) {
    if (v.name === "isometric") return "isometric picture";
    if (v.inclined != null) return `section ${v.name}, cut along a plane at ${v.inclined.toFixed(1)}°`;
    return v.name
      ? `section ${v.name}, which no cut of the part gives`
      : "the part looks like this from no side";
  }
  const cut =
    v.cut == null
      ? ""
      : `cut ${v.cuts?.length ? "in steps " : ""}at ${ACROSS[v.side]} ${planes(v, unit)}${v.partly ? " in part" : ""}`;
  const said = [v.name && `section ${v.name}`, cut, SEEN_FROM[v.side], v.turn ? `turned ${v.turn}°` : ""];
  return said.filter(Boolean).join(", ");
}

/** A share as it stands, never rounded up to all. */
export const percent = (share: number) => `${(Math.floor(share * 1000) / 10).toFixed(1)} %`;
