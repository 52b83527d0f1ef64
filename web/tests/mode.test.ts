/** One thing goes on at a time: whatever is begun ends what went on before, and nothing of it is left over. */
import { beforeEach, expect, test } from "vitest";
import type { Step } from "../src/api/types";
import { startMeasuring, stopMeasuring } from "../src/inspect/measure";
import { action } from "../src/shell/actions";
import { closeSketch, openSketch } from "../src/sketch/openSketch";
import { LineTool } from "../src/sketch/tools/line";
import { takeTool } from "../src/sketch/tools/tool";
import { modeOf } from "../src/state/mode";
import { board, useBoard } from "../src/state/store";
import { dropDraft, startDraft } from "../src/steps/draft";
import { begin, saved } from "./hand";

const extrude = {
  kind: "extrude",
  id: "s9",
  sketch: "s1",
  extent: { kind: "depth", depth: "5" },
} as unknown as Step;

const BEGIN: Record<string, () => unknown> = {
  sketch: () => {
    openSketch("s1");
    takeTool(new LineTool());
    useBoard.setState({ chosen: ["l1"], checking: true, suggesting: true, showTies: false });
  },
  step: () => startDraft(extrude, true),
  measure: startMeasuring,
  plane: () => action("sketch").run(),
};
const END: Record<string, () => unknown> = {
  sketch: closeSketch,
  step: dropDraft,
  measure: stopMeasuring,
};

/** What of the state tells that something is going on. */
const going = () => {
  const s = board();
  return {
    sketch: s.sketch !== null || s.tool !== null || s.chosen.length > 0 || s.checking || s.suggesting,
    step: s.draft !== null,
    measure: s.measuring || s.measured !== null,
    plane: s.choosingPlane,
  };
};
const only = (mode: string) =>
  Object.fromEntries(Object.keys(going()).map((m) => [m, m === mode])) as Record<string, boolean>;

beforeEach(async () => {
  await begin();
  closeSketch();
  await saved();
});

const pairs = Object.keys(BEGIN).flatMap((a) => Object.keys(BEGIN).map((b): [string, string] => [a, b]));

test.each(pairs)("%s, then %s", async (before, now) => {
  expect(modeOf()).toBe("idle");
  await BEGIN[before]();
  expect([modeOf(), going()]).toEqual([before, only(before)]);
  await BEGIN[now]();
  expect([modeOf(), going()]).toEqual([now, only(now)]);
  // what is no longer going on cannot be ended: that leaves alone what goes on now
  for (const [mode, end] of Object.entries(END)) if (mode !== now && mode !== "sketch") end();
  expect([modeOf(), going()]).toEqual([now, only(now)]);
  await END[now]?.();
  if (END[now]) expect([modeOf(), going()]).toEqual(["idle", only("idle")]);
});
