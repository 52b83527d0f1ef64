/** The profile check of the open sketch: asked of the core, live for what nearly meets, and whole on demand. */
import { useQuery } from "@tanstack/react-query";
import { get } from "../api/client";
import type { Check, Finding, Mending } from "../api/types";
import { run } from "../document/commands";
import { board, sketchOf, sketchStep, stillAt, useBoard } from "../state/store";

const LIVE_REACH = 18; // pixels on the screen: twice what a press catches
const LIVE_MOST = 400; // entities up to which every change is looked at

/** One digit of a length, so that a little zooming asks nothing new. */
const rounded = (mm: number) => Number(mm.toPrecision(1));

/** What the check finds now. With the panel open its tolerance counts, else what is near on the screen. */
export function useCheck() {
  const part = useBoard((s) => s.part)!;
  const step = useBoard((s) => s.sketch);
  const open = useBoard((s) => s.checking);
  const chosen = useBoard((s) => s.tolerance);
  const scale = useBoard((s) => s.view.scale);
  const busy = useBoard((s) => s.tool !== null || s.dragged !== null);
  const entities = sketchOf(sketchStep()).entities?.length ?? 0;
  const live = Math.min(50, Math.max(0.001, rounded(LIVE_REACH / scale)));
  const tolerance = open ? chosen : live;
  return useQuery({
    queryKey: ["check", part.id, part.version, step, tolerance],
    queryFn: () =>
      get<Check>(
        `/api/parts/${part.id}/sketches/${step}/check${tolerance === null ? "" : `?tolerance=${tolerance}`}`,
      ),
    enabled: step !== null && entities > 1 && (open || (!busy && entities <= LIVE_MOST)),
    placeholderData: (before) => before,
  });
}

/** Mend these findings, or all that can be mended. */
export async function mend(tolerance: number, found?: Finding[]) {
  const keys = found?.map((f) => f.key);
  useBoard.setState({ mending: null, shown: [] });
  await run({ do: "sketch_mend", step: board().sketch!, tolerance, ...(keys ? { keys } : {}) });
}

/** Show what mending would do, without doing it. */
export async function tryMending(tolerance: number, found?: Finding[]) {
  const { part, sketch } = board();
  if (!part || !sketch) return;
  const keys = (found ?? []).map((f) => `&key=${encodeURIComponent(f.key)}`).join("");
  const mending = await get<Mending>(
    `/api/parts/${part.id}/sketches/${sketch}/mending?tolerance=${tolerance}${keys}`,
  ).catch(() => null);
  if (board().checking && stillAt(part) && board().sketch === sketch) useBoard.setState({ mending });
}

export const stopTrying = () => useBoard.setState({ mending: null, shown: [] });
