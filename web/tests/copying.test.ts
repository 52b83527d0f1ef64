/** Moving, copying, patterns and stencils with the pointer and typed values. */
import { expect, test } from "vitest";
import type { XY } from "../src/api/types";
import { sketchOnDatum } from "../src/sketch/newSketch";
import { board } from "../src/state/store";
import { circle, line } from "./desk";
import {
  begin,
  choose,
  entity,
  fields,
  ids,
  keys,
  move,
  near,
  point,
  press,
  pull,
  saved,
  sketch,
  state,
  typed,
  value,
} from "./hand";

const ROOM = [point("p8", [-16, -12]), point("p9", [16, 16])];

const centres = (): string[] =>
  (sketch().entities ?? [])
    .flatMap((e) => (e.kind === "circle" ? [`${e.c[0].toFixed(4)} ${e.c[1].toFixed(4)}`] : []))
    .map((t) => t.replace(/-(0\.0000)/g, "$1"))
    .sort();
const told = (places: XY[]) =>
  places.map(([x, y]) => `${x.toFixed(4)} ${y.toFixed(4)}`.replace(/-(0\.0000)/g, "$1")).sort();

test("a copy is moved, turned and scaled", async () => {
  await begin([...ROOM, circle("c1", [0, 0], 3), line("l1", [0, 0], [8, 0])]);
  await choose([6, 0]);
  await keys("e", "y");
  await press(0, 0);
  move(4, 6);
  await typed("0", "9");
  expect([entity("l2").p, entity("l2").q]).toEqual([
    [0, 9],
    [8, 9],
  ]);
  await choose([6, 9]);
  await keys("e", "u");
  await press(0, 9);
  await typed("90");
  near(entity("l2").q, [0, 17]);
  await choose([0, 14]);
  await keys("e", "z");
  await press(0, 9);
  await typed("1/2");
  near(entity("l2").q, [0, 13]);
});

test("rows both ways are counted, changed, and one is left out", async () => {
  await begin([...ROOM, circle("c1", [-10, -6], 1.5)]);
  await choose([-8.5, -6]);
  await keys("e", "p");
  await press(-10, -6);
  await keys("x");
  move(-5, -6);
  await typed("4", "6");
  move(-10, -1);
  await typed("3", "5");
  const grid = [0, 1, 2, 3].flatMap((i) => [0, 1, 2].map((j): XY => [-10 + 6 * i, -6 + 5 * j]));
  expect(centres()).toEqual(told(grid));
  const rim: XY = [-10 - 1.5 * Math.SQRT1_2, -6 - 1.5 * Math.SQRT1_2]; // clear of the lines of the steps
  await choose(rim);
  await keys("e", "d");
  expect(board().field!.text).toBe("4");
  expect(await value("3")).toBe(true);
  expect(centres()).toHaveLength(9);
  await choose([-2.5, -1]);
  await keys("Delete");
  expect(centres()).toHaveLength(8);
  expect(centres()).not.toContain(told([[-4, -1]])[0]);
  await choose(rim);
  await keys("e", "b");
  expect(centres()).toHaveLength(9);
});

test("holes round a centre; a press beside a point is told", async () => {
  await begin([...ROOM, circle("c1", [10, 0], 1.5)]);
  await choose([11.5, 0]);
  await keys("e", "g");
  await press(4, 5);
  expect(board().message!.text).toContain("goes round a point");
  await press(0, 0);
  await typed("8");
  const ring = [...Array(8).keys()].map((i): XY => {
    const a = (Math.PI / 4) * i;
    return [10 * Math.cos(a), 10 * Math.sin(a)];
  });
  expect(centres()).toEqual(told(ring));
  expect(state().freedom).toBe(3 + 4);
});

test("what is cut out of one sketch goes into another", async () => {
  await begin([...ROOM, circle("c1", [0, 0], 3), circle("c2", [12, 0], 2)]);
  await choose([12, 2]);
  await keys("Control+x");
  expect(ids().sort()).toEqual(["c1", "p8", "p9"]);
  await keys("e", "x");
  await sketchOnDatum("top");
  await saved();
  await keys("Control+v");
  move(3, 4);
  await press(3, 4);
  expect(ids()).toHaveLength(1);
  near([...entity(ids()[0]).c, entity(ids()[0]).r], [3, 4, 2], 0.2);
});

test("a stencil is made, placed, joined, and edited once", async () => {
  await begin([...ROOM, line("l1", [-12, 0], [0, 0]), circle("c1", [-12, 0], 2), circle("c2", [0, 0], 2)]);
  await choose([-6, 0], [-12, 2], [0, 2]);
  await keys("e", "l");
  move(-12, 0);
  await keys("l", "i", "n", "k");
  expect(fields()).toContain("name");
  await press(-12, 0);
  const stencil = board().part!.document.steps![0];
  expect(stencil).toMatchObject({ kind: "sketch", stencil: "link" });
  await keys("d", "k");
  move(0, 0);
  await press(0, 0);
  await keys("Escape");
  expect(state().freedom).toBe(4 + 4); // two links joined by a pin
  await pull([12, 0], [5, 9]);
  const placed = sketch().placements![1].ids!;
  const [a, b] = [entity(placed.c1).c, entity(placed.c2).c];
  near(Math.hypot(a[0] - b[0], a[1] - b[1]), 12);
  near(b, [5, 9], 1);
});
