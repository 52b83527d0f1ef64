/** The list of steps and what stands in its place: the open step, advice, places, callouts. */
import type { Advice, Place } from "../../api/types";

export type LeafName = "data" | "versions" | "values" | "drawing";

export interface RouteSlice {
  openStep: string | null;
  also: string[]; // steps of the route chosen besides the open one
  advice: Advice[]; // the order adviser's, for the part as it was last built
  looking: string | null; // the command that is being looked at, as text
  places: { step: string; list: Place[] | null } | null; // where a step could stand; null while they are tried
  leaf: LeafName | null; // what stands in the route's place
  callout: string | null;
}

export const route: RouteSlice = {
  openStep: null,
  also: [],
  advice: [],
  looking: null,
  places: null,
  leaf: null,
  callout: null,
};
