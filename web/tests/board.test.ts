/** What is drawn and sized on the board, and how the board answers what cannot be. */
import { describe, expect, test } from "vitest";
import type { Entity } from "../src/api/types";
import { apply } from "../src/geometry/affine";
import { answering } from "../src/shell/answering";
import { affine, board, useBoard } from "../src/state/store";
import { begin, dimension, keys, move, press, pull, saved, sketch, state, typed, value, words } from "./hand";

/** A rectangle from the corner, its sizes typed. */
async function rectangle(w = "40", h = "30") {
  await begin();
  await keys("d", "r");
  await press(0, 0);
  move(20, 10);
  await typed(w, h);
  await keys("Escape");
}

const entities = () => sketch().entities ?? [];
const dimensions = () => sketch().dimensions ?? [];
const line = (id: string) => entities().find((e) => e.id === id) as { p: number[]; q: number[] };
const near = (p: number[], q: number[]) => {
  for (const [i, v] of p.entries()) expect(v).toBeCloseTo(q[i], 9);
};

test("lines are drawn with inference and typed lengths, and one of them is dragged", async () => {
  await begin();
  await keys("d", "l");
  await press(0, 0);
  move(20, 0.3);
  expect(words()).toContain("horizontal");
  await typed("36");
  await press(36, 20);
  await press(0, 0);
  expect(entities()).toHaveLength(3);
  near(line("l1").q, [36, 0]);
  expect(line("l2").q[0]).toBeCloseTo(36, 9); // vertical was caught
  near(line("l3").q, [0, 0]); // and the corner
  expect(state().freedom).toBe(1);
  await keys("Escape");
  await pull([36, line("l2").q[1]], [36, 30]);
  expect(line("l2").q[1]).toBeCloseTo(30, 0);
});

describe("a size that cannot be", () => {
  test("because it is settled already is refused, and kept for reference if wanted", async () => {
    await rectangle();
    await keys("m");
    await press(10, 30);
    await press(20, 33);
    const { text } = board().field!;
    expect(await value(text)).toBe(false);
    expect(board().message!.text).toContain("already settled by");
    board()
      .message!.offers.find((o) => o.label === "Keep as reference")!
      .act();
    await saved();
    expect(dimensions().filter((d) => !d.driving)).toHaveLength(1);
    expect(state().freedom).toBe(0);
  });

  test("because it fights with others is refused with their names, and changes nothing", async () => {
    await rectangle();
    const before = JSON.stringify(board().part!.document);
    await keys("m");
    await press(10, 30);
    await press(20, 33);
    expect(await value("41")).toBe(false);
    expect(board().message!.text).toMatch(/^41 \(line 3\) cannot hold. It fights with/);
    expect(JSON.stringify(board().part!.document)).toBe(before);
  });
});

/** The field of a size that is there, opened as a press on it opens it, and what it is to hold. */
async function change(id: string, text: string) {
  const { kind, expr } = dimensions().find((d) => d.id === id)!;
  useBoard.setState({ field: { dimension: id, text: expr, at: [0, 0], kind } });
  return value(text);
}

describe("a size that is there", () => {
  test("is changed in another unit; what is not finished is told, and nothing changes", async () => {
    await rectangle();
    const [width, height] = dimensions();
    expect(await change(width.id, "1 1/2 in")).toBe(true);
    near(line("l1").q, [38.1, 0]);
    const before = JSON.stringify(sketch());
    expect(await change(height.id, "30 +")).toBe(false);
    expect(board().message!.text).toContain("Something is missing at the end.");
    expect(JSON.stringify(sketch())).toBe(before);
  });

  test("of a diameter becomes a radius where R is typed", async () => {
    await begin();
    await keys("d", "c");
    await press(0, 0);
    move(12, 5);
    await typed("28");
    const [size] = dimensions();
    expect(size.kind).toBe("diameter");
    expect(await change(size.id, "R14")).toBe(true);
    expect(dimensions().map((d) => [d.kind, d.expr])).toEqual([["radius", "14"]]);
    expect(entities().find((e) => e.id === "c1")).toMatchObject({ r: 14 });
  });

  test("is named while it is typed, and used by its name", async () => {
    await begin([
      { kind: "line", id: "l1", p: [-12, -6], q: [12, -4] },
      { kind: "circle", id: "c1", c: [0, 12], r: 5 },
    ] as Entity[]);
    await dimension([[6, -4.5]], [0, -9], "reach = 23.5"); // its text on an axis, which is not taken
    await dimension([[5, 12]], [14, 16], "reach/4");
    const sizes = Object.fromEntries(dimensions().map((d) => [d.kind, d]));
    expect(sizes.distance).toMatchObject({ name: "reach", expr: "23.5" });
    expect(sizes.diameter.expr).toBe("reach/4"); // no radius of “each/4”
  });
});

test("a profile is drawn by keys alone, in view or far out of it, and the board follows", async () => {
  await begin();
  await keys("d", "r");
  await typed("5", "-8");
  await typed("110", "46");
  await keys("d", "c");
  await typed("400", "0"); // beyond what is seen
  await typed("17/2");
  await keys("Escape");
  expect(state().freedom).toBe(0);
  expect(entities().find((e) => e.id === "c1")).toMatchObject({ c: [400, 0] });
  const corners = ["l1", "l2", "l3", "l4"].map((l) => line(l).p.map((v) => Math.round(v * 1e9) / 1e9 + 0));
  expect(new Set(corners.map(String))).toEqual(new Set(["5,-8", "115,-8", "115,38", "5,38"]));
  const [x] = apply(affine()!, [400, 0]);
  expect(x).toBeGreaterThan(0);
  expect(x).toBeLessThan(board().view.width);
});

test("an open outline is named before anything is built", async () => {
  await begin();
  await keys("d", "l");
  await press(0, 0);
  await press(20, 0);
  await press(20, 15);
  await keys("Escape", "Escape", "b", "e");
  expect(board().message!.text).toContain("2 open ends");
  expect(board().draft).toBeNull();
});

test("every action stands first, or after what is called alike, when it is asked for by its words", async () => {
  await rectangle();
  const every = [...new Set(answering("").map((a) => a.words))];
  expect(every.length).toBeGreaterThan(90);
  for (const words of every) {
    const all = words.lastIndexOf(" ") < 0 ? words : words.slice(0, words.lastIndexOf(" "));
    expect(
      answering(all)
        .slice(0, 3)
        .map((a) => a.words),
      words,
    ).toContain(words);
  }
  expect(answering("zzz")).toEqual([]);
});
