/** Dragging in a sketch: solved on the server over the live channel, one answer at a time. */

import type { LiveEvent } from "../api/live";
import type { Entity, XY } from "../api/types";
import { run } from "../document/commands";
import { board, sketchOf, sketchStep, useBoard } from "../state/store";

let dragTurn = 0;
let dragAnswered = true;
let dragNext: XY | null = null;
let rested: (() => void) | null = null; // waits until the last move has been answered
const PATIENCE = 1500; // ms

export function dragStart(ref: string) {
  const s = board();
  dragAnswered = true;
  dragNext = null;
  s.live?.send({ kind: "drag_start", step: s.sketch!, ref });
}

export function dragTo(at: XY) {
  if (!dragAnswered) {
    dragNext = at;
    return;
  }
  dragAnswered = false;
  dragTurn += 1;
  board().live?.send({ kind: "drag", x: at[0], y: at[1], turn: dragTurn });
}

export function draggedTo(event: LiveEvent) {
  if (event.turn !== dragTurn) return;
  dragAnswered = true;
  // what has not moved stays the same object, so that it is not drawn again
  const moved = new Map((event.entities as Entity[]).map((e) => [e.id, e]));
  const all = sketchOf(sketchStep()).entities ?? [];
  useBoard.setState({ dragged: all.map((e) => moved.get(e.id) ?? e) });
  if (dragNext) {
    const at = dragNext;
    dragNext = null;
    dragTo(at);
  } else rested?.();
}

/** A move was refused: what is shown stays, and the next one may be asked. */
export function dragRefused() {
  dragAnswered = true;
  dragNext = null;
  rested?.();
}

function atRest(): Promise<void> {
  if (dragAnswered) return Promise.resolve();
  return new Promise((resolve) => {
    const done = () => {
      clearTimeout(late);
      rested = null;
      resolve();
    };
    const late = setTimeout(done, PATIENCE);
    rested = done;
  });
}

/** Let go: what is stored is what is seen, since where a linkage comes to lie depends on the way there. */
export async function dragEnd(ref: string, to: XY) {
  dragTo(to);
  await atRest();
  dragTurn += 1;
  const s = board();
  s.live?.send({ kind: "drag_end" });
  const before = new Set(sketchOf(sketchStep()).entities ?? []);
  const shown = (s.dragged ?? []).filter((e) => !before.has(e));
  await run({ do: "sketch_drag", step: s.sketch!, ref, to, shown }, true);
}

/** The drag was taken away from the hand: nothing is stored, and all stands where it stood. */
export function dragDropped() {
  dragTurn += 1;
  dragAnswered = true;
  dragNext = null;
  board().live?.send({ kind: "drag_end" });
  useBoard.setState({ dragged: null });
}
