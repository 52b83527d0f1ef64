import { beforeEach, expect, test, vi } from "vitest";
import { catchUp, waits, watchOpening } from "../src/shell/earlyKeys";
import { board, holding, initial, useBoard } from "../src/state/store";

let frames: (() => void)[] = [];
let struck: string[] = [];
let field = false;

class Key {
  isTrusted = false;
  ctrlKey = false;
  constructor(
    public type: string,
    how: { key: string },
  ) {
    this.key = how.key;
  }
  key: string;
}

/** A key of a hand. */
function press(key: string, ctrlKey = false) {
  const e = Object.assign(new Key("keydown", { key }), { isTrusted: true, ctrlKey });
  if (!waits(e as unknown as KeyboardEvent)) struck.push(key);
}

function frame() {
  const now = frames;
  frames = [];
  for (const one of now) one();
}

beforeEach(() => {
  frames = [];
  struck = [];
  field = false;
  vi.stubGlobal("KeyboardEvent", Key);
  vi.stubGlobal("requestAnimationFrame", (one: () => void) => frames.push(one));
  const at = {
    get tagName() {
      return field ? "INPUT" : "BODY";
    },
    dispatchEvent: (e: Key) => struck.push(e.key),
  };
  vi.stubGlobal("document", {
    activeElement: at,
    execCommand: (_: string, __: boolean, text: string) => struck.push(`in:${text}`),
  });
  useBoard.setState({ ...initial, part: { id: "p" } as never });
  watchOpening();
});

test("a key that comes when something has just opened waits for those before it", async () => {
  let opened = () => {};
  const done = holding(new Promise<void>((yes) => (opened = yes)));
  press("d");
  opened();
  await done;
  expect(board().opening).toBe(0);
  press("l"); // the frames after which "d" has its turn have not come yet
  expect(struck).toEqual([]);
  press("z", true); // what is held with Control is meant for now
  expect(struck).toEqual(["z"]);
  frame();
  frame();
  expect(struck).toEqual(["z", "d", "l"]);
  press("r");
  expect(struck).toEqual(["z", "d", "l", "r"]);
});

test("a press of the pointer comes after the keys before it", async () => {
  const done = holding(Promise.resolve());
  press("d");
  press("l");
  catchUp(); // pressed while it still opens: they go on waiting
  expect(struck).toEqual([]);
  await done;
  catchUp();
  expect(struck).toEqual(["d", "l"]);
  frame();
  frame();
  expect(struck).toEqual(["d", "l"]);
});

test("letters go into a field that has opened, and none to another part", async () => {
  const done = holding(Promise.resolve());
  press("7");
  press("Enter");
  await done;
  field = true;
  frame();
  frame();
  expect(struck).toEqual(["in:7", "Enter"]);
  const other = holding(Promise.resolve());
  press("x");
  useBoard.setState({ ...initial, part: { id: "q" } as never });
  await other;
  frame();
  frame();
  press("y");
  expect(struck).toEqual(["in:7", "Enter", "y"]);
});
