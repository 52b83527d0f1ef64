/** A part opened and closed, and what the live channel tells of it. */

import { get as fetchJson, Refused } from "../api/client";
import type { LiveEvent } from "../api/live";
import { Live } from "../api/live";
import type { Me, Part } from "../api/types";
import { forgetViews } from "../camera/viewControl";
import { awaitBuild, buildIsWhole, loadBuild, stopWaiting } from "../document/builds";
import { applyPart } from "../document/commands";
import { overtaken } from "../document/conflicts";
import { forgetAdvice } from "../route/advice";
import { draggedTo, dragRefused } from "../sketch/drag";
import { loadCatalogue } from "../state/catalogue";
import { board, initial, showMessage, useBoard } from "../state/store";
import { previewed } from "../steps/draft";

let opening = 0; // counts; what comes of an opening that was left is dropped

export async function openPart(id: string) {
  opening += 1;
  const mine = opening;
  forgetViews();
  forgetAdvice();
  useBoard.setState({ ...initial, view: board().view, scene: board().scene });
  try {
    const [part, me] = await Promise.all([
      fetchJson<Part>(`/api/parts/${id}`),
      fetchJson<Me>("/api/me"),
      loadCatalogue(),
    ]);
    if (opening !== mine) return;
    useBoard.setState({ part, live: new Live(id, heard), openedAt: part.version, me: me.name ?? "" });
    await loadBuild();
    if (opening === mine) awaitBuild();
  } catch (error) {
    if (opening !== mine) return;
    useBoard.setState({
      trouble:
        error instanceof Refused ? error.sentence : "This part could not be opened; load the page again.",
    });
  }
}

export function closePart() {
  opening += 1;
  stopWaiting();
  board().live?.close();
  useBoard.setState({ ...initial, view: board().view });
}

function heard(event: LiveEvent) {
  const s = board();
  if (event.kind === "building")
    useBoard.setState({ progress: { done: event.done as number, of: event.of as number } });
  else if (event.kind === "built") {
    useBoard.setState({ progress: null });
    loadBuild();
    if ((event.version as number) > (s.part?.version ?? 0)) refresh();
  } else if (event.kind === "present") useBoard.setState({ people: event.people as string[] });
  else if (event.kind === "connected") {
    useBoard.setState({ connected: true });
    if (s.build && !buildIsWhole(s)) loadBuild();
  } else if (event.kind === "disconnected") useBoard.setState({ connected: false });
  else if (event.kind === "settled") refresh(true);
  else if (event.kind === "dragged") draggedTo(event);
  else if (event.kind === "refused") {
    dragRefused();
    showMessage(event.sentence as string, "red");
  } else if (event.kind === "preview") previewed(event);
}

/** Load the part again: it has gone on, or (``settled``) its sketches have followed its solid. */
async function refresh(settled = false) {
  const { part } = board();
  if (!part) return;
  const fresh = await fetchJson<Part>(`/api/parts/${part.id}`);
  const before = board();
  const now = before.part?.version ?? 0;
  if (fresh.version > now || (settled && fresh.version === now)) applyPart(fresh);
  if (fresh.version > now) overtaken(before);
}
