/** What can be done with copies of what is chosen in a sketch. */

import { run } from "../document/commands";
import { pointAt, pointRefs } from "../geometry/geometry";
import type { Action } from "../state/action";
import { modeOf } from "../state/mode";
import { board, editable, showMessage, sketchOf, sketchStep, useBoard } from "../state/store";
import { MoveTool, TurnTool } from "./tools/copying";
import { RingTool, RowsTool } from "./tools/patterns";
import { carrying, PlaceTool, PutInTool, StencilTool, stencilsHere, take } from "./tools/stencils";
import { type Tool, takeTool } from "./tools/tool";

const sketching = () => modeOf() === "sketch" && editable();
const sketchNow = () => sketchOf(sketchStep());

/** The entities that are chosen, points of them counted as they. */
const things = () => {
  const known = new Set((sketchNow().entities ?? []).map((e) => e.id));
  return [...new Set(board().chosen.map((r) => r.split(".")[0]))].filter((id) => known.has(id));
};
const some = () => sketching() && things().length > 0;

/** The pattern that something chosen is a copy or an original of. */
const patternHere = () => {
  const chosen = new Set(things());
  return (sketchNow().patterns ?? []).find(
    (p) =>
      p.of.some((id) => chosen.has(id)) ||
      (p.instances ?? []).some((i) => Object.values(i.ids).some((id) => chosen.has(id))),
  );
};
const placementHere = () => {
  const chosen = new Set(things());
  return (sketchNow().placements ?? []).find((p) =>
    [p.handle, ...Object.values(p.ids)].some((id) => chosen.has(id)),
  );
};

const tool = (id: string, words: string, keys: string, make: (ids: string[]) => Tool): Action => ({
  id,
  words,
  keys,
  group: "edit",
  when: some,
  run: () => takeTool(make(things())),
});

function askCount(which: "count" | "second") {
  const p = patternHere();
  const entities = sketchNow().entities ?? [];
  const first = entities.find((e) => e.id === p?.of[0]);
  const at = first && pointAt(entities, pointRefs(first)[0][0]);
  if (!p || !at) return;
  useBoard.setState({
    field: {
      dimension: null,
      text: (which === "count" ? p.count : p.second) ?? "1",
      at,
      kind: "count",
      nameless: true,
      make: (expr) => ({
        do: "sketch_repattern",
        step: board().sketch!,
        pattern: p.id,
        changes: { [which]: expr },
      }),
    },
  });
}

export function takeChosen() {
  const count = take(sketchNow(), things());
  if (count) showMessage(`${count} copied; put them in here or in another sketch.`);
  return count > 0;
}

export const COPY_ACTIONS: Action[] = [
  tool("move", "Move", "e v", (ids) => new MoveTool(ids, false)),
  tool("copy", "Copy", "e y", (ids) => new MoveTool(ids, true)),
  tool("turn", "Turn", "e u", (ids) => new TurnTool(ids, false)),
  tool("scale", "Scale", "e z", (ids) => new TurnTool(ids, true)),
  tool("rows", "Pattern in rows", "e p", (ids) => new RowsTool(ids)),
  tool("ring", "Pattern round a point", "e g", (ids) => new RingTool(ids)),
  {
    id: "take",
    words: "Copy for another sketch",
    keys: "e k",
    group: "edit",
    when: some,
    run: takeChosen,
  },
  {
    id: "put-in",
    words: "Put in what was copied",
    keys: "e a",
    group: "draw",
    when: () => sketching() && carrying(),
    run: () => takeTool(new PutInTool()),
  },
  tool("stencil", "Make a stencil", "e l", (ids) => new StencilTool(ids)),
  {
    id: "place",
    words: "Place a stencil",
    keys: "d k",
    group: "draw",
    when: () => sketching() && stencilsHere().length > 0,
    run: () => takeTool(new PlaceTool()),
  },
  {
    id: "pattern-count",
    words: "Change the count",
    keys: "e d",
    group: "edit",
    when: () => some() && !!patternHere(),
    run: () => askCount("count"),
  },
  {
    id: "pattern-second",
    words: "Change the rows",
    keys: "e 2",
    group: "edit",
    when: () => some() && (patternHere()?.steps?.length ?? 0) > 1,
    run: () => askCount("second"),
  },
  {
    id: "pattern-back",
    words: "Put back what was left out",
    keys: "e b",
    group: "edit",
    when: () => some() && (patternHere()?.left_out?.length ?? 0) > 0,
    run: () =>
      run({
        do: "sketch_repattern",
        step: board().sketch!,
        pattern: patternHere()!.id,
        changes: { left_out: [] },
      }),
  },
  {
    id: "pattern-loose",
    words: "Dissolve the pattern",
    keys: "e f",
    group: "edit",
    when: () => some() && !!patternHere(),
    run: () =>
      run({ do: "sketch_repattern", step: board().sketch!, pattern: patternHere()!.id, let_go: true }),
  },
  {
    id: "placement-loose",
    words: "Dissolve the stencil",
    keys: "e f",
    group: "edit",
    when: () => some() && !patternHere() && !!placementHere(),
    run: () => run({ do: "sketch_let_go", step: board().sketch!, placement: placementHere()!.id }),
  },
];
