/** The step that is worked on, and what trying it told. */
import type { Frame, Step, StepOffers } from "../../api/types";
import type { Start } from "../catalogue";

/** ``base``: the step as it was stored when work on it began; ``slot``: the path of the slot that pointing at the part
 * fills; ``feeds``: callouts by the path of the value they give; ``start``: what started it. */
export interface Draft {
  step: Step;
  base: Step | null;
  fresh: boolean;
  slot: string | null;
  feeds: Record<string, string>;
  start?: Start;
}

export interface Preview {
  // not where the try came to nothing, of which the sentence tells
  steps?: {
    id: string;
    state: string;
    said: string;
    offers: StepOffers;
    mass_change: number | null;
    frame?: Frame | null;
    extra?: Record<string, unknown>;
  }[];
  mass: number | null;
  sentence?: string;
  added?: string[];
  removed?: string[];
  open?: string; // what must still be chosen before there is anything to try
  of?: string; // the command that was tried, as text: what is said is true of that alone
}

export interface DraftSlice {
  draft: Draft | null;
  preview: Preview | null;
}

export const draft: DraftSlice = {
  draft: null,
  preview: null,
};
