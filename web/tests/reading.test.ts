/** What the reading line goes by: nothing pointed at outlives what it belonged to. */
import { expect, test } from "vitest";
import "../src/steps/draft";
import type { Step } from "../src/api/types";
import { board, useBoard } from "../src/state/store";
import { open } from "./desk";

test("what was pointed at goes with the step that was worked on", () => {
  open();
  const step = { kind: "extrude", id: "s2", sketch: "s1" } as unknown as Step;
  useBoard.setState({ draft: { step, base: null, fresh: true, slot: null, feeds: {} } });
  useBoard.setState({ guide: "Region 1" });
  useBoard.setState((s) => ({ draft: { ...s.draft!, slot: "extent.depth" } }));
  expect(board().guide).toBe("Region 1");
  useBoard.setState({ draft: null });
  expect(board().guide).toBeNull();
});
