/** What the kernel made of the part: asked for, waited for, shown. */

import { get as fetchJson } from "../api/client";
import type { Build } from "../api/types";
import { askAdvice } from "./advising";
import { fit, fittedOnce } from "./looking";
import { chooseAgain, chosenNow } from "./meant";
import { board, tell, useBoard } from "./store";

let waiting: ReturnType<typeof setTimeout> | undefined;

/** The build comes over the live channel; asking again is only for when that is silent. */
export function awaitBuild(pause = 2500) {
  clearTimeout(waiting);
  waiting = setTimeout(async () => {
    const { part, build } = board();
    if (part && build?.version !== part.version) {
      await loadBuild();
      awaitBuild(pause * 1.5);
    }
  }, pause);
}

export async function loadBuild() {
  const { part } = board();
  if (!part) return;
  try {
    const build = await fetchJson<Build>(`/api/parts/${part.id}/build`);
    if (board().part?.id !== part.id || (board().build?.version ?? -1) > build.version) return;
    if (board().measured) useBoard.setState({ measured: null, picks: [] });
    useBoard.setState({ build });
    await showBodies();
    askAdvice();
    // never under the hands of somebody who draws
    if (board().view.width && !fittedOnce() && !board().sketch) fit();
  } catch {
    tell("The solid could not be loaded; it comes by itself when the server answers again.", "red");
  }
}

export async function showBodies() {
  const { scene, build, sketch, hidden } = board();
  const bodies = (build?.bodies ?? []).filter((b) => !hidden.includes(b.id));
  const kept = board().draft ? null : chosenNow();
  await scene?.show(bodies, sketch !== null);
  useBoard.setState((s) => ({ tick: s.tick + 1 })); // what is drawn over the bodies reaches as far as they do
  if (kept?.length) chooseAgain(kept);
}

/** No build is waited for any more. */
export function stopWaiting() {
  clearTimeout(waiting);
}
