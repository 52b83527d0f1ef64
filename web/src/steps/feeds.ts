/** Callouts that go into the values of the step that is worked on. */
import { useEffect } from "react";
import type { Step } from "../api/types";
import { put } from "../state/catalogue";
import { board, useBoard } from "../state/store";
import { changeDraft } from "./draft";

let last: string | null = null; // the value that has the focus, or had it last, by its path in the step

const pathOf = (e: EventTarget | null) => (e as HTMLElement | null)?.dataset?.path ?? null;

/** Notes which value of the step is in hand while its fields are on the screen. */
export function useFieldsNoted() {
  useEffect(() => {
    last = pathOf(document.activeElement);
    const note = (e: FocusEvent) => {
      last = pathOf(e.target) ?? last;
    };
    window.addEventListener("focusin", note);
    return () => {
      window.removeEventListener("focusin", note);
      last = null;
    };
  }, []);
}

/** A callout goes into the value in hand; a hole's says more than its diameter. */
export function feedDraft(id: string) {
  const { draft, part } = board();
  const callout = part?.callouts[id];
  if (!callout?.typed || !draft || !last) return;
  useBoard.setState({ draft: { ...draft, feeds: { ...draft.feeds, [last]: id } } });
  const hole = last === "diameter" ? callout.hole : {};
  const all =
    "diameter" in draft.step && Object.keys(hole).length ? ({ ...draft.step, ...hole } as Step) : null;
  changeDraft(all ?? put(draft.step, last, callout.typed));
  document.querySelector<HTMLInputElement>(`[data-path="${last}"]`)?.focus();
}
