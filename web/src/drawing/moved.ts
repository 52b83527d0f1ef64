/** Where a size or a view of the drawing stands after it was dragged, as the part keeps it. All in mm of the paper, y up. */
import type { components } from "../api/schema.gen";
import type { DrawnSize, DrawnView } from "../api/types";

export type SizePlace = components["schemas"]["SizePlace"];
export type XY = [number, number];

const dot = (a: XY, b: XY) => a[0] * b[0] + a[1] * b[1];
const turnTo = (from: XY, p: XY) => Math.atan2(p[1] - from[1], p[0] - from[0]);
const tidy = (v: number) => Math.round(v * 1000) / 1000;

/** A size moved ``by`` so much. ``view``: the one it was put in by hand, if it was. */
export function sizeMoved(size: DrawnSize, by: XY, view = ""): SizePlace {
  const keep = (at: XY, side: -1 | 1 = 1): SizePlace => ({
    view: view as SizePlace["view"],
    hidden: false,
    at: [tidy(at[0]), tidy(at[1])],
    side,
  });
  if (size.kind === "line" && size.along) {
    const u = size.along as XY;
    const v: XY = [-u[1], u[0]];
    const [low, high] = size.span;
    const line = (size.side > 0 ? high + size.at[1] : low - size.at[1]) + dot(by, v);
    const shift = size.at[0] + dot(by, u);
    // it belongs to the side of the outline that it is nearer to
    return line >= (low + high) / 2 ? keep([shift, line - high], 1) : keep([shift, low - line], -1);
  }
  if (size.kind === "arc" && size.apex && size.middle) {
    const apex = size.apex as XY;
    const from = size.middle as XY;
    const to: XY = [from[0] + by[0], from[1] + by[1]];
    const radius = Math.max(
      4,
      size.at[1] +
        Math.hypot(to[0] - apex[0], to[1] - apex[1]) -
        Math.hypot(from[0] - apex[0], from[1] - apex[1]),
    );
    let turned = turnTo(apex, to) - turnTo(apex, from);
    turned = Math.atan2(Math.sin(turned), Math.cos(turned));
    return keep([(size.at[0] / size.at[1] + turned) * radius, radius]);
  }
  return keep([size.at[0] + by[0], size.at[1] + by[1]]);
}

/** Where the middle of a view stands after it was moved. */
export function viewMoved(view: DrawnView, by: XY): XY {
  const [left, low, right, high] = view.outline;
  return [tidy((left + right) / 2 + by[0]), tidy((low + high) / 2 + by[1])];
}

/** How far a view really goes when it is dragged: those beside the main one stay in projection with it. */
export function held(view: DrawnView, by: XY): XY {
  if (["right", "left", "rear"].includes(view.seat)) return [by[0], 0];
  if (["above", "below"].includes(view.seat)) return [0, by[1]];
  return by;
}

export const VIEW_WORDS: Record<string, string> = {
  front: "front view",
  top: "top view",
  right: "right side view",
  left: "left side view",
  under: "bottom view",
  back: "rear view",
  iso: "isometric picture",
};

/** A view in words. */
export function viewWords(name: string): string {
  const [kind, letter] = name.split("-");
  if (kind === "section") return `section ${letter}-${letter}`;
  if (kind === "detail") return `detail ${letter}`;
  return VIEW_WORDS[name] ?? name;
}

/** The first letter that nothing on the drawing has; those that look like figures are left out. */
export function freeLetter(taken: string[]): string {
  return [..."ABCDEFGHJKLMNPRTUVWY"].find((l) => !taken.includes(l)) ?? "Z";
}
