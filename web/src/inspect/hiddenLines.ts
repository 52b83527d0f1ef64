/** Hidden lines by exact removal: asked for once the view rests, drawn in the place of what the picture's depths give. */
import { useEffect } from "react";
import { create } from "zustand";
import { post } from "../api/client";
import type { components } from "../api/schema.gen";
import { board, type State, useBoard } from "../state/store";
import { axes, type ViewState } from "../view/camera";

export type Lines = components["schemas"]["LinesOut"];

const REST = 250; // ms a view has to stand still
const KEPT = 12; // views

/** The lines of views by their keys. */
const useLines = create<{ found: Record<string, Lines> }>(() => ({ found: {} }));

const shownBodies = ({ build, hidden }: State) =>
  (build?.bodies ?? []).map((b) => b.id).filter((b) => !hidden.includes(b));

/** What the lines of a view depend on: the part, the bodies shown, the direction. Null where none are to be drawn: the
 * part is not finished, is cut open, or drawn another way. */
function keyOf(s: State, view: ViewState): string | null {
  if (s.drawn !== "dashed" || s.cut || s.sketch || s.draft || s.looking || !s.build?.bodies?.length)
    return null;
  if (s.build.version !== s.part?.version) return null;
  const turn = view.turn.toArray().map((v) => v.toFixed(6));
  return [s.part.id, s.build.version, ...turn, ...shownBodies(s)].join();
}

/** Whether the exact lines of a view are known, and so drawn. */
export function drawnExactly(view: ViewState): boolean {
  const key = keyOf(board(), view);
  return key !== null && key in useLines.getState().found;
}

async function ask(view: ViewState, key: string) {
  const s = board();
  if (!s.part) return;
  const { right, back } = axes(view);
  const to = { towards: back.toArray(), right: right.toArray(), bodies: shownBodies(s) };
  try {
    const lines = await post<Lines>(`/api/parts/${s.part.id}/lines`, to);
    const known = Object.entries(useLines.getState().found).slice(1 - KEPT);
    useLines.setState({ found: { ...Object.fromEntries(known), [key]: lines } });
  } catch {
    // the lines drawn from the picture's depths stay
  }
}

/** The exact lines of a view, or null while it moves or they are not known yet. */
export function useExactLines(view: ViewState): Lines | null {
  const key = useBoard((s) => keyOf(s, view));
  const found = useLines((s) => (key ? s.found[key] : undefined)) ?? null;
  // biome-ignore lint/correctness/useExhaustiveDependencies: moved or enlarged, a view keeps its lines
  useEffect(() => {
    board().scene?.draw();
    if (!key || found) return;
    const later = setTimeout(() => ask(view, key), REST);
    return () => clearTimeout(later);
  }, [key, found]);
  return found;
}
