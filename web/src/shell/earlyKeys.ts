/** Keys that come while something opens wait for it, and those that come after wait for their turn. */
import { board, useBoard } from "../state/store";

const kept: KeyboardEvent[] = [];

/** True if a key has to wait: for what is opening, or for keys that came before it and wait still. */
export function waits(e: KeyboardEvent): boolean {
  const early = board().opening > 0 || kept.length > 0;
  if (!e.isTrusted || !early || e.ctrlKey || e.metaKey || e.altKey || e.key === "Shift") return false;
  kept.push(e);
  return true;
}

/** Keys that came too early, in their turn: into the field that has opened, or as strokes. */
export function catchUp() {
  while (kept.length && !board().opening) {
    const e = kept.shift()!;
    const at = (document.activeElement ?? document.body) as HTMLElement;
    const field = at.tagName === "INPUT" && e.key.length === 1;
    if (field) document.execCommand("insertText", false, e.key);
    else
      at.dispatchEvent(
        new KeyboardEvent("keydown", { key: e.key, code: e.code, shiftKey: e.shiftKey, bubbles: true }),
      );
  }
}

/** Hand the keys out once what was opening has been drawn, so that a field in it has the focus. Returns an end to it. */
export function watchOpening(): () => void {
  return useBoard.subscribe((s, before) => {
    if (before.part && s.part?.id !== before.part.id) kept.length = 0; // they were meant for another part
    if (before.opening && !s.opening) requestAnimationFrame(() => requestAnimationFrame(catchUp));
  });
}
