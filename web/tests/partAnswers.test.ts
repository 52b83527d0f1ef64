/** Parts put together from what the server tells. */
import { expect, test } from "vitest";
import type { Part, PartChanges } from "../src/api/types";
import { partAfter } from "../src/document/partAnswers";

const part = {
  id: "p",
  version: 3,
  settled: 0,
  document: { name: "Foot", steps: [{ id: "s1" }, { id: "s2", extent: { depth: "5" } }, { id: "s3" }] },
  sketches: { s1: { freedom: 2 } },
  callouts: {},
  said: ["before"],
} as unknown as Part;

const changes = {
  version: 4,
  settled: 0,
  said: [],
  lost: [],
  patch: [
    { op: "replace", path: "/document/steps/1/extent/depth", value: "6" },
    { op: "move", from: "/document/steps/2", path: "/document/steps/0" },
  ],
} as unknown as PartChanges;

test("changes are put onto the part before, which stays as it was", () => {
  const after = partAfter(part, changes);
  expect(after.document.steps!.map((s) => s.id)).toEqual(["s3", "s1", "s2"]);
  expect([after.version, after.said, after.id]).toEqual([4, [], "p"]);
  expect((part.document.steps![1] as unknown as { extent: { depth: string } }).extent.depth).toBe("5");
});

test("what did not change keeps its identity, told as changes or whole", () => {
  const whole = JSON.parse(
    JSON.stringify({ ...part, version: 4, document: { ...part.document, name: "Base" } }),
  );
  for (const after of [partAfter(part, changes), partAfter(part, whole)]) {
    const old = new Map(part.document.steps!.map((s) => [s.id, s]));
    expect(after.document.steps!.filter((s) => old.get(s.id) === s).length).toBeGreaterThanOrEqual(2);
    expect(after.sketches).toBe(part.sketches);
  }
});

test("another part is taken whole", () => {
  const other = { ...part, id: "q" };
  expect(partAfter(part, other)).toBe(other);
});
