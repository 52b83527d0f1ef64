/** What the server answers of a part, put together with what is known of it: what did not change keeps its identity. */
import { replaceEqualDeep } from "@tanstack/react-query";
import { immutableJSONPatch, type JSONPatchDocument } from "immutable-json-patch";
import type { Part, PartChanges } from "../api/types";

/** The part that an answer means; ``before`` is the part that was asked about. */
export function partAfter(before: Part | null, answer: Part | PartChanges): Part {
  if (!("patch" in answer)) return before?.id === answer.id ? replaceEqualDeep(before, answer) : answer;
  if (!before) throw new Error("changes of a part that is not known");
  const { patch, ...beside } = answer;
  const { document, sketches, callouts } = before;
  const content = immutableJSONPatch({ document, sketches, callouts }, patch as unknown as JSONPatchDocument);
  return { ...before, ...beside, ...(content as Pick<Part, "document" | "sketches" | "callouts">) };
}

/** What a request that changes a part says of the part that is on the screen. */
export const seen = (part: Part) => ({
  version: part.version,
  settled: part.settled,
  answer: "changes" as const,
});
