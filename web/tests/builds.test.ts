/** The build is waited for until it is there, whatever the live channel missed, and by one waiting only. */
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import type { Body, Build, Part } from "../src/api/types";
import { awaitBuild, buildIsWhole, loadBuild, stopWaiting } from "../src/document/builds";
import { closePart, openPart } from "../src/shell/session";
import { board, useBoard } from "../src/state/store";
import "../src/steps/resolveSelection"; // which keeps what is chosen
import { line, open } from "./desk";

let asked: string[] = [];
let answers: (path: string) => Promise<object> = async () => ({});

const build = (version: number, ready: boolean) =>
  ({ version, ready, steps: [], bodies: [] }) as unknown as Build;

beforeEach(() => {
  vi.useFakeTimers();
  asked = [];
  open(line("l1", [0, 0], [9, 0]));
  useBoard.setState({ part: { ...board().part!, version: 0 }, sketch: null, build: null });
  vi.stubGlobal("fetch", async (path: string) => {
    if (path.endsWith("/build")) asked.push(path);
    const body = await answers(path);
    return { ok: true, status: 200, json: async () => body };
  });
});

afterEach(() => {
  stopWaiting();
  vi.useRealTimers();
});

test("no build yet is none of a part as it began, and is asked for again", async () => {
  useBoard.setState({ build: build(-1, false) });
  expect(buildIsWhole(board())).toBe(false);
  answers = async () => build(asked.length < 2 ? -1 : 0, asked.length >= 2);
  awaitBuild(100);
  await vi.advanceTimersByTimeAsync(1000);
  expect(asked.length).toBe(2);
  expect(buildIsWhole(board())).toBe(true);
});

test("a shape without its proofs is asked for again", async () => {
  useBoard.setState({ build: build(0, false) });
  answers = async () => build(0, true);
  awaitBuild(100);
  await vi.advanceTimersByTimeAsync(1000);
  expect(asked.length).toBe(1);
  expect(buildIsWhole(board())).toBe(true);
});

test("one who waited for a part that was left does not go on", async () => {
  let come: () => void = () => {};
  answers = () => new Promise((done) => (come = () => done(build(-1, false))));
  awaitBuild(100);
  await vi.advanceTimersByTimeAsync(150);
  expect(asked.length).toBe(1);
  stopWaiting();
  come();
  await vi.advanceTimersByTimeAsync(60_000);
  expect(asked.length).toBe(1);
});

test("a part that is opened late does not take the place of the one opened after it", async () => {
  vi.stubGlobal(
    "WebSocket",
    class {
      close() {}
    },
  );
  vi.stubGlobal("location", { protocol: "http:", host: "here" });
  const late: Record<string, () => void> = {};
  answers = async (path) => {
    const id = /\/parts\/(slow|quick)$/.exec(path)?.[1];
    if (!id) return path.endsWith("/build") ? build(0, true) : { name: "wren", kinds: [] };
    await new Promise<void>((done) => {
      late[id] = done;
    });
    return { ...board().part, id, version: 0, document: { steps: [] } } as unknown as Part;
  };
  openPart("slow");
  closePart();
  openPart("quick");
  await vi.advanceTimersByTimeAsync(10);
  late.quick();
  await vi.advanceTimersByTimeAsync(10);
  expect(board().part?.id).toBe("quick");
  late.slow();
  await vi.advanceTimersByTimeAsync(10);
  expect(board().part?.id).toBe("quick");
});

/** A body with a face for each of these names. */
const body = (...names: string[]) =>
  ({
    id: "b1",
    faces: names.map((name, i) => ({ origins: [`s2/${name}`], ring: 0, near: [i, 0, 0], said: name })),
    edges: [],
  }) as unknown as Body;

/** A part shows ``before`` and shapes of ``after`` are being fetched; the function puts these there. */
async function shows(before: Body, after: Body): Promise<() => Promise<void>> {
  let [there, come, begun] = [[before], () => {}, () => {}];
  const fetched = new Promise<void>((done) => (come = done));
  const fetching = new Promise<void>((done) => (begun = done));
  const scene = {
    bodies: () => there,
    mark: () => {},
    async show(bodies: Body[], _dimmed: boolean, going?: () => void) {
      begun();
      await fetched;
      going?.();
      there = bodies;
      return true;
    },
  };
  useBoard.setState({ scene: scene as never });
  answers = async () => ({ ...build(0, true), bodies: [after] });
  const loaded = loadBuild();
  await fetching;
  return async () => {
    come();
    await loaded;
  };
}

const pick = (face: number) => ({ kind: "face" as const, body: 0, face, at: undefined as never });
const chosenFaces = () => board().picks.map((p) => p.kind === "face" && p.face);

test("what is chosen while another shape is fetched stays chosen on it, and nothing else", async () => {
  useBoard.setState({ picks: [pick(0)] });
  const put = await shows(body("side", "end"), body("end", "hole", "side"));
  useBoard.setState({ picks: [pick(1)] }); // pressed on the old shape
  await put();
  expect(chosenFaces()).toEqual([0]);
});

test("what is let go while another shape is fetched is not chosen again", async () => {
  useBoard.setState({ picks: [pick(0)] });
  const put = await shows(body("side", "end"), body("end", "side"));
  useBoard.setState({ picks: [] });
  await put();
  expect(chosenFaces()).toEqual([]);
});
