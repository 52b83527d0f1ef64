/** A board without a screen: one open sketch on the top plane, a pointer, and a server that keeps what is drawn. */
import { vi } from "vitest";
import type { Entity, Part, SketchStep, XY } from "../src/api/types";
import { apply } from "../src/geometry/affine";
import { caught, touch } from "../src/sketch/catch";
import { type Tool, takeTool } from "../src/sketch/tools/tool";
import { affine, board, initial, useBoard } from "../src/state/store";
import { named } from "../src/view/camera";

type Sent = Record<string, unknown> & { do: string };
type Ties = { kind: string; refs: string[] }[];

/** Everything that was sent to the server, the newest last. */
export const sent: Sent[] = [];

function partOf(entities: Entity[]): Part {
  const sketch: SketchStep = {
    kind: "sketch",
    id: "s1",
    on: { kind: "datum", plane: "top" },
    sketch: { entities, constraints: [], dimensions: [] },
  } as unknown as SketchStep;
  return {
    id: "p",
    version: 1,
    role: "owner",
    document: { name: "n", unit: "mm", steps: [sketch], callouts: [] },
    sketches: { s1: { freedom: 1, loose: [], regions: [], words: {}, said: "" } },
    callouts: {},
  } as unknown as Part;
}

/** Open a sketch with these entities, looked at square on: 10 px for a mm, the origin in the middle of 800 × 600. */
export function open(...entities: Entity[]) {
  sent.length = 0;
  const view = { ...initial.view, turn: named("top"), scale: 10, width: 800, height: 600 };
  useBoard.setState({ ...initial, part: partOf(entities), sketch: "s1", view });
  vi.stubGlobal("document", { activeElement: null, querySelector: () => null, cookie: "" });
  vi.stubGlobal("fetch", async (_path: string, init?: RequestInit) => {
    const { command } = JSON.parse(String(init?.body ?? "{}")) as { command?: Sent };
    if (command) keep(command);
    return { ok: true, json: async () => board().part };
  });
}

function keep(command: Sent) {
  sent.push(command);
  const { part } = board();
  const step = part!.document.steps![0] as SketchStep;
  const added = (command.do === "sketch_add" ? command.entities : []) as Entity[];
  const entities = [...(step.sketch?.entities ?? []), ...added];
  const steps = [{ ...step, sketch: { ...step.sketch, entities } }];
  useBoard.setState({
    part: {
      ...part!,
      version: part!.version + 1,
      document: { ...part!.document, steps },
    } as unknown as Part,
  });
}

/** Take a tool in hand. */
export function take<T extends Tool>(tool: T): T {
  takeTool(tool);
  return tool;
}

const at = (x: number, y: number): XY => apply(affine()!, [x, y]);

/** Move the pointer to a place of the sketch; what would be caught there, in words. */
export function move(x: number, y: number, free = false): string {
  const found = caught(at(x, y), free)!;
  touch(found);
  board().tool!.move(found);
  return board().tool!.snap!.words;
}

/** Press there. */
export function press(x: number, y: number, free = false) {
  move(x, y, free);
  board().tool!.click(caught(at(x, y), free)!);
}

/** Type a value into one of the tool's fields. */
export const type = (key: string, text: string) => board().tool!.type(key, text);

/** Until what was sent is answered. */
export const stored = () => new Promise((done) => setTimeout(done, 5));

/** The constraints of the last command, each as words to compare with: “horizontal l1”. */
export const ties = (command = sent.at(-1)) =>
  ((command?.constraints ?? []) as Ties).map((t) => [t.kind, ...t.refs].join(" "));

/** The sizes of the last command: “distance l1 = 14”. */
export const sizes = (command = sent.at(-1)) =>
  ((command?.dimensions ?? []) as (Ties[0] & { expr: string })[]).map(
    (d) => `${[d.kind, ...d.refs].join(" ")} = ${d.expr}`,
  );

export const line = (id: string, p: XY, q: XY, more: object = {}) =>
  ({ kind: "line", id, p, q, construction: false, ...more }) as unknown as Entity;

export const circle = (id: string, c: XY, r: number) =>
  ({ kind: "circle", id, c, r, construction: false }) as unknown as Entity;
