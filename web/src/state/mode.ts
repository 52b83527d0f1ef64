/** What is going on on the board: one thing at a time. Whoever begins something enters it here, which ends the rest. */
import { board, initial, type State, useBoard } from "./store";

/** ``plane``: a base plane is being chosen; ``look``: a command is looked at, not carried out; ``places``: where a step
 * could stand is shown. */
export type Mode = "idle" | "plane" | "sketch" | "step" | "measure" | "look" | "places";

type Going = Pick<State, "sketch" | "draft" | "measuring" | "choosingPlane" | "looking" | "places">;

export function modeOf(s: Going = board()): Mode {
  if (s.sketch !== null) return "sketch";
  if (s.draft) return "step";
  if (s.measuring) return "measure";
  if (s.choosingPlane) return "plane";
  if (s.looking) return "look";
  return s.places ? "places" : "idle";
}

/** Whether a sketch is open or a step is being worked on: what is pressed belongs to that. */
export const working = (s: Going = board()) => ["sketch", "step"].includes(modeOf(s));

/** What belongs to something that goes on, and is as it was at first when nothing does. */
const BELONGS = [
  "sketch",
  "tool",
  "chosen",
  "field",
  "motions",
  "playing",
  "suggesting",
  "fitting",
  "fitted",
  "checking",
  "mending",
  "shown",
  "draft",
  "preview",
  "lastStep",
  "measuring",
  "measured",
  "choosingPlane",
  "looking",
  "places",
] as const satisfies (keyof State)[];

const REST: Partial<State> = Object.fromEntries(BELONGS.map((field) => [field, initial[field]]));

/** Begin something: what it needs is set, and all that belongs to anything else is let go. */
export function enter(what: Partial<State>) {
  useBoard.setState({ ...REST, ...what });
}
