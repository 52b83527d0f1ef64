/** A step that needs bodies is begun with those of the part as it is, not as it was before the change just made. */
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import type { Body, Build } from "../src/api/types";
import { loadBuild } from "../src/document/builds";
import { board, useBoard } from "../src/state/store";
import "../src/steps/startStep";
import { begin, keys } from "./hand";

const bodies = (count: number) =>
  Array.from({ length: count }, (_, i) => ({ id: `b${i}`, faces: [], edges: [] }) as unknown as Body);

const build = (version: number, count: number) =>
  ({ version, ready: true, steps: [], bodies: bodies(count) }) as unknown as Build;

/** A scene that has room for bodies; whatever else is asked of it does nothing. */
const scene = () => {
  let there = bodies(1);
  const show = async (shown: Body[]) => {
    there = shown;
    return true;
  };
  const known: Record<string, unknown> = { show, bodies: () => there, corners: () => [] };
  return new Proxy(known, { get: (_, name: string) => known[name] ?? (() => null) });
};

/** A build of the part as it is, with so many bodies, comes from the server. */
async function built(count: number) {
  const here = globalThis.fetch;
  const answer = { ok: true, status: 200, json: async () => build(board().part!.version, count) };
  vi.stubGlobal("fetch", (path: string, init?: RequestInit) =>
    path.endsWith("/build") ? Promise.resolve(answer) : here(path, init),
  );
  await loadBuild();
  await Promise.resolve();
}

beforeEach(async () => {
  await begin();
  vi.useFakeTimers({ toFake: ["setTimeout", "clearTimeout"], shouldAdvanceTime: true });
  const { version } = board().part!;
  useBoard.setState({
    sketch: null,
    scene: scene() as never,
    build: build(version - 1, 1),
    shownVersion: version - 1,
  });
  await keys("r", "u");
  expect([board().opening, board().message, board().draft]).toEqual([1, null, null]);
});

afterEach(() => {
  vi.useRealTimers();
  useBoard.setState({ draft: null });
});

test("bodies on their way are waited for", async () => {
  await built(2);
  await vi.waitFor(() => expect(board().draft?.step.kind).toBe("combine"));
  expect([board().opening, board().message]).toEqual([0, null]);
});

test("where there are no more of them that is said", async () => {
  await built(1);
  await vi.waitFor(() => expect(board().message?.text).toContain("only one body"));
  expect([board().opening, board().draft]).toEqual([0, null]);
  await keys("r", "u"); // and at once the next time
  expect(board().opening).toBe(0);
});

test("a build that does not come is not waited for without end", async () => {
  await vi.advanceTimersByTimeAsync(9000);
  expect([board().opening, board().draft]).toEqual([0, null]);
  expect(board().message?.text).toContain("still being built");
});

test("who left meanwhile begins nothing", async () => {
  useBoard.setState({ part: { ...board().part!, id: "other" } });
  await built(2);
  await vi.waitFor(() => expect(board().opening).toBe(0));
  expect(board().draft).toBeNull();
});
