/** A step being worked on, with its live preview. */

import type { LiveEvent } from "../api/live";
import type { SingleCommand, Step } from "../api/types";
import { fit, setView, squareOn } from "../camera/viewControl";
import { showBodies } from "../document/builds";
import { run } from "../document/commands";
import { changedHere, changedThere, meanwhile } from "../document/conflicts";
import { closeSketch } from "../sketch/openSketch";
import { catalogue, linkName, type Start } from "../state/catalogue";
import { enter } from "../state/mode";
import {
  board,
  type CommandDraft,
  type Draft,
  frameOf,
  freshStep,
  holding,
  type Preview,
  type State,
  showMessage,
  stepOf,
  useBoard,
} from "../state/store";
import { named } from "../view/camera";
import { activate, missing, POINTED, showChosen } from "./slots";

let previewTurn = 0;
let asked = ""; // the command that is being tried, as text
let previewLater: ReturnType<typeof setTimeout> | undefined;
let previewLost: ReturnType<typeof setTimeout> | undefined;

let goOn: ((action: string, like: Step) => void) | null = null;

/** What starts the next step of the same kind, as the last was kept (Shift Enter). */
export function onKeptForAgain(work: (action: string, like: Step) => void) {
  goOn = work;
}

/** Work on a step. ``slot`` is filled by pointing from the start. */
export async function startDraft(step: Step, fresh: boolean, slot: string | null = null, start?: Start) {
  const { sketch } = board();
  const frame = sketch && frameOf(board(), sketch);
  if (sketch) closeSketch();
  enter({
    draft: { step, base: fresh ? null : stepOf(board().part, step.id), fresh, slot: null, feeds: {}, start },
    openStep: step.id,
    leaf: null,
  });
  if (sketch) {
    if (!frame || squareOn(frame)) {
      setView({ ...board().view, turn: named("iso") }); // a depth cannot be seen square on
      fit();
    }
  }
  if (!fresh) await showBodies();
  const first = slot ?? null;
  if (first) activate(first);
  else useBoard.setState({ picks: [] });
  showChosen();
  askPreview();
}

// what was pointed at on the board belongs to the step that was worked on: gone with it, it hears no pointer leave
useBoard.subscribe((now, before) => {
  if (now.guide && now.draft?.step.id !== before.draft?.step.id) useBoard.setState({ guide: null });
});

export function changeDraft(step: Step) {
  const draft = board().draft;
  if (!draft) return;
  useBoard.setState({ draft: { ...draft, step } });
  if (!previewNow(board())) board().scene?.fade(); // what is shown was of other values
  askPreview();
}

export function draftCommand(draft: Draft): SingleCommand {
  const { step, base } = draft;
  // only what was changed here: what others changed beside it stays
  return base
    ? { do: "set_step", step: step.id, changes: changedHere(step, base) }
    : { do: "add_step", step };
}

/** The preview, if it is of the values that stand there now. */
export function previewNow(s: State): Preview | null {
  if (!s.preview || s.preview.open) return s.preview;
  return !s.draft || s.preview.of === JSON.stringify(draftCommand(s.draft)) ? s.preview : null;
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
    ask(draftCommand(s.draft));
    expectAnswer(previewTurn, 5000);
  }, 25);
}

function ask(command: CommandDraft) {
  asked = JSON.stringify(command);
  board().live?.send({ kind: "preview", turn: previewTurn, command });
}

/** An answer that got lost on its way is asked for again, with growing patience. */
function expectAnswer(turn: number, patience: number) {
  clearTimeout(previewLost);
  previewLost = setTimeout(() => {
    const s = board();
    if (!s.draft || turn !== previewTurn) return;
    previewTurn += 1;
    ask(draftCommand(s.draft));
    expectAnswer(previewTurn, patience * 2);
  }, patience);
}

/** The kernel works for nobody who does not wait any more. */
function giveUp() {
  clearTimeout(previewLater);
  clearTimeout(previewLost);
  previewTurn += 1;
  board().live?.send({ kind: "preview", turn: previewTurn, command: null });
}

/** Stop trying these values; they stay as they are typed. */
export function stopTrying() {
  const { draft } = board();
  if (!draft) return;
  giveUp();
  const sentence = "Stopped before it was done. Change a value to try again, or keep the step untried.";
  useBoard.setState({ preview: { mass: null, sentence, of: JSON.stringify(draftCommand(draft)) } });
}

export function dropDraft() {
  giveUp();
  const was = board().draft;
  if (!was) return; // something else is going on by now
  enter({ picks: [] });
  board().scene?.mark(null, []);
  board().scene?.preview([], []);
  if (!was.fresh) showBodies();
}

/** Store the step being worked on, with the callouts that feed it, as one change. ``again``: go on with another of the
 * same kind; ``over``: also over what somebody else has changed in it meanwhile. */
export const acceptDraft = (again = false, over = false): Promise<boolean> => holding(keepDraft(again, over));

async function keepDraft(again: boolean, over: boolean): Promise<boolean> {
  let draft = board().draft;
  if (!draft) return false;
  if (!draft.base && stepOf(board().part, draft.step.id)) {
    // somebody else's new step has taken the number
    draft = { ...draft, step: { ...draft.step, id: freshStep() } as Step };
    useBoard.setState({ draft });
  }
  const open = missing(draft.step);
  if (open) {
    showMessage(open, "red");
    return false;
  }
  if (draft.base && !over && changedThere(draft.step, draft.base)) {
    meanwhile(
      (who) => `${who} changed this step meanwhile. Yours is kept here, not yet stored.`,
      [
        { label: "Keep mine over it", act: () => acceptDraft(again, true) },
        { label: "Take theirs", act: dropDraft },
      ],
    );
    return false;
  }
  const links = Object.entries(draft.feeds).map(([path, callout]) => ({
    do: "link_callout" as const,
    callout,
    step: draft.step.id,
    field: linkName(path),
  }));
  const command = draftCommand(draft);
  const done = await run(links.length ? { do: "together", commands: [command, ...links] } : command);
  if (!done) return false;
  dropDraft();
  useBoard.setState({ openStep: null });
  if (again && draft.start) goOn?.(draft.start.action, draft.step);
  return true;
}

/** Try a command that is not a step's own and show what it would change; ``untry`` takes it off the board again. */
export function tryCommand(command: CommandDraft) {
  previewTurn += 1;
  ask(command);
}

export function untry() {
  giveUp();
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
  useBoard.setState({ preview: { ...(event as unknown as Preview), of: asked } });
  s.scene?.preview((event.added as string[]) ?? [], (event.removed as string[]) ?? []);
}
