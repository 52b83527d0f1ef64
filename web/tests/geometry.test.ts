/** What is caught, how it is typed, where the strip of values stands. */
import { describe, expect, test } from "vitest";
import type { Entity, XY } from "../src/api/types";
import type { Affine } from "../src/geometry/affine";
import { apply, unapply } from "../src/geometry/affine";
import { allUnder, snap } from "../src/geometry/snap";
import { bevel, roughly, typedAs, unprefixed } from "../src/geometry/typed";
import { stripPlace } from "../src/sketch/stripPlace";
import { circle, line } from "./desk";

const M: Affine = [10, 0, 0, -10, 400, 300];
const there = (x: number, y: number): XY => apply(M, [x, y]);
const caught = (x: number, y: number, entities: Entity[], more: object = {}) =>
  snap(there(x, y), { entities, m: M, from: null, held: false, ...more })!;

describe("affine", () => {
  test("goes there and back, and says when a plane is seen edge on", () => {
    const [x, y] = unapply(M, apply(M, [3.5, -7]))!;
    expect([x, y]).toEqual([expect.closeTo(3.5, 12), expect.closeTo(-7, 12)]);
    expect(unapply([10, 0, 10, 0, 0, 0], [1, 1])).toBeNull();
  });
});

describe("snap", () => {
  const entities = [line("l1", [0, 0], [20, 0]), circle("c1", [10, 10], 4)];

  test.each([
    [0.3, 0.2, "start of line 1"],
    [10.2, 0.4, "middle of line 1"],
    [6, 0.4, "on line 1"],
    [10.3, 10.2, "centre of circle 1"],
    [14.3, 10.1, "on circle 1"],
    [30, 20, "free"],
  ])("at %d, %d: %s", (x, y, words) => {
    expect(caught(x, y, entities).words).toContain(words);
  });

  test("the sketch's own point is meant before the origin, the origin before the part's corner", () => {
    const corner = { ...line("z0", [0, 0], [0, 9]), lift: 0 } as Entity;
    expect(caught(0, 0, [...entities, corner]).ties[0].ref).toBe("l1.p");
    expect(caught(0, 0, [corner]).ties[0].ref).toBe("origin");
  });

  test("an edge of the part off the plane must be pointed at more closely", () => {
    const edge = (lift: number) => ({ ...line("z0", [-5, 5], [5, 5]), lift }) as Entity;
    expect(caught(3, 5.5, [edge(0)]).words).toContain("on");
    expect(caught(3, 5.5, [edge(-8)]).words).toBe("free");
    expect(caught(3, 5.2, [edge(-8)]).words).toContain("on");
  });

  test("where two curves meet both are caught", () => {
    const cross = [line("l1", [-10, 0], [10, 2]), line("l2", [3, -10], [3.5, 10])];
    expect(caught(3.4, 1.5, cross).ties.map((t) => t.ref)).toEqual(["l1", "l2"]);
  });

  test("under the pointer come points, curves, middles, axes", () => {
    expect(allUnder(there(10, 0.1), [line("l1", [0, 0], [20, 0])], M)).toEqual(["l1", "l1.mid", "x"]);
  });
});

describe("typed", () => {
  test.each([
    ["R17", "radius", "17"],
    ["r 8", "radius", "8"],
    ["Ø34", "diameter", "34"],
    ["rim", null, "rim"],
    ["12", null, "12"],
  ])("%s", (text, kind, rest) => {
    expect(typedAs(text)).toBe(kind);
    expect(unprefixed(text)).toBe(rest);
  });

  test.each([
    ["17/2", 8.5],
    ["1 1/4", 1.25],
    ["2*3.1", 6.2],
    ["3,5", 3.5],
    ["wall", null],
    ["4/0", null],
  ])("%s is about %s", (text, value) => {
    expect(roughly(text)).toBe(value);
  });

  test.each([
    ["3", { distance: "3" }],
    ["3 × 2", { distance: "3", second: "2" }],
    ["3x2", { distance: "3", second: "2" }],
    ["3 X 45°", { distance: "3" }],
    ["3×30°", { distance: "3", angle: "30" }],
    ["edge × 2", { distance: "edge", second: "2" }],
    ["max", { distance: "max" }],
    ["(1+2) x (4-1)", { distance: "(1+2)", second: "(4-1)" }],
    ["2*x1", { distance: "2*x1" }],
  ])("a chamfer typed %s", (text, meant) => {
    expect(bevel(text)).toEqual(meant);
  });
});

describe("the strip of values", () => {
  const strip = { width: 200, height: 34 };
  const room = { width: 800, height: 600 };

  test("stands right below the pointer where nothing is drawn", () => {
    expect(stripPlace([400, 300], strip, room, [])).toEqual([422, 318]);
  });

  test("goes where it covers least", () => {
    const below = Array.from({ length: 40 }, (_, k): XY => [10 * k + 300, 340]);
    const [, top] = stripPlace([400, 300], strip, room, below);
    expect(top).toBeLessThan(300 - 34);
  });

  test("never leaves the room, nor lies on the pointer", () => {
    for (const at of [
      [5, 5],
      [795, 5],
      [5, 595],
      [795, 595],
      [400, 590],
    ] as XY[]) {
      const [x, y] = stripPlace(at, strip, room, []);
      expect(x).toBeGreaterThanOrEqual(10);
      expect(y).toBeGreaterThanOrEqual(10);
      expect(x + strip.width).toBeLessThanOrEqual(790);
      expect(y + strip.height).toBeLessThanOrEqual(590);
      const on = at[0] > x && at[0] < x + strip.width && at[1] > y && at[1] < y + strip.height;
      expect(on).toBe(false);
    }
  });
});
