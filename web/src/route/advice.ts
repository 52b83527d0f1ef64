/** What the order adviser says: asked for once a build is there, shown beside the steps it speaks of. */
import { get, Stopped } from "../api/client";
import type { Advice, Place } from "../api/types";
import { onBuildShown } from "../document/builds";
import { run } from "../document/commands";
import { board, type CommandDraft, showMessage, useBoard } from "../state/store";
import { tryCommand, untry } from "../steps/draft";

let later: ReturnType<typeof setTimeout> | undefined;
let asked = "";
let asking: AbortController | undefined; // what was asked last, while it is not answered

/** Ask again when the part has been built anew, a little after the hands have come to rest. */
export function askAdvice(pause = 900) {
  clearTimeout(later);
  later = setTimeout(async () => {
    const { part, build, draft, sketch } = board();
    if (!part || build?.version !== part.version) return;
    if (draft || sketch) return askAdvice(2000);
    const now = `${part.id} ${part.version}`;
    if (now === asked) return;
    asked = now;
    asking?.abort();
    asking = new AbortController();
    try {
      const advice = await get<Advice[]>(`/api/parts/${part.id}/advice`, asking.signal);
      if (`${board().part?.id} ${board().part?.version}` === now) useBoard.setState({ advice });
    } catch (error) {
      if (!(error instanceof Stopped)) asked = ""; // advice can wait for the next change
    }
  }, pause);
}

export function forgetAdvice() {
  clearTimeout(later);
  asking?.abort();
  trying?.abort();
  asked = "";
}

/** Show the part as it would be: what would be there besides, and what would be gone. */
export function lookAt(command: CommandDraft) {
  useBoard.setState({ looking: JSON.stringify(command) });
  tryCommand(command);
}

export function stopLooking() {
  if (!board().looking) return;
  useBoard.setState({ looking: null });
  untry();
}

export async function follow(command: CommandDraft) {
  stopLooking();
  if (await run(command)) useBoard.setState({ openStep: null });
}

let trying: AbortController | undefined;

/** The places found, or being tried, are put away. */
export function leavePlaces() {
  trying?.abort();
  useBoard.setState({ places: null });
}

/** Where a step could stand on the route, each place tried. */
export async function findPlaces(step: string) {
  const { part } = board();
  if (!part) return;
  trying?.abort();
  trying = new AbortController();
  useBoard.setState({ places: { step, list: null } });
  try {
    const list = await get<Place[]>(`/api/parts/${part.id}/advice/${step}`, trying.signal);
    if (board().places?.step === step) useBoard.setState({ places: { step, list } });
  } catch (error) {
    if (error instanceof Stopped) return;
    useBoard.setState({ places: null });
    showMessage((error as Error).message || "The places could not be tried. Try again.", "red");
  }
}

onBuildShown(() => askAdvice());
