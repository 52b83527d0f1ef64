/** What the kernel made of the part: asked for, waited for, shown. */

import { get as fetchJson } from "../api/client";
import type { Build, Part } from "../api/types";
import { askAdvice } from "./advising";
import { fit, fittedOnce } from "./looking";
import { chooseAgain, chosenNow } from "./meant";
import { board, type State, tell, useBoard } from "./store";

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
    // what each report is of is known only while the part has not gone on
    const now = board().part!;
    useBoard.setState({ build, ...(build.version === now.version ? { builtOf: textsOf(now) } : {}) });
    await showBodies();
    askAdvice();
    // never under the hands of somebody who draws
    if (board().view.width && !fittedOnce() && !board().sketch) fit();
  } catch {
    tell("The solid could not be loaded; it comes by itself when the server answers again.", "red");
  }
}

/** What the work of each step hangs on besides the steps before it, as text. */
function textsOf(part: Part): string[] {
  const beside = JSON.stringify([part.document.values, part.document.unit, part.document.hold]);
  return (part.document.steps ?? []).map((s) => JSON.stringify(s) + beside);
}

/** How many of the steps, from the first on, the build's reports are true of. */
export function trueUpTo(s: State): number {
  const { part, build, builtOf } = s;
  if (!part || !build || build.broken) return 0;
  const texts = textsOf(part);
  if (build.version === part.version) return texts.length;
  const first = texts.findIndex((t, i) => t !== builtOf[i]);
  return first < 0 ? texts.length : first;
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
