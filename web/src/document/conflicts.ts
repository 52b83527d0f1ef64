/** What somebody else's change did to the work in hand: told, with a way to go on. */
import { get } from "../api/client";
import type { components } from "../api/schema.gen";
import type { Step } from "../api/types";
import { board, freshStep, type State, showMessage, stepOf, useBoard } from "../state/store";

type Change = components["schemas"]["HistoryOut"];

/** Told after the part has gone on: the sketch that was open, or the step that was worked on, is no longer there. True
 * if there was anything to tell. */
export function overtaken(before: State): boolean {
  const { part, draft } = board();
  if (!part) return false;
  if (before.sketch && !stepOf(part, before.sketch)) {
    meanwhile((who, what) => `${who} ${what} meanwhile: the sketch you had open is no longer in the route.`);
    return true;
  }
  if (draft?.base && !stepOf(part, draft.base.id)) {
    useBoard.setState({
      draft: { ...draft, base: null, fresh: true, step: { ...draft.step, id: freshStep() } as Step },
    });
    meanwhile(
      (who, what) => `${who} ${what} meanwhile: the step you work on is gone. Keep puts it in as a new one.`,
    );
    return true;
  }
  return false;
}

/** Tell who did what last, as far as the log knows. */
export async function meanwhile(
  words: (who: string, what: string) => string,
  offers: Parameters<typeof showMessage>[2] = [],
) {
  const part = board().part!;
  let last: Change | undefined;
  try {
    last = (await get<Change[]>(`/api/parts/${part.id}/history`)).find((c) => !board().mine.has(c.version));
  } catch {
    // told without a name
  }
  const who = last?.who ? (last.who === board().me ? "You, at another window," : last.who) : "Somebody";
  showMessage(words(who, last?.what ?? "changed the part"), "red", offers);
}

type Fields = Record<string, unknown>;
const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);

/** The fields of a step that are changed here. */
export function changedHere(step: Step, base: Step): Fields {
  const old = base as unknown as Fields;
  return Object.fromEntries(
    Object.entries(step).filter(([k, v]) => !["id", "kind"].includes(k) && !same(v, old[k])),
  );
}

/** Whether fields that are changed here have been changed in the part since work on the step began. */
export function changedThere(step: Step, base: Step): boolean {
  const now = stepOf(board().part, base.id) as unknown as Fields | null;
  const old = base as unknown as Fields;
  if (!now) return false;
  return Object.entries(changedHere(step, base)).some(([k, v]) => !same(now[k], old[k]) && !same(now[k], v));
}
