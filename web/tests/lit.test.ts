/** What belongs together on the sheet and in the middle. */
import { Vector3 } from "three";
import { expect, test } from "vitest";
import type { Callout, Verdict } from "../src/api/types";
import { spokenOf } from "../src/sheet/lit";

const link = (step: string, field: string) => ({ step, field });
const CALLOUTS = [
  { id: "b1", number: 1, text: "90", link: link("s1", "d1") },
  { id: "b2", number: 2, text: "Ø16", link: link("s1", "d2") },
  { id: "b3", number: 3, text: "4", link: link("s2", "depth") },
] as Callout[];
const VERDICTS = [
  { callout: "b1", faces: [["s2", 3]] },
  { callout: "b2", faces: [["s2", 12]] },
  {
    callout: "b3",
    faces: [
      ["s2", 3],
      ["s2", 5],
    ],
  },
] as unknown as Verdict[];
const face = (face: number) => ({ kind: "face" as const, body: 0, face, at: new Vector3() });
const rest = { picks: [], chosen: [], sketch: null, openStep: null, callout: null };
const BODIES = [{ id: "s2", edges: [{ faces: [5, 12] }, { faces: [7] }] }];
const told = (s: object) => [...spokenOf({ ...rest, ...s }, CALLOUTS, VERDICTS, BODIES)].sort();

test("a face lights the callouts measured on it", () => {
  expect(told({ picks: [face(3)] })).toEqual(["b1", "b3"]);
  expect(told({ picks: [face(12), face(5)] })).toEqual(["b2", "b3"]);
  expect(told({ picks: [face(7)] })).toEqual([]);
  expect(told({ picks: [{ ...face(3), body: 4 }] })).toEqual([]);
});

test("an edge lights the callouts of the faces it lies between", () => {
  const edge = (edge: number) => ({ kind: "edge" as const, body: 0, edge, at: new Vector3() });
  expect(told({ picks: [edge(0)] })).toEqual(["b2", "b3"]);
  expect(told({ picks: [edge(1)] })).toEqual([]);
  expect(told({ picks: [edge(9)] })).toEqual([]);
});

test("a size of the open sketch lights what feeds it, an unfolded step all it takes", () => {
  expect(told({ sketch: "s1", chosen: ["d2"] })).toEqual(["b2"]);
  expect(told({ sketch: "s2", chosen: ["d2"] })).toEqual([]);
  expect(told({ openStep: "s1" })).toEqual(["b1", "b2"]);
});

test("a callout that was pressed unfolds its step, which lights no others", () => {
  expect(told({ openStep: "s1", callout: "b1" })).toEqual([]);
});
