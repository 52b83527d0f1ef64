/** Constraints, trimming, dragging, windows and motions on the board, with the pointer and the core behind it. */
import { expect, test } from "vitest";
import { loadMotions } from "../src/sketch/motions";
import { board, useBoard } from "../src/state/store";
import { circle, line } from "./desk";
import {
  act,
  begin,
  choose,
  entity,
  hold,
  ids,
  interrupted,
  keys,
  kinds,
  later,
  letGo,
  move,
  near,
  press,
  pull,
  sketch,
  state,
  tied,
  typed,
  words,
} from "./hand";

test("constraints from what is chosen", async () => {
  await begin([
    line("l1", [-20, 5], [20, 3]),
    line("l2", [-18, 12], [-19, 22]),
    line("l3", [8, 10], [20, 14]),
    circle("c1", [10, -14], 5),
    circle("c2", [-8, -13], 3),
  ]);
  await choose([5, 3.75]);
  await act("Horizontal");
  await choose([-18.5, 17], [5, entity("l1").p[1]]);
  await act("Perpendicular");
  near(entity("l2").p[0], entity("l2").q[0], 1e-9);
  await choose([14, 12], [5, entity("l1").p[1]]);
  await act("Parallel");
  near(entity("l3").p[1], entity("l3").q[1], 1e-9);
  await choose([15, -14], [-5, -13]);
  await act("Equal");
  near(entity("c1").r, entity("c2").r);
  await choose([entity("c1").c[0] + entity("c1").r, entity("c1").c[1]], [0, entity("l1").p[1]]);
  await act("Tangent");
  near(Math.abs(entity("c1").c[1] - entity("l1").p[1]), entity("c1").r, 1e-7);
  const [one, two] = [entity("c1"), entity("c2")];
  await choose([one.c[0], one.c[1] - one.r], [two.c[0], two.c[1] - two.r], [0, 25]); // the upright axis
  await act("Symmetric");
  near(entity("c1").c, [-entity("c2").c[0], entity("c2").c[1]], 1e-7);
});

test("a window takes what lies inside, or what it touches", async () => {
  await begin([line("l1", [2, 2], [12, 2]), line("l2", [2, 6], [30, 6]), circle("c1", [8, 14], 3)]);
  await pull([1, 18], [16, 1], 2);
  expect([...board().chosen].sort()).toEqual(["c1", "l1"]);
  await keys("Escape");
  useBoard.setState({ windowTouches: true });
  await pull([1, 18], [16, 1], 2);
  expect([...board().chosen].sort()).toEqual(["c1", "l1", "l2"]);
  await keys("Delete");
  expect(ids()).toEqual([]);
});

test("pieces are trimmed by pressing them; what is left bounds one region", async () => {
  await begin([line("l1", [-15, 6], [15, 6]), circle("c1", [0, 3], 9)]);
  await keys("e", "t");
  move(0, 12);
  expect(words()).toContain("the dashed piece goes");
  await press(0, 12);
  await press(-13, 6);
  await press(13, 6);
  const half = Math.sqrt(81 - 9);
  expect(ids().sort()).toEqual(["a1", "l1"]);
  near([entity("l1").p[0], entity("l1").q[0], entity("a1").r], [-half, half, 9]);
  expect(state().regions).toHaveLength(1);
});

const BARS = [1, 2, 3].map((i) => line(`l${i}`, [6 * i - 12, -12], [6 * i - 12, 12]));

test("several pieces are trimmed with one pull, and come back with one undo", async () => {
  await begin([...BARS, line("l7", [-15, 5], [15, 5]), line("l8", [-15, -5], [15, -5])]);
  await keys("e", "t");
  await pull([-9, 9], [9, 9.2], 3);
  expect(ids()).toHaveLength(5);
  expect([1, 2, 3].map((i) => entity(`l${i}`).q)).toEqual([1, 2, 3].map((i) => [6 * i - 12, 5]));
  await keys("Escape", "Control+z");
  expect([1, 2, 3].map((i) => entity(`l${i}`).q)).toEqual([1, 2, 3].map((i) => [6 * i - 12, 12]));
});

test("a pull that is taken away from the hand does nothing", async () => {
  await begin([...BARS, line("l7", [-15, 5], [15, 5]), line("l8", [-15, -5], [15, -5])]);
  const before = sketch();
  await keys("e", "t");
  hold([-9, 9], [0, 9.2], [9, 9]);
  expect(board().tool!.ghosts().length).toBeGreaterThan(1);
  interrupted();
  await letGo(9, 9);
  await keys("Escape");
  hold([0, 4], [0, 8]);
  interrupted();
  await letGo(0, 8);
  expect([sketch(), board().dragged, board().window]).toEqual([before, null, null]);
});

test("a line is dragged by where it was taken", async () => {
  await begin([line("l1", [0, 10], [20, 10]), circle("c1", [5, -8], 4)]);
  await choose([10, 10]);
  await act("Horizontal");
  await pull([14, 10], [14, 16]);
  near(entity("l1").p, [0, 16], 0.3); // its start did not jump to the pointer
  near(entity("l1").p[1], entity("l1").q[1], 1e-9);
});

test("what cannot move says so, and stays", async () => {
  await begin([line("l1", [0, 0], [20, 0])]);
  await choose([10, 0]);
  await act("Fixed");
  const before = sketch();
  await pull([14, 0], [14, 6]);
  expect(board().message!.text).toContain("cannot move");
  expect(sketch()).toEqual(before);
});

test("a row goes in a typed direction", async () => {
  await begin([circle("c1", [0, 0], 3)]);
  await choose([3, 0]);
  await keys("e", "p");
  await press(0, 0);
  move(9, 2);
  board().tool!.type("step1", "11");
  board().tool!.type("angle1", "35");
  await typed("3");
  const far = (22 * Math.PI) / 22 && 22;
  near(entity("c3").c, [far * Math.cos((35 * Math.PI) / 180), far * Math.sin((35 * Math.PI) / 180)], 1e-7);
});

test("what is chosen plays its own motions", async () => {
  await begin([circle("c1", [0, 0], 6), circle("c2", [20, 8], 4)]);
  await choose([24, 8]);
  await loadMotions(false);
  expect(board().motions!.length).toBeGreaterThan(0);
  expect(board().motions!.every((m) => /circle 2/i.test(m.said))).toBe(true);
  await keys("Escape");
  await loadMotions(false);
  expect(board().motions!.some((m) => /circle 1/i.test(m.said))).toBe(true);
});

test("control points are switched to with x, and the last point again ends it", async () => {
  await begin();
  await keys("d", "u");
  await press(-10, 0);
  await keys("x");
  for (const [x, y] of [
    [-4, 8],
    [4, -6],
    [10, 4],
    [10, 4],
  ])
    await press(x, y);
  expect(entity("s1").form).toBe("control");
  expect(state().loose).toContain("s1");
});

test("a spline is drawn, made tangent and dragged by a point", async () => {
  await begin();
  await keys("d", "u");
  expect(words()).toContain("where the spline starts");
  for (const [x, y] of [
    [-10, 0],
    [-4, 6],
    [4, 3],
    [10, 6],
  ])
    await press(x, y);
  await keys("Enter");
  expect(entity("s1").form).toBe("through");
  await keys("Escape", "d", "l");
  await press(10, 6);
  await press(16, 2);
  await keys("Escape", "Escape");
  await choose([13, 4], [0, 4.35]);
  await keys("c", "t");
  expect(board().message?.tone).not.toBe("red");
  expect(tied().some((t) => t.startsWith("tangent"))).toBe(true);
  near(entity("s1").points.at(-1), entity("l1").p, 1e-9);
  const [x, y] = entity("s1").points[1];
  await pull([x, y], [x - 2, y + 3]);
  near(entity("s1").points[1], [x - 2, y + 3], 0.3);
});

test("an ellipse by its half axes", async () => {
  await begin();
  await keys("d", "e");
  await press(0, 0);
  move(12, 0);
  await typed("12");
  move(3, 5);
  await typed("5");
  near(state().area, 60 * Math.PI);
  expect(state().freedom).toBe(0); // its centre on the origin, its axis level, both halves typed
});

test("an arc of an ellipse is closed by a line", async () => {
  await begin();
  await keys("d", "i");
  for (const [x, y] of [
    [0, 0],
    [10, 0],
    [0, 6],
    [10, 0],
    [-10, 0],
  ])
    await press(x, y);
  const arc = entity("e1");
  expect(arc.kind).toBe("ellipse_arc");
  await keys("Escape", "d", "l");
  await press(-10, 0);
  await press(10, 0);
  near(state().area, (Math.PI * arc.m[0] * arc.n[1]) / 2, 1e-4);
  expect(state().open_ends).toEqual([]);
  expect(kinds()).toEqual(["ellipse_arc", "line"]);
});

test("Esc in one breath with the one that ends a tool asks for nothing; a while later it says how a sketch is left", async () => {
  await begin();
  await keys("d", "l");
  await press(-20, 0);
  await press(10, 0);
  await keys("Enter"); // the chain ends, the tool stays for another
  expect(words()).toContain("press where the line starts");
  await keys("Escape");
  expect(board().tool).toBeNull();
  await keys("Escape", "Escape");
  expect(board().message).toBeNull();
  later(1600);
  await keys("Escape");
  expect(board().message!.text).toContain("The sketch stays open");
  expect(board().sketch).toBe("s1");
});
