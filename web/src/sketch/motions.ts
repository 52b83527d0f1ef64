/** What can still move in the open sketch: asked for, to be played. */
import { get } from "../api/client";
import type { Motion } from "../api/types";
import { board, showMessage, stillAt, useBoard } from "../state/store";

export async function loadMotions(play: boolean) {
  const s = board();
  if (!s.sketch || !s.part) return;
  const all = await get<Motion[]>(`/api/parts/${s.part.id}/sketches/${s.sketch}/motions`);
  if (!stillAt(s.part) || board().sketch !== s.sketch) return;
  // of what is chosen, if something is
  const asked = new Set(s.chosen.map((ref) => ref.split(".")[0]));
  const motions = asked.size ? all.filter((m) => m.entities.some((e) => asked.has(e))) : all;
  useBoard.setState({ motions, playing: play && motions.length ? 0 : null });
  if (!all.length) showMessage("Nothing can move: this sketch is fully constrained.", "proof");
  else if (!motions.length)
    showMessage("What is chosen cannot move any more; something else here can.", "proof");
}
