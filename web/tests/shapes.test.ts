/** Every shape of the deck drawn with the pointer and typed values, its freedom counted and its area checked. */
import { describe, expect, test } from "vitest";
import type { XY } from "../src/api/types";
import { board } from "../src/state/store";
import { circle, line } from "./desk";
import {
  begin,
  choose,
  dimension,
  entity,
  ids,
  keys,
  kinds,
  move,
  near,
  point,
  press,
  sizes,
  sketch,
  state,
  tied,
  typed,
  value,
  words,
} from "./hand";

const SLOT = 14 * 6 + 9 * Math.PI;
const each = async (...places: XY[]) => {
  for (const [x, y] of places) await press(x, y);
};

describe("slot", () => {
  test("by the distance of its centres", async () => {
    await begin();
    await keys("d", "s");
    await press(0, 0);
    move(10, 0);
    expect(words()).toContain("the other end");
    await typed("14");
    move(7, 4);
    await typed("6");
    near(state().area, SLOT);
    expect(state().freedom).toBe(0); // held on the origin, level, both sizes typed
    expect(
      Object.values(state().measures)
        .map((v) => Number(v.toFixed(6)))
        .sort((a, b) => a - b),
    ).toEqual([6, 14]);
  });

  test("by its overall length", async () => {
    await begin();
    await keys("d", "s");
    await press(0, 0);
    move(10, 0);
    await keys("x");
    expect(board().tool!.entryWords()).toContain("length over all");
    await typed("20");
    move(7, 4);
    await typed("6");
    near(state().area, SLOT);
    expect(state().freedom).toBe(0);
  });

  test("catches level and parallel, its length typed along the line", async () => {
    await begin([line("l1", [-20, -20], [20, 20])]);
    await keys("d", "s");
    await press(-15, 10);
    move(1, 9.8);
    expect(board().tool!.snap!.words).toBe("horizontal");
    await each([1, 9.8], [1, 13]);
    near(entity("l2").p[1], entity("l2").q[1], 1e-9);
    expect(tied()).toContain("horizontal l2");
    await press(0, -15);
    move(10, -5.2);
    expect(board().tool!.snap!.words).toBe("parallel to line 1");
    board().tool!.type("length", "14");
    await each([10, -5.2], [12, -7]);
    expect(tied()).toContain("parallel l1 l4");
    const [a, b] = [entity("a3").c, entity("a4").c];
    near(Math.hypot(a[0] - b[0], a[1] - b[1]), 14);
  });
});

test.each([
  ["g", 6 * 32 * Math.sin(Math.PI / 3), 1],
  ["h", 6 * 64 * Math.tan(Math.PI / 6), 2],
])("a polygon (d %s) over corners or flats", async (key, area, circles) => {
  await begin();
  await keys("d", key);
  await press(0, 0);
  move(0, 6);
  await typed("16", "6");
  near(state().area, area);
  expect(state().freedom).toBe(1); // it can still turn
  expect(kinds()).toEqual([...Array(6).fill("line"), ...Array(circles).fill("circle")]);
});

describe("rectangle", () => {
  test("about its centre", async () => {
    await begin();
    await keys("d", "q");
    await press(0, 0);
    move(11, 7);
    await typed("24", "16");
    const xs = (sketch().entities ?? [])
      .filter((e) => e.kind === "line" && !e.construction)
      .flatMap((e) => (e.kind === "line" ? [e.p[0], e.q[0]] : []));
    near([Math.min(...xs), Math.max(...xs)], [-12, 12]);
    expect(state().freedom).toBe(0);
  });

  test("at any angle", async () => {
    await begin();
    await keys("d", "w");
    await press(0, 0);
    move(8, 6);
    await typed("15");
    move(-3, 9);
    await typed("5");
    near(state().area, 75);
    expect(state().freedom).toBe(1); // about the origin
  });
});

describe("arcs and circles", () => {
  test("an arc about a centre, and a point", async () => {
    await begin();
    await keys("d", "a");
    await press(0, 0);
    move(14, 0);
    await typed("15");
    await press(0, 15);
    await keys("Escape");
    near(entity("a1").r, 15);
    near(entity("a1").c, [0, 0], 1e-9);
    await keys("d", "p");
    await press(7, 4);
    expect(kinds().filter((k) => k === "point")).toHaveLength(1);
  });

  test("through places", async () => {
    await begin();
    await keys("d", "b");
    await each([-8, 0], [8, 0], [0, 8]);
    near(entity("a1").r, 8, 1e-6);
    near(entity("a1").p, [8, 0]); // counter-clockwise, as arcs are kept
    await keys("Escape", "d", "v");
    await each([-3, -6], [3, -6]);
    near(entity("c1").c, [0, -6]);
    await keys("Escape", "d", "n");
    await each([10, -4], [14, -4], [12, -2]);
    near(entity("c2").c, [12, -4]);
  });

  test("a circle touches three curves: the inscribed circle of a triangle", async () => {
    await begin([line("l1", [-12, 0], [12, 0]), line("l2", [-12, 0], [0, 16]), line("l3", [0, 16], [12, 0])]);
    await keys("d", "m");
    await each([1, 0], [-6, 8], [6, 8]);
    const inscribed = (12 * 16) / ((24 + 2 * 20) / 2);
    near(entity("c1").r, inscribed);
    near(entity("c1").c, [0, inscribed]);
    expect(tied().filter((t) => t.startsWith("tangent"))).toHaveLength(3);
  });

  test("an arc through three goes on from both lines round the outside, on the inside it catches nothing", async () => {
    await begin([
      line("l1", [-20, 0], [0, 0]),
      line("l2", [-20, 16], [0, 16]),
      line("l3", [25, 0], [25, 16]),
    ]);
    await keys("d", "b");
    await each([0, 0], [0, 16]);
    move(-8.1, 8);
    expect(board().tool!.snap!.words).not.toContain("tangent");
    move(8.1, 8.1);
    expect(words()).toContain("tangent to line 1 and line 2");
    await press(8.1, 8.1);
    near(entity("a1").r, 8, 1e-7);
    expect(tied()).toContain("tangent a1 l1");
  });
});

describe("lines", () => {
  test("turn into a tangent arc and back: a hook in one chain", async () => {
    await begin();
    await keys("d", "l");
    await each([-8, 0], [4, 0]);
    await keys("a");
    expect(words()).toContain("a goes back to lines");
    await press(4, 8);
    move(-2, 8.1);
    expect(board().tool!.snap!.words).toContain("tangent to arc 1");
    await press(-2, 8.1);
    expect(kinds()).toEqual(["line", "arc", "line"]);
    near(entity("a1").r, 4, 0.1);
    near(entity("l2").p, entity("a1").q, 1e-9);
    expect(tied()).toEqual(expect.arrayContaining(["tangent a1 l1", "tangent a1 l2"]));
    await keys("Escape", "Escape", "d", "t");
    await each([-8, 0], [-12, 4]); // an arc that goes on from the other end
    near(entity("a2").c, [-8, 4], 0.3);
  });

  test("by X and Y from the last point", async () => {
    await begin();
    await keys("d", "l");
    await press(0, 0);
    move(5, 4);
    await keys("x");
    expect(board().tool!.entryWords()).toContain("X and Y from the last point");
    await typed("12", "7");
    move(4, 9);
    await keys("x");
    await typed("-3", "0");
    near(entity("l1").q, [12, 7], 1e-9);
    near(entity("l2").q, [-3, 0], 1e-9);
    expect(state().freedom).toBe(0);
  });

  test("what is drawn lines up with points passed over before", async () => {
    await begin([circle("c1", [-12, 3], 3), circle("c2", [9, -8], 3)]);
    await keys("d", "p");
    move(-12, 3); // touched
    move(9, -8);
    move(8.8, 3.1);
    expect(board().tool!.snap!.guides).toHaveLength(2);
    await press(8.8, 3.1);
    near(entity("p1").at, [9, 3]);
    expect(tied().sort()).toEqual(["horizontal c1.c p1", "vertical c2.c p1"]);
    // a line held level stops where it stands under a touched point; Alt holds all of it off
    await keys("Escape", "d", "l");
    move(9, -8);
    await press(-15, -4);
    move(8.9, -4.1);
    expect(board().tool!.snap!.guides).toHaveLength(1);
    move(8.8, -4.1, true);
    expect(board().tool!.snap!.guides ?? []).toHaveLength(0);
  });
});

describe("sizes", () => {
  test("a width is given across a centre line", async () => {
    await begin([
      line("l1", [0, -10], [0, 12], { construction: true }),
      line("l2", [8, -8], [8, 10]),
      line("l9", [-14, -9], [14, -9]),
    ]);
    await choose([0, 5], [8, 5]);
    await keys("c", "p", "m");
    await each([0, 5], [8, 5]);
    await keys("w");
    expect(words()).toContain("width across the centre line");
    await press(4, 12);
    expect(board().field!.text).toBe("16");
    expect(await value("20")).toBe(true);
    near(entity("l2").p[0] - entity("l1").p[0], 10);
    expect(sketch().dimensions![0].across).toBe(true);
  });

  test("arc lengths, and distances to the near sides of circles", async () => {
    await begin();
    await keys("d", "c");
    await each([-20, 0], [-14, 0], [18, 0], [22, 0]);
    await keys("Escape", "m");
    await each([-20, 6], [18, 4]);
    expect(words()).toContain("the distance to the centre down; n switches to the near side");
    await keys("n");
    await press(0, 12);
    expect(board().field!.text).toBe("28");
    expect(await value("30")).toBe(true);
    const [a, b] = [entity("c1"), entity("c2")];
    near(Math.hypot(a.c[0] - b.c[0], a.c[1] - b.c[1]) - a.r - b.r, 30);
    await keys("Escape", "d", "b");
    await each([-10, -22], [10, -22], [0, -17]);
    await keys("Escape", "m");
    await each([0, -17], entity("a1").p, [0, -12]);
    expect(await value("24")).toBe(true);
    expect(Object.values(state().measures).some((v) => Math.abs(v - 24) < 1e-6)).toBe(true);
  });
});

describe("with what is chosen", () => {
  const rectangle = async () => {
    await begin();
    await keys("d", "r");
    await press(0, 0);
    move(20, 10);
    await typed("24", "16");
    await keys("Escape");
  };

  test("several pairs are made symmetric at once", async () => {
    const at: Record<string, XY> = { p1: [-8, 3], p2: [7, 4], p3: [-5, -4], p4: [6, -5] };
    await begin(Object.entries(at).map(([k, v]) => point(k, v)));
    await choose(...Object.values(at), [0, 1.5]); // the upright axis last
    await keys("c", "y");
    for (const [one, two] of [
      ["p1", "p2"],
      ["p3", "p4"],
    ])
      near(entity(one).at, [-entity(two).at[0], entity(two).at[1]], 1e-9);
  });

  test("an outline is offset to the pointer's side", async () => {
    await rectangle();
    await choose([5, 0], [24, 4], [5, 16], [0, 4]);
    await keys("e", "o");
    move(12, 3);
    expect(words()).toContain("Offset: move to the side");
    await typed("2");
    const areas = state()
      .regions.map((r) => r.area)
      .sort((a, b) => a - b);
    near(areas, [24 * 16 - 20 * 12, 20 * 12]);
    expect(state().freedom).toBe(0);
  });

  test.each([
    ["3x45°", 9],
    ["5 × 3", 15],
    ["5 x 30°", 25 * Math.tan(Math.PI / 6)],
    ["4", 16],
  ])("corners are chamfered as a drawing writes it: %s", async (text, twice) => {
    await rectangle();
    await choose([24, 16], [0, 16]);
    await keys("e", "h");
    expect(await value(text)).toBe(true);
    near(state().area, 24 * 16 - twice);
    expect(state().freedom).toBe(0);
  });

  test("corners are rounded, one radius too large is told, and the half is mirrored", async () => {
    await begin();
    await keys("d", "r");
    await press(0, 0);
    move(20, 10);
    await typed("40", "30");
    await keys("Escape");
    await choose([40, 0], [40, 30]);
    await keys("e", "r");
    expect(await value("50")).toBe(false);
    expect(board().message!.text).toContain("does not fit here");
    expect(await value("R8")).toBe(true);
    near([entity("a1").r, entity("a2").r], [8, 8]);
    expect(state().freedom).toBe(0);
    expect(sizes()).toContain("40");
    // the two arcs about the upright axis
    await choose([32 + 8 * Math.SQRT1_2, 8 - 8 * Math.SQRT1_2], [0, 32.4]);
    await keys("e", "m");
    expect(kinds().filter((k) => k === "arc")).toHaveLength(3);
    near(entity("a3").c[0], -32, 1e-7);
    expect(state().freedom).toBe(0);
  });

  test("an end is extended and a line split", async () => {
    await begin();
    await keys("d", "l");
    await each([10, -8], [10, 8]);
    await keys("Enter");
    await each([-12, 3], [2, 3]);
    await keys("Escape", "Escape", "e", "n");
    move(0, 3);
    expect(words()).toContain("that end goes on to the next curve");
    await press(0, 3);
    near(entity("l2").q, [10, 3], 0.3);
    await keys("Escape", "e", "s");
    await press(-4, 3);
    expect(entity("l2").q).toEqual(entity("l3").p);
    near(entity("l3").q, [10, 3], 0.3);
    expect(ids()).toEqual(["l1", "l2", "l3"]);
  });

  test("a dimension put down and changed moves what it is of", async () => {
    await begin([line("l1", [-14, -6], [14, -6])]);
    await dimension([[5, -6]], [2, -10], "30");
    near(entity("l1").q[0] - entity("l1").p[0], 30);
  });
});
