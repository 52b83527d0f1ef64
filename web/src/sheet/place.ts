/** Where things of a page are on the screen, however it is turned, moved and zoomed. */
import type { XY } from "../api/types";

/** How a page is looked at: ``k`` times as large as it fits, its top left corner at (x, y) of the frame. */
export interface Look {
  k: number;
  x: number;
  y: number;
}

/** A place on the page, as shares of its width and height, on the page as it is turned clockwise; and back. */
export function turned(turn: number, [x, y]: XY): XY {
  return turn === 90 ? [1 - y, x] : turn === 180 ? [1 - x, 1 - y] : turn === 270 ? [y, 1 - x] : [x, y];
}

export const unturned = (turn: number, at: XY) => turned((360 - turn) % 360, at);

/** How large a page is when it just fits a frame, in its turned position. */
export function fitted(page: XY, turn: number, frame: XY): XY {
  const [w, h] = turn % 180 ? [page[1], page[0]] : page;
  const k = Math.min(frame[0] / w, frame[1] / h);
  return [w * k, h * k];
}

/** The page as it fits, in the middle of its frame. */
export const centred = (size: XY, frame: XY): Look => ({
  k: 1,
  x: (frame[0] - size[0]) / 2,
  y: (frame[1] - size[1]) / 2,
});

export const NEAREST = 40;

/** Zoomed by a factor about a place of the frame; back at a fit it stands in the middle again. */
export function zoomed(look: Look, by: number, [px, py]: XY, size: XY, frame: XY): Look {
  const k = Math.min(NEAREST, Math.max(1, look.k * by));
  if (k === 1) return centred(size, frame);
  return { k, x: px - ((px - look.x) * k) / look.k, y: py - ((py - look.y) * k) / look.k };
}

/** The box of a text (shares of the page) on the page as it is turned. */
export function turnedBox(turn: number, [left, top, right, bottom]: number[]): [XY, XY] {
  const [a, b] = [turned(turn, [left, top]), turned(turn, [right, bottom])];
  return [
    [Math.min(a[0], b[0]), Math.min(a[1], b[1])],
    [Math.max(a[0], b[0]), Math.max(a[1], b[1])],
  ];
}

/** How a page is looked at so that a box on it (as it is turned) is seen with room round it. */
export function closeTo(box: number[], size: XY, frame: XY): Look {
  const [left, top, right, bottom] = box;
  const wide = Math.max((right - left) * size[0], 0.04 * size[0]);
  const high = Math.max((bottom - top) * size[1], 0.04 * size[0]);
  const k = Math.min(NEAREST, Math.max(1, 0.45 * Math.min(frame[0] / wide, frame[1] / high)));
  const [x, y] = [((left + right) / 2) * size[0] * k, ((top + bottom) / 2) * size[1] * k];
  return { k, x: frame[0] / 2 - x, y: frame[1] / 2 - y };
}
