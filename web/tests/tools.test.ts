/** Drawing tools, driven as a hand drives them: moves, presses, typed values; what they send. */
import { beforeEach, describe, expect, test } from "vitest";
import type { XY } from "../src/api/types";
import { LineTool } from "../src/sketch/tools/line";
import { RowsTool } from "../src/sketch/tools/patterns";
import { ThreePointArcTool, TurnedRectangleTool } from "../src/sketch/tools/points";
import { CircleTool, RectangleTool } from "../src/sketch/tools/shapes";
import { SlotTool } from "../src/sketch/tools/slot";
import { board } from "../src/state/store";
import { circle, line, move, open, press, sent, sizes, stored, take, ties, type } from "./desk";

const entities = () =>
  (sent.at(-1)!.entities ?? []) as { id: string; kind: string; p: XY; q: XY; c: XY; r: number }[];

describe("line", () => {
  beforeEach(() => open(circle("c1", [20, 10], 5)));

  test("goes on from its end, level where it is drawn level", async () => {
    take(new LineTool());
    press(0, -5);
    expect(move(12, -4.8)).toContain("horizontal");
    press(12, -4.8);
    await stored();
    expect(ties()).toContain("horizontal l1");
    press(20, -12);
    await stored();
    expect(ties()).toContain("coincident l1.q l2.p");
  });

  test("touches a circle, and stands free with Alt", () => {
    take(new LineTool());
    press(-10, 15);
    expect(move(20, 15.2)).toContain("tangent to circle 1");
    expect(move(20, 15.2, true)).toBe("free");
  });

  test("takes a typed length along the direction that is caught", async () => {
    take(new LineTool());
    press(0, -5);
    move(9, -4.9);
    type("length", "14");
    press(9, -4.9);
    await stored();
    expect(sizes()).toEqual(["distance l1 = 14"]);
    expect(entities()[0].q[0]).toBeCloseTo(14, 9);
  });
});

describe("circle", () => {
  test("is typed by its diameter, or by R its radius, and touches what its rim meets", async () => {
    open(line("l1", [-20, -8], [20, -8]));
    take(new CircleTool());
    press(0, 0);
    move(3, 0);
    type("diameter", "R6");
    press(3, 0);
    await stored();
    expect(sizes()).toEqual(["radius c1 = 6"]);
    press(10, 0);
    expect(move(10, -7.8)).toContain("tangent to line 1");
    press(10, -7.8);
    await stored();
    expect(ties()).toContain("tangent l1 c2");
  });
});

describe("slot", () => {
  beforeEach(() => open(line("l1", [-20, -20], [20, 20])));

  test("catches level, and is level whichever line comes first", async () => {
    take(new SlotTool());
    press(-15, 10);
    expect(move(1, 9.8)).toBe("horizontal");
    press(1, 9.8);
    press(1, 13);
    await stored();
    expect(ties()).toContain("horizontal l2");
    const over = entities().find((e) => e.id === "l2")!;
    expect(over.p[1]).toBeCloseTo(over.q[1], 12);
  });

  test("keeps the direction that was caught when its length is typed", async () => {
    take(new SlotTool());
    press(0, -15);
    expect(move(10, -5.2)).toBe("parallel to line 1");
    type("length", "14");
    press(10, -5.2);
    press(12, -7);
    await stored();
    expect(ties()).toContain("parallel l2 l1");
    expect(sizes()).toEqual(["distance a2.c a1.c = 14"]);
  });

  test("drawn free it is tied to no direction", async () => {
    take(new SlotTool());
    press(-15, 10);
    press(3, 13, true);
    press(3, 17);
    await stored();
    expect(ties().filter((t) => /^(horizontal|vertical|parallel|perpendicular)/.test(t))).toEqual([]);
  });
});

describe("turned rectangle", () => {
  test("its first side catches level", async () => {
    open();
    take(new TurnedRectangleTool());
    press(-5, 2);
    expect(move(9, 2.2)).toBe("horizontal");
    press(9, 2.2);
    press(9, 8);
    await stored();
    expect(ties()).toContain("horizontal l1");
  });
});

describe("rectangle", () => {
  test("typed width and height become its sizes", async () => {
    open();
    take(new RectangleTool(false));
    press(0, 0);
    move(10, 6);
    type("width", "31");
    type("height", "17/2");
    board().tool!.enter();
    await stored();
    expect(sizes().map((s) => s.split(" = ")[1])).toEqual(["31", "17/2"]);
  });
});

describe("arc through three", () => {
  const lines = [line("l1", [-20, 0], [0, 0]), line("l2", [-20, 16], [0, 16])];

  test("goes on smoothly from both lines it ends on", async () => {
    open(...lines);
    take(new ThreePointArcTool());
    press(0, 0);
    press(0, 16);
    expect(move(8.3, 8.4)).toBe("tangent to line 1 and line 2");
    press(8.3, 8.4);
    await stored();
    expect(entities()[0].r).toBeCloseTo(8, 9);
    expect(ties()).toEqual(expect.arrayContaining(["tangent l1 a1", "tangent l2 a1"]));
  });

  test("the other way round it would turn back: nothing is caught", () => {
    open(...lines);
    take(new ThreePointArcTool());
    press(0, 0);
    press(0, 16);
    expect(move(-8.1, 8)).toBe("free");
  });

  test("far from the smooth place nothing is caught", () => {
    open(...lines);
    take(new ThreePointArcTool());
    press(0, 0);
    press(0, 16);
    expect(move(11, 8)).toBe("free");
  });
});

describe("rows", () => {
  test("count, distance and angle are sent as they are typed", async () => {
    open(circle("c1", [0, 0], 3));
    take(new RowsTool(["c1"]));
    press(0, 0);
    move(9, 2);
    type("count1", "4");
    type("step1", "11");
    type("angle1", "35");
    const copies = board()
      .tool!.ghosts()
      .filter((g) => g.kind === "circle");
    expect(copies).toHaveLength(3);
    board().tool!.enter();
    await stored();
    expect(sent.at(-1)).toMatchObject({
      do: "sketch_pattern",
      counts: ["4"],
      spacings: ["11"],
      angles: ["35"],
    });
    const [end] = sent.at(-1)!.ends as XY[];
    expect(end[0]).toBeCloseTo(11 * Math.cos((35 * Math.PI) / 180), 9);
    expect(end[1]).toBeCloseTo(11 * Math.sin((35 * Math.PI) / 180), 9);
  });
});
