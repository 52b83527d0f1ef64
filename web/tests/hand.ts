/** A designer without a page: pointer and keys on the board, the core behind it. Places in mm of the open sketch. */
import { expect, inject, vi } from "vitest";
import { post } from "../src/api/client";
import type { Live, LiveEvent } from "../src/api/live";
import type { Constraint, Dimension, Entity, Part, Sketch, XY } from "../src/api/types";
import { run } from "../src/document/commands";
import { apply } from "../src/geometry/affine";
import { allActions } from "../src/shell/actions";
import { BoardPointer } from "../src/shell/boardPointer";
import { pressed } from "../src/shell/keys";
import { draggedTo } from "../src/sketch/drag";
import { keepValue } from "../src/sketch/valueField";
import { loadCatalogue } from "../src/state/catalogue";
import { affine, board, initial, sketchOf, sketchStep, useBoard } from "../src/state/store";
import { named } from "../src/view/camera";

declare module "vitest" {
  interface ProvidedContext {
    core: string;
  }
}

const real = globalThis.fetch;
let pointer: BoardPointer;
let clock = 0;

/** The page, as far as what is driven here asks for it. */
function page() {
  const element = { tagName: "BODY", closest: () => null };
  vi.stubGlobal("document", {
    activeElement: null,
    body: element,
    cookie: "",
    querySelector: () => null,
    elementFromPoint: () => null,
  });
  vi.stubGlobal("requestAnimationFrame", (work: () => void) => setTimeout(work, 0));
  vi.stubGlobal("cancelAnimationFrame", clearTimeout);
  vi.stubGlobal("fetch", (path: string, init?: RequestInit) => real(inject("core") + path, init));
}

let dragging: Promise<void> = Promise.resolve();

/** Drags are answered by the core one after the other, as over the live channel. */
function live(id: string): Live {
  const answered = async (event: LiveEvent) => {
    const entities = await post(`/api/parts/${id}/drag`, event);
    if (event.kind === "drag") draggedTo({ kind: "dragged", turn: event.turn, entities });
  };
  const send = (event: LiveEvent) => {
    if (event.kind === "drag_start" || event.kind === "drag") dragging = dragging.then(() => answered(event));
  };
  return { send, close() {} } as unknown as Live;
}

/** Until no drag is on its way. */
async function atRest() {
  for (let last: unknown = null; last !== dragging; ) {
    last = dragging;
    await dragging;
  }
}

/** A new part with an empty sketch on a base plane, open and looked at square on: 10 px for a mm unless ``scale``. */
export async function begin(entities: Entity[] = [], { unit = "mm", scale = 10 } = {}) {
  page();
  pointer = new BoardPointer(() => null);
  const part = await post<Part>("/new", { unit });
  await loadCatalogue();
  const view = { ...initial.view, turn: named("top"), scale, width: 1200, height: 800 };
  useBoard.setState({ ...initial, part, live: live(part.id), view });
  await run({ do: "add_step", step: { kind: "sketch", id: "s1", on: { kind: "datum", plane: "top" } } });
  useBoard.setState({ sketch: "s1" });
  if (entities.length) await run({ do: "sketch_add", step: "s1", entities });
  useBoard.setState({ message: null });
}

/** Until everything that was asked for is answered. */
export async function saved() {
  for (let quiet = 0; quiet < 3; quiet++) {
    await new Promise((done) => setTimeout(done, 2));
    await vi.waitFor(() => expect(board().saving).toBe(0), { interval: 2, timeout: 20_000 });
  }
}

const place = ([x, y]: XY): XY => apply(affine()!, [x, y]);

export const move = (x: number, y: number, free = false) => pointer.move({ at: place([x, y]), free });

export async function press(x: number, y: number, { more = false, free = false } = {}) {
  const at = place([x, y]);
  pointer.move({ at, free });
  pointer.down({ at, more, free });
  pointer.up({ at, more, free });
  await saved();
}

/** Press several things, so that all of them are chosen. */
export async function choose(...places: XY[]) {
  for (const [i, [x, y]] of places.entries()) await press(x, y, { more: i > 0 });
}

/** Pull from one place to another. */
export async function pull(from: XY, to: XY, steps = 8) {
  const [a, b] = [place(from), place(to)];
  pointer.move({ at: a });
  pointer.down({ at: a });
  for (let i = 1; i <= steps; i++) {
    pointer.move({ at: [a[0] + ((b[0] - a[0]) * i) / steps, a[1] + ((b[1] - a[1]) * i) / steps] });
    await new Promise((done) => setTimeout(done, 5));
  }
  pointer.up({ at: b });
  await atRest();
  await saved();
}

export const interrupted = () => pointer.interrupt();

/** The pointer goes down, moves through places and is still held. */
export function hold(...places: XY[]) {
  pointer.move({ at: place(places[0]) });
  pointer.down({ at: place(places[0]) });
  for (const p of places.slice(1)) pointer.move({ at: place(p) });
}

export async function letGo(x: number, y: number) {
  pointer.up({ at: place([x, y]) });
  await atRest();
  await saved();
}

/** Keys pressed with the pointer over the board, one after the other: “d”, “Escape”, “Control+z”. */
export async function keys(...names: string[]) {
  for (const name of names) {
    const parts = name.split("+");
    clock += 100;
    pressed({
      key: parts.at(-1)!,
      ctrlKey: parts.includes("Control"),
      shiftKey: parts.includes("Shift"),
      altKey: false,
      metaKey: false,
      isTrusted: false,
      timeStamp: clock,
      target: document.body,
      getModifierState: () => false,
      preventDefault() {},
    } as unknown as KeyboardEvent);
    await saved();
  }
}

/** Time goes by before the next key, in ms. */
export const later = (ms: number) => {
  clock += ms;
};

/** The values the tool in hand asks for, as they stand in its fields: “length”, “width”. */
export const fields = () => {
  const { tool } = board();
  return (tool?.typed.length ? tool.typed : (tool?.places ?? [])).map((t) => t.key);
};

/** Values typed while drawing, in the order of the fields, and Enter; an empty one follows the pointer. */
export async function typed(...values: string[]) {
  if (!fields().length) board().tool!.typePlace("");
  const names = fields();
  values.forEach((text, i) => {
    if (text) board().tool!.type(names[i], text);
  });
  board().tool!.enter();
  await saved();
}

/** What the open value field is to hold, and Enter; true if it was taken. */
export async function value(text: string): Promise<boolean> {
  await vi.waitFor(() => expect(board().field).not.toBeNull());
  useBoard.setState((s) => ({ field: { ...s.field!, text } }));
  const kept = await keepValue();
  await saved();
  return kept;
}

/** A size between what is pressed, its text put down somewhere. */
export async function dimension(picks: XY[], at: XY, text: string) {
  if (board().tool?.id !== "dimension") await keys("m");
  for (const [x, y] of [...picks, at]) await press(x, y);
  expect(await value(text)).toBe(true);
  await keys("Escape");
}

export const words = () => `${board().tool?.label ?? ""}: ${board().tool?.hint() ?? ""}`;

/** What the pointer catches, in words. */
export const catches = () => board().tool?.snap?.words ?? "";

// -- what is stored --------------------------------------------------------------------------------

export const sketch = (): Sketch => sketchOf(sketchStep());
export const state = () => board().part!.sketches[board().sketch!];

/** An entity by its id, its places and radius as numbers to compare. */
// biome-ignore lint/suspicious/noExplicitAny: whatever kind it is, a test knows what it looks for
export const entity = (id: string): any => (sketch().entities ?? []).find((e) => e.id === id);
export const kinds = () => (sketch().entities ?? []).map((e) => e.kind);
export const ids = () => (sketch().entities ?? []).map((e) => e.id);

/** Constraints as words: “tangent a1 l1”, what they speak of in alphabetical order. */
export const tied = () =>
  (sketch().constraints ?? []).map((c: Constraint) => [c.kind, ...[...c.refs].sort()].join(" "));

export const sizes = () => (sketch().dimensions ?? []).map((d: Dimension) => d.expr);

export const point = (id: string, at: XY) => ({ kind: "point", id, at, construction: false }) as Entity;

/** Places and radii agree within ``within`` mm. */
export const near = (found: number | number[], wanted: number | number[], within = 1e-6) => {
  const [a, b] = [[found].flat(), [wanted].flat()];
  expect(a.length).toBe(b.length);
  a.forEach((v, i) => {
    expect(Math.abs(v - b[i]), `${a} where ${b} is wanted`).toBeLessThan(within);
  });
};

/** An action of the deck by its words. */
export async function act(name: string) {
  const found = allActions().find((a) => a.words === name && a.when());
  expect(found, `${name} is not on the deck now`).toBeDefined();
  found!.run();
  await saved();
}
