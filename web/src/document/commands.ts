/** The one way to change the part: commands, undo and redo, one after the other. */

import { post, Refused, Stopped } from "../api/client";
import type { Part, PartChanges } from "../api/types";
import {
  board,
  type CommandDraft,
  clearMessage,
  freshId,
  type Offer,
  showMessage,
  stillAt,
  useBoard,
} from "../state/store";
import { awaitBuild } from "./builds";
import { overtaken } from "./conflicts";
import { partAfter, seen } from "./partAnswers";

let queue: Promise<unknown> = Promise.resolve();

/** Work that changes the part, one after the other. */
export function inTurn<T>(work: () => Promise<T>): Promise<T> {
  const next = queue.then(work, work);
  queue = next.catch(() => undefined);
  return next;
}

/** The part as an answer has it, onto the board; nothing, if another part stands there by now. */
export function applyPart(answer: Part) {
  const { sketch: open, part: before } = board();
  if (!stillAt(answer)) return;
  const part = partAfter(before, answer);
  const gone = open !== null && !(part.document.steps ?? []).some((s) => s.id === open);
  const other = before?.document.steps !== part.document.steps;
  useBoard.setState({
    part,
    ...(other ? { advice: [] } : {}), // it was of the part before
    dragged: null,
    looking: null,
    places: null,
    mending: null,
    fitted: null,
    motions: null,
    playing: null,
    also: board().also.filter((id) => (part.document.steps ?? []).some((s) => s.id === id)),
    ...(gone ? { sketch: null, tool: null, chosen: [] } : {}),
  });
  awaitBuild();
}

/** Carry out a command. True if it was done; if not, the reason is on the screen. */
export const run = (command: CommandDraft, quiet = false): Promise<boolean> =>
  changing(
    (part) => post<Part | PartChanges>(`/api/parts/${part.id}/commands`, { ...seen(part), command }),
    quiet,
    command,
  );

/** Ask the server for anything that changes the part. True if it was done; if not, the reason is on the screen. */
export function changing(
  ask: (part: Part) => Promise<Part | PartChanges>,
  quiet = false,
  command?: CommandDraft,
): Promise<boolean> {
  return inTurn(async () => {
    const part = board().part;
    if (!part) return false;
    useBoard.setState({ saving: board().saving + 1 });
    try {
      const after = partAfter(part, await ask(part));
      if (!stillAt(part)) return true;
      made(after);
      applyPart(after);
      const lost = after.lost ?? [];
      if (lost.length)
        showMessage(after.said?.join(" ") ?? "", "ink", [
          {
            label: lost.length > 1 ? "Keep the sizes for reference" : "Keep the size for reference",
            act: () => {
              const dimensions = lost.map((d, i) => ({ ...d, id: freshId("d", i) }));
              const step = command && "step" in command ? command.step : board().sketch;
              if (typeof step === "string") run({ do: "sketch_add", step, dimensions }, true);
            },
          },
        ]);
      else if (after.said?.length && !quiet) showMessage(after.said.join(" "));
      else clearMessage();
      return true;
    } catch (error) {
      if (!(error instanceof Stopped) && stillAt(part)) refused(error, command);
      return false;
    } finally {
      if (stillAt(part)) useBoard.setState({ saving: board().saving - 1 });
    }
  });
}

function made(after: Part) {
  useBoard.setState((s) => ({ mine: new Set([...s.mine, after.version]) }));
}

function refused(error: unknown, command?: CommandDraft) {
  useBoard.setState({ dragged: null });
  if (!(error instanceof Refused)) throw error;
  if (error.status === 409) {
    const fresh = error.body.part as Part;
    const before = board();
    applyPart({ ...fresh, role: before.part?.role ?? null });
    if (!overtaken(before)) showMessage(error.sentence, "red");
    return;
  }
  const { detail } = error;
  const offers: Offer[] = [];
  if (detail.offer === "reference" && command?.do === "sketch_add") {
    const dimensions = command.dimensions?.map((d) => ({ ...d, driving: false }));
    offers.push({ label: "Keep as reference", act: () => run({ ...command, dimensions }) });
  }
  if (detail.offer === "bring" && command?.do === "move_step")
    offers.push({ label: "Take its sketch along", act: () => run({ ...command, bring: true }) });
  if (detail.offer === "with_dependents" && command)
    offers.push({ label: "Delete them too", act: () => run(withDependents(command)) });
  showMessage(error.sentence, "red", offers, detail.because ?? []);
}

const withDependents = (command: CommandDraft): CommandDraft =>
  command.do === "together"
    ? { ...command, commands: command.commands.map((one) => withDependents(one) as typeof one) }
    : command.do === "delete_step"
      ? { ...command, with_dependents: true }
      : command;

type Made = NonNullable<Part["undoes"]>;

/** Whether a change was made by somebody else, or at another window while this one was open. */
export function foreign(change: Made): boolean {
  const { me, openedAt, mine } = board();
  return (change.who !== "" && change.who !== me) || (change.version > openedAt && !mine.has(change.version));
}

/** Undo or redo. What somebody else did is taken back only when that is meant (``sure``). */
export function travel(way: "undo" | "redo", sure = false): Promise<void> {
  return inTurn(async () => {
    const part = board().part;
    const change = way === "undo" ? part?.undoes : part?.redoes;
    if (!part || !change) return;
    if (foreign(change) && !sure) {
      const whose = change.who === board().me ? "was made at another window" : `is ${change.who}’s`;
      const what = way === "undo" ? change.what : `took back what was done before`;
      const label = way === "undo" ? "Undo it" : "Redo it";
      showMessage(`The last change ${whose}: ${change.who} ${what}.`, "red", [
        { label, act: () => travel(way, true) },
      ]);
      return;
    }
    useBoard.setState({ saving: board().saving + 1 });
    try {
      const answer = await post<Part | PartChanges>(`/api/parts/${part.id}/${way}`, seen(part));
      const after = partAfter(part, answer);
      if (!stillAt(part)) return;
      made(after);
      applyPart(after);
      useBoard.setState({ chosen: [], field: null });
      clearMessage();
    } catch (error) {
      if (stillAt(part)) refused(error);
    } finally {
      if (stillAt(part)) useBoard.setState({ saving: board().saving - 1 });
    }
  });
}
