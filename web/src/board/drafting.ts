/** A step being worked on, with its live preview. */
import type { ExtrudeStep } from "../api/types";
import { named } from "../view/camera";
import { run } from "./change";
import type { LiveEvent } from "./live";
import { fit, setView } from "./looking";
import { closeSketch } from "./sketching";
import { board, type Draft, type Loose, type Preview, useBoard } from "./store";

let previewTurn = 0;
let previewLater: ReturnType<typeof setTimeout> | undefined;

export function startDraft(step: ExtrudeStep, fresh: boolean) {
  useBoard.setState({ draft: { step, fresh }, preview: null, openStep: step.id, leaf: null, picks: [] });
  if (board().sketch) {
    closeSketch();
    setView({ ...board().view, turn: named("iso") }); // a depth cannot be seen square on
    fit();
  }
  askPreview();
}

export function changeDraft(change: Partial<ExtrudeStep>) {
  const draft = board().draft;
  if (!draft) return;
  useBoard.setState({ draft: { ...draft, step: { ...draft.step, ...change } } });
  askPreview();
}

export function draftCommand(draft: Draft): Loose {
  const { id, kind: _kind, sketch: _sketch, ...changes } = draft.step;
  return draft.fresh ? { do: "add_step", step: draft.step } : { do: "set_step", step: id, changes };
}

function askPreview() {
  clearTimeout(previewLater);
  previewLater = setTimeout(() => {
    const s = board();
    if (!s.draft) return;
    previewTurn += 1;
    s.live?.send({ kind: "preview", turn: previewTurn, command: draftCommand(s.draft) });
  }, 25);
}

export function dropDraft() {
  clearTimeout(previewLater);
  previewTurn += 1;
  useBoard.setState({ draft: null, preview: null });
  board().scene?.preview([], []);
}

/** Store the step being worked on. ``feeds`` links a callout to its depth at the same time. */
export async function acceptDraft(feeds?: string): Promise<boolean> {
  const draft = board().draft;
  if (!draft) return false;
  const done = await run(draftCommand(draft));
  if (!done) return false;
  dropDraft();
  useBoard.setState({ openStep: null });
  if (feeds) await run({ do: "link_callout", callout: feeds, step: draft.step.id, field: "depth" });
  return true;
}

/** A preview that came over the live channel, if it is the one asked for last. */
export function previewed(event: LiveEvent) {
  const s = board();
  if (event.turn !== previewTurn || !s.draft) return;
  useBoard.setState({ preview: event as unknown as Preview });
  s.scene?.preview((event.added as string[]) ?? [], (event.removed as string[]) ?? []);
}
