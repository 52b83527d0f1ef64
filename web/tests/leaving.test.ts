/** What comes back about a part that was left does nothing to the one that stands there now. */
import { beforeEach, expect, test, vi } from "vitest";
import type { Part } from "../src/api/types";
import { applyPart, run, travel } from "../src/document/commands";
import { loadMotions } from "../src/sketch/motions";
import { board, useBoard } from "../src/state/store";
import { line, open } from "./desk";

let answer: (body: object) => void = () => {};
let other: Part;

/** Another part is opened while the server still thinks about this one. */
function leave() {
  other = { ...board().part!, id: "other", version: 7 };
  useBoard.setState({ part: other, sketch: null, saving: 0, motions: null, message: null });
}

beforeEach(() => {
  open(line("l1", [0, 0], [9, 0]));
  const late = new Promise((done) => {
    answer = (body) => done({ ok: !("sentence" in body), status: 400, json: async () => body });
  });
  vi.stubGlobal("fetch", () => late);
});

const untouched = () => {
  expect(board().part).toBe(other);
  expect([board().saving, board().message, board().motions, board().mine.size]).toEqual([0, null, null, 0]);
};

test("a command that is carried out late", async () => {
  const before = board().part!;
  const done = run({ do: "set_part", changes: {} });
  await Promise.resolve();
  leave();
  answer({ ...before, version: 2 });
  expect(await done).toBe(true);
  untouched();
});

test("a command that is refused late", async () => {
  const done = run({ do: "set_part", changes: {} });
  await Promise.resolve();
  leave();
  answer({ sentence: "This cannot be done." });
  expect(await done).toBe(false);
  untouched();
});

test("an undo", async () => {
  const before = { ...board().part!, undoes: { who: "", what: "drew", version: 1 } } as unknown as Part;
  useBoard.setState({ part: before });
  const done = travel("undo");
  await Promise.resolve();
  leave();
  answer({ ...before, version: 2 });
  await done;
  untouched();
});

test("motions that were asked for, and a part that comes by itself", async () => {
  const before = board().part!;
  const done = loadMotions(true);
  leave();
  answer([{ entities: ["l1"], points: {}, radii: {}, said: "" }]);
  await done;
  applyPart({ ...before, version: 3 });
  untouched();
});
