/** The part as the server has it, its newest build, and what is going on between here and there. */

import type { Live } from "../../api/live";
import type { Build, Command, Part } from "../../api/types";

export type CommandDraft = Command;

export interface DocumentSlice {
  part: Part | null;
  build: Build | null;
  builtOf: string[]; // the steps, as text, that the build is of; empty while that is not known
  trouble: string;
  live: Live | null;
  connected: boolean;
  saving: number;
  progress: { done: number; of: number } | null; // steps of the build that is going on
  mine: ReadonlySet<number>; // versions made from this window
  me: string; // who sits here
  openedAt: number; // the version at which the part was opened here
  people: string[];
}

export const document: DocumentSlice = {
  part: null,
  build: null,
  builtOf: [],
  trouble: "",
  live: null,
  connected: true,
  saving: 0,
  progress: null,
  mine: new Set(),
  me: "",
  openedAt: 0,
  people: [],
};
