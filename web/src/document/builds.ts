/** What the kernel made of the part: asked for, waited for, shown. */

import { get } from "../api/client";
import type { Body, Build, Part, Step } from "../api/types";
import { board, type State, showMessage, steps, useBoard } from "../state/store";

type Work = () => void;

const whenShown = new Set<Work>();
const whileShown = new Set<() => Work | null>();

/** Called when another build stands on the board. */
export const onBuildShown = (work: Work) => whenShown.add(work);

/** Called when other bodies are about to stand on the board; what it gives is called when they do. */
export const aroundShowing = (work: () => Work | null) => whileShown.add(work);

let waiting: ReturnType<typeof setTimeout> | undefined;

/** Whether the build of the part as it is now is there, and all of it: what is proven comes after the shape. */
export const buildIsWhole = ({ part, build }: Pick<State, "part" | "build">) =>
  !!build?.ready && build.version === part?.version;

/** The build comes over the live channel; asking again is only for when that is silent, or was not yet listened to. */
export function awaitBuild(pause = 2500) {
  clearTimeout(waiting);
  const mine = setTimeout(async () => {
    if (!board().part || buildIsWhole(board())) return;
    await loadBuild();
    if (waiting === mine) awaitBuild(pause * 1.5);
  }, pause);
  waiting = mine;
}

export async function loadBuild() {
  const { part } = board();
  if (!part) return;
  try {
    const build = await get<Build>(`/api/parts/${part.id}/build`);
    if (board().part?.id !== part.id || (board().build?.version ?? -1) > build.version) return;
    if (board().measured) useBoard.setState({ measured: null, picks: [] });
    // what each report is of is known only while the part has not gone on
    const now = board().part!;
    useBoard.setState({ build, ...(build.version === now.version ? { builtOf: textsOf(now) } : {}) });
    await showBodies();
    for (const work of whenShown) work();
  } catch {
    showMessage("The solid could not be loaded; it comes by itself when the server answers again.", "red");
  }
}

const texts = new WeakMap<Step, string>(); // a step that did not change is the same object

/** A step as text. */
function textOf(step: Step): string {
  const known = texts.get(step);
  if (known !== undefined) return known;
  const made = JSON.stringify(step);
  texts.set(step, made);
  return made;
}

/** What the work of each step hangs on besides the steps before it, as text. */
function textsOf(part: Part): string[] {
  const beside = JSON.stringify([part.document.values, part.document.unit, part.document.hold]);
  return (part.document.steps ?? []).map((s) => textOf(s) + beside);
}

/** How many of the steps, from the first on, the build's reports are true of. */
export function trueUpTo(s: State): number {
  const { part, build, builtOf } = s;
  if (!part || !build || build.broken) return 0;
  const now = textsOf(part);
  if (build.version === part.version) return now.length;
  const first = now.findIndex((t, i) => t !== builtOf[i]);
  return first < 0 ? now.length : first;
}

const made = new Map<string, Promise<Body[]>>(); // bodies before a step, by what they hang on; the newest few

/** The step before which the part is shown: one that is changed, or a sketch that is open, finds that there. */
const before = () => {
  const { draft, sketch } = board();
  return draft ? (draft.fresh ? null : draft.step.id) : sketch;
};

/** The bodies that stand on the board: of the finished part, or as the step that is worked on finds them. */
async function standing(): Promise<Body[]> {
  const { part, build } = board();
  const at = before();
  const list = steps(part);
  const index = list.findIndex((s) => s.id === at);
  const solid = (s: Step) => !["sketch", "body", "datum"].includes(s.kind);
  if (index < 0 || !list.slice(index).some((s) => solid(s) && !s.suppressed)) return build?.bodies ?? [];
  if (!list.slice(0, index).some(solid)) return [];
  const key = JSON.stringify([part!.id, part!.document.values, part!.document.unit, list.slice(0, index)]);
  if (!made.has(key)) {
    const asked = get<{ bodies: Body[] }>(`/api/parts/${part!.id}/at/${at}`).then((found) => found.bodies);
    asked.catch(() => made.delete(key));
    made.set(key, asked);
    if (made.size > 8) made.delete(made.keys().next().value!);
  }
  try {
    return await made.get(key)!;
  } catch {
    showMessage(
      "The part before this step could not be shown; what stands on the board is the finished part.",
      "red",
    );
    return build?.bodies ?? [];
  }
}

/** Until the part as it is now stands on the board; at once if it does. Not for ever: false if it does not come. */
export function asItIs(): Promise<boolean> {
  const here = () => board().shownVersion === board().part?.version;
  if (here()) return Promise.resolve(true);
  return new Promise((done) => {
    const end = (shown: boolean) => {
      clearTimeout(late);
      whenShown.delete(look);
      done(shown);
    };
    const look = () => here() && end(true);
    const late = setTimeout(() => end(false), 8000);
    onBuildShown(look);
  });
}

/** Show what stands on the board now. */
export async function showBodies() {
  const [at, of, version] = [before(), board().part?.id, board().build?.version ?? -1];
  const bodies = await standing();
  if (before() !== at || board().part?.id !== of) return; // gone on meanwhile: that shows its own
  const { scene, sketch, hidden } = board();
  let after: (Work | null)[] = [];
  const done = await scene?.show(
    bodies.filter((b) => !hidden.includes(b.id)),
    sketch !== null,
    () => (after = [...whileShown].map((work) => work())), // not before: what is chosen may change while they come
  );
  if (!done || board().part?.id !== of) return;
  useBoard.setState((s) => ({ shownVersion: Math.max(s.shownVersion, version) }));
  for (const work of after) work?.();
}

/** No build is waited for any more. */
export function stopWaiting() {
  clearTimeout(waiting);
  waiting = undefined;
}
