/** Where sizes and views of the drawing stand after they were dragged. */
import { describe, expect, it } from "vitest";
import type { DrawnSize, DrawnView } from "../src/api/types";
import { freeLetter, held, sizeMoved, viewMoved, viewWords } from "../src/drawing/moved";

const size = (more: Partial<DrawnSize>): DrawnSize => ({
  key: "s1.d1",
  text: "40",
  view: "top",
  number: null,
  kind: "line",
  proven: true,
  said: "",
  boxes: [[0, 0, 1, 1]],
  overlaps: 0,
  side: 1,
  at: [0, 9],
  along: [1, 0],
  span: [-15, 15],
  apex: null,
  middle: null,
  ...more,
});

const view = (seat: string): DrawnView => ({
  name: "top",
  seat,
  title: "",
  at: [100, 100],
  scale: 1,
  outline: [80, 90, 120, 130],
  extent: [70, 80, 130, 140],
});

describe("a dimension line", () => {
  it("keeps how far it stands off the outline, and how far its letters off the middle", () => {
    expect(sizeMoved(size({}), [3, 5])).toEqual({ view: "", hidden: false, at: [3, 14], side: 1 });
    expect(sizeMoved(size({ at: [2, 9], side: -1 }), [1, -4], "front")).toEqual({
      view: "front",
      hidden: false,
      at: [3, 13],
      side: -1,
    });
  });
  it("belongs to the side it is dragged to", () => {
    // from 9 above the outline (y 24) to y −26: 11 below it
    expect(sizeMoved(size({}), [0, -50])).toMatchObject({ at: [0, 11], side: -1 });
    // into the outline: nearer to its upper edge, so inside of that
    expect(sizeMoved(size({}), [0, -14])).toMatchObject({ at: [0, -5], side: 1 });
  });
  it("is measured along its own way", () => {
    // upright: along is up, across is to the left
    const upright = size({ along: [0, 1], span: [-20, 20], at: [0, 9], side: 1 });
    expect(sizeMoved(upright, [-4, 6])).toMatchObject({ at: [6, 13], side: 1 });
  });
});

it("a leader keeps its knee from what it points to", () => {
  expect(sizeMoved(size({ kind: "leader", along: null, at: [12, 8] }), [-2, 3]).at).toEqual([10, 11]);
});

it("an arc keeps its radius and where its letters stand on it", () => {
  const arc = size({ kind: "arc", along: null, at: [0, 20], apex: [0, 0], middle: [20, 0] });
  expect(sizeMoved(arc, [10, 0]).at).toEqual([0, 30]);
  const turned = sizeMoved(arc, [-20, 20]).at!;
  expect(turned[0]).toBeCloseTo((Math.PI / 2) * 20, 2);
  expect(turned[1]).toBeCloseTo(20, 6);
  expect(sizeMoved(arc, [-19, 0]).at![1]).toBe(4); // never through its own apex
});

it("views beside the main one stay in projection with it", () => {
  expect(held(view("above"), [7, 9])).toEqual([0, 9]);
  expect(held(view("right"), [7, 9])).toEqual([7, 0]);
  expect(held(view("main"), [7, 9])).toEqual([7, 9]);
  expect(viewMoved(view("free"), [7, 9])).toEqual([107, 119]);
});

it("letters of sections and details are free ones", () => {
  expect(freeLetter([])).toBe("A");
  expect(freeLetter(["A", "B"])).toBe("C");
  expect(freeLetter([..."ABCDEFGH"])).toBe("J");
  expect(viewWords("section-C")).toBe("section C-C");
  expect(viewWords("under")).toBe("bottom view");
});
