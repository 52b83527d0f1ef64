/** Which view of the sheet shows a sketch's plane. */
import { expect, test } from "vitest";
import { sideOf, viewOf } from "../src/sheet/followView";

test("a plane is shown by the view square to it", () => {
  expect(sideOf([0, 0, 1])).toBe("top");
  expect(sideOf([0, -1, 0])).toBe("front");
  expect(sideOf([-1, 0, 0])).toBe("left");
  expect(sideOf([0, 0.6, 0.8])).toBeNull();
});

test("where there is none the view from behind does", () => {
  const views = [
    { side: "top" as const, box: [0, 0, 1, 1] },
    { side: null, box: [0, 0, 0.1, 0.1] },
    { side: "right" as const, box: [0.5, 0.5, 1, 1] },
  ];
  expect(viewOf(views, "top")).toEqual([0, 0, 1, 1]);
  expect(viewOf(views, "under")).toEqual([0, 0, 1, 1]);
  expect(viewOf(views, "left")).toEqual([0.5, 0.5, 1, 1]);
  expect(viewOf(views, "front")).toBeNull();
});
