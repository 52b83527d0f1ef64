/** Take what was suggested for a sketch in one change; sizes that the sheet gives are linked to their callouts. */
import type { components } from "../api/schema.gen";
import type { Entity } from "../api/types";
import { run } from "../document/commands";
import { useBoard } from "../state/store";

export type Suggestion = components["schemas"]["SuggestionOut"];

/** ``moved``: where what is drawn was seen to go with them. */
export async function takeSuggestions(step: string, list: Suggestion[], moved: Entity[] = []) {
  useBoard.setState({ shown: [], fitted: null });
  const done = await run({
    do: "sketch_add",
    step,
    constraints: list.flatMap((s) => s.constraints),
    dimensions: list.flatMap((s) => s.dimensions),
    shown: moved,
  });
  if (!done) return false;
  const linked = new Set<string>(); // a callout has one link; it gives its size to the others all the same
  for (const s of list)
    if (s.callout && !linked.has(s.callout)) {
      linked.add(s.callout);
      await run({ do: "link_callout", callout: s.callout, step, field: s.dimensions[0].id }, true);
    }
  return true;
}
