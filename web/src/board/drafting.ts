/** A step being worked on, with its live preview. */
import { get } from "../api/client";
import type { Body, Step } from "../api/types";
import { named } from "../view/camera";
import { showBodies } from "./building";
import { catalogue, linkName, type Start } from "./catalogue";
import { run } from "./change";
import type { LiveEvent } from "./live";
import { fit, setView } from "./looking";
import { activate, missing, POINTED, showChosen } from "./pointing";
import { closeSketch } from "./sketching";
import { board, type Draft, type Loose, type Preview, tell, useBoard } from "./store";

let previewTurn = 0;
let previewLater: ReturnType<typeof setTimeout> | undefined;
let previewLost: ReturnType<typeof setTimeout> | undefined;

/** Work on a step. ``slot`` is filled by pointing from the start. */
export async function startDraft(step: Step, fresh: boolean, slot: string | null = null, start?: Start) {
  useBoard.setState({
    draft: { step, fresh, slot: null, feeds: {}, start },
    measuring: false,
    measured: null,
    preview: null,
    openStep: step.id,
    leaf: null,
    lastStep: null,
  });
  if (board().sketch) {
    closeSketch();
    setView({ ...board().view, turn: named("iso") }); // a depth cannot be seen square on
    fit();
  }
  if (!fresh) await showBefore(step.id);
  const first = slot ?? null;
  if (first) activate(first);
  else useBoard.setState({ picks: [] });
  showChosen();
  askPreview();
}

/** Show the part as the step finds it: what can be pointed at. */
async function showBefore(step: string) {
  const s = board();
  const steps = s.part?.document.steps ?? [];
  if (
    !steps
      .slice(
        0,
        steps.findIndex((x) => x.id === step),
      )
      .some((x) => x.kind !== "sketch")
  ) {
    await s.scene?.show([], false);
    return;
  }
  try {
    const { bodies } = await get<{ bodies: Body[] }>(`/api/parts/${s.part!.id}/at/${step}`);
    if (board().draft?.step.id === step) await board().scene?.show(bodies, false);
  } catch {
    tell(
      "The part before this step could not be shown; what stands on the board is the finished part.",
      "red",
    );
  }
}

export function changeDraft(step: Step) {
  const draft = board().draft;
  if (!draft) return;
  useBoard.setState({ draft: { ...draft, step } });
  askPreview();
}

export function draftCommand(draft: Draft): Loose {
  const { id, kind: _kind, ...changes } = draft.step as Step & Record<string, unknown>;
  return draft.fresh ? { do: "add_step", step: draft.step } : { do: "set_step", step: id, changes };
}

function askPreview() {
  clearTimeout(previewLater);
  previewLater = setTimeout(() => {
    const s = board();
    if (!s.draft) return;
    previewTurn += 1;
    const open = missing(s.draft.step);
    if (open) {
      useBoard.setState({ preview: { steps: [], mass: null, open } });
      s.scene?.preview([], []);
      return;
    }
    if (s.preview?.open) useBoard.setState({ preview: null });
    s.live?.send({ kind: "preview", turn: previewTurn, command: draftCommand(s.draft) });
    expectAnswer(previewTurn, 5000);
  }, 25);
}

/** An answer that got lost on its way is asked for again, with growing patience. */
function expectAnswer(turn: number, patience: number) {
  clearTimeout(previewLost);
  previewLost = setTimeout(() => {
    const s = board();
    if (!s.draft || turn !== previewTurn) return;
    previewTurn += 1;
    s.live?.send({ kind: "preview", turn: previewTurn, command: draftCommand(s.draft) });
    expectAnswer(previewTurn, patience * 2);
  }, patience);
}

export function dropDraft() {
  clearTimeout(previewLater);
  clearTimeout(previewLost);
  previewTurn += 1;
  const was = board().draft;
  useBoard.setState({ draft: null, preview: null, picks: [] });
  board().scene?.mark(null, []);
  board().scene?.preview([], []);
  if (was && !was.fresh) showBodies();
}

/** Store the step being worked on, with the callouts that feed it. ``again``: go on with another of the same kind. */
export async function acceptDraft(again = false): Promise<boolean> {
  const draft = board().draft;
  if (!draft) return false;
  const open = missing(draft.step);
  if (open) {
    tell(open, "red");
    return false;
  }
  const done = await run(draftCommand(draft));
  if (!done) return false;
  dropDraft();
  useBoard.setState({ openStep: null });
  for (const [path, callout] of Object.entries(draft.feeds))
    await run({ do: "link_callout", callout, step: draft.step.id, field: linkName(path) });
  if (again && draft.start)
    window.dispatchEvent(new CustomEvent("sulvak-again", { detail: draft.start.action }));
  return true;
}

/** Try a command that is not a step's own and show what it would change; ``untry`` takes it off the board again. */
export function tryCommand(command: Loose) {
  previewTurn += 1;
  board().live?.send({ kind: "preview", turn: previewTurn, command });
}

export function untry() {
  previewTurn += 1;
  useBoard.setState({ preview: null });
  board().scene?.preview([], []);
}

/** The slot of a kind of step that pointing fills first. */
export function firstPointed(step: Step): string | null {
  for (const part of catalogue().sentences[step.kind] ?? []) {
    if (part.is === "slot" && POINTED.has(part.kind) && !part.optional) return part.field;
    if (part.is === "group") return `${part.field}.0.${(part.parts[0] as { field: string }).field}`;
  }
  return null;
}

/** A preview that came over the live channel, if it is the one asked for last. */
export function previewed(event: LiveEvent) {
  const s = board();
  if (event.turn !== previewTurn || (!s.draft && !s.looking)) return;
  clearTimeout(previewLost);
  useBoard.setState({ preview: event as unknown as Preview });
  s.scene?.preview((event.added as string[]) ?? [], (event.removed as string[]) ?? []);
}
