/** Every action there is: its words, its keys, when it makes sense, what it does. The deck and the search read this list. */

import type { XYZ } from "../api/types";
import { fit, look, squareUp } from "../camera/viewControl";
import { run, travel } from "../document/commands";
import { chosenFlat, LOOKING_ACTIONS } from "../inspect/measure";
import { GUIDE_ACTIONS } from "../inspect/visibleGuides";
import { deleteSteps } from "../route/SeveralSteps";
import { SHEET_ACTIONS } from "../sheet/sheetActions";
import { COPY_ACTIONS } from "../sketch/copyActions";
import { loadMotions } from "../sketch/motions";
import { sketchOnFace } from "../sketch/newSketch";
import { closeSketch } from "../sketch/openSketch";
import { SKETCH_ACTIONS, sketching } from "../sketch/sketchActions";
import type { Action } from "../state/action";
import { enter, modeOf, working } from "../state/mode";
import { board, editable, frameOf, letGo, useBoard } from "../state/store";
import { bodyActions, DATA_ACTIONS } from "../steps/bodyActions";
import { BODY_PART } from "../steps/bodyParts";
import { BRINGING } from "../steps/importSolid";
import { startActions } from "../steps/startStep";
import { reading, type ViewName } from "../view/camera";
import { PAGE_ACTIONS } from "./pageActions";

const flatFace = () => {
  const pick = board().picks[0];
  if (pick?.kind !== "face" || board().picks.length > 1) return false;
  return board().scene?.bodies()[pick.body]?.faces[pick.face]?.kind === "plane";
};

export function deleteChosen() {
  const { chosen, sketch, openStep } = board();
  if (sketch && chosen.length) {
    const ids = [...new Set(chosen.map((r) => r.split(".")[0]))].filter(
      (r) => !["origin", "x", "y"].includes(r),
    );
    if (ids.length) run({ do: "sketch_delete", step: sketch, ids }).then((ok) => ok && letGo(chosen));
  } else if (!sketch && board().also.length) deleteSteps(board().also);
  else if (!sketch && openStep) run({ do: "delete_step", step: openStep });
}

const VIEWS: [ViewName, string, string][] = [
  ["front", "Front view", "v 1"],
  ["top", "Top view", "v 2"],
  ["right", "Right view", "v 3"],
  ["left", "Left view", "v 4"],
  ["under", "View from under", "v 5"],
  ["back", "Back view", "v 6"],
  ["iso", "Isometric view", "v i"],
];

const ACTIONS: Action[] = [
  {
    id: "sketch-here",
    words: "Sketch here",
    keys: "b s",
    group: "pick",
    when: () => editable() && !board().sketch && flatFace(),
    run: sketchOnFace,
  },
  {
    id: "sketch",
    words: "Sketch",
    keys: "b s",
    group: "build",
    when: () => editable() && !working() && !flatFace(),
    run: () => enter({ choosingPlane: true }),
  },
  ...SKETCH_ACTIONS,
  ...COPY_ACTIONS,
  {
    id: "delete",
    words: "Delete",
    keys: "Del",
    group: "edit",
    when: () =>
      editable() &&
      (board().sketch !== null
        ? board().chosen.length > 0
        : (board().openStep !== null || board().also.length > 0) && !board().draft),
    run: deleteChosen,
  },
  {
    id: "finish",
    words: "Finish",
    keys: "e x",
    group: "edit",
    when: () => modeOf() === "sketch",
    run: closeSketch,
  },
  {
    id: "motions",
    words: "Play what can move",
    keys: "k f",
    group: "check",
    when: () => modeOf() === "sketch" && (board().part?.sketches[board().sketch!]?.freedom ?? 0) > 0,
    run: () => loadMotions(true),
  },
  {
    id: "suggest",
    words: "Suggest how to finish",
    keys: "k s",
    group: "check",
    when: () => sketching() && (board().part?.sketches[board().sketch!]?.freedom ?? 0) > 0,
    run: () => useBoard.setState({ suggesting: true, fitting: false, fitted: null }),
  },
  {
    id: "fit",
    words: "Fit the sketch to the sheet",
    keys: "k h",
    group: "check",
    when: () =>
      sketching() &&
      (board().part?.sketches[board().sketch!]?.freedom ?? 0) > 0 &&
      (board().part?.document.callouts ?? []).some((c) => !c.link),
    run: () => useBoard.setState({ fitting: true, suggesting: false }),
  },
  {
    id: "check",
    words: "Check the profile",
    keys: "k p",
    group: "check",
    when: () => modeOf() === "sketch",
    run: () => useBoard.setState({ checking: true, tolerance: null }),
  },
  {
    id: "values",
    words: "Values and sizes",
    keys: "k v",
    group: "check",
    when: () => board().part !== null,
    run: () => useBoard.setState((s) => ({ leaf: s.leaf === "values" ? null : "values" })),
  },
  {
    id: "expressions",
    words: "Expressions on/off",
    keys: "k e",
    group: "check",
    when: () => modeOf() === "sketch",
    run: () => useBoard.setState((s) => ({ expressions: !s.expressions })),
  },
  {
    id: "ties",
    words: "Show all constraints",
    keys: "k c",
    group: "check",
    when: () => modeOf() === "sketch",
    run: () => useBoard.setState({ showTies: !board().showTies }),
  },
  {
    id: "undo",
    words: "Undo",
    keys: "Ctrl Z",
    group: "edit",
    when: () => editable() && !!board().part?.can_undo,
    run: () => travel("undo"),
  },
  {
    id: "redo",
    words: "Redo",
    keys: "Ctrl Y",
    group: "edit",
    when: () => editable() && !!board().part?.can_redo,
    run: () => travel("redo"),
  },
  ...VIEWS.map(
    ([name, words, keys]): Action => ({
      id: `view-${name}`,
      words,
      keys,
      group: "view",
      when: () => true,
      run: () => look(name),
    }),
  ),
  {
    id: "square",
    words: "Square on to it",
    keys: "v s",
    group: "view",
    when: () => modeOf() === "sketch" || chosenFlat() !== null,
    run: () => {
      const { sketch } = board();
      const frame = sketch ? frameOf(board(), sketch) : reading(chosenFlat()!.normal as XYZ);
      if (frame) squareUp(frame);
    },
  },
  ...LOOKING_ACTIONS,
  ...GUIDE_ACTIONS,
  ...SHEET_ACTIONS,
  ...PAGE_ACTIONS,
  { id: "fit", words: "Fit the part", keys: "v f", group: "view", when: () => true, run: fit },
];

export const action = (id: string) => allActions().find((a) => a.id === id)!;

/** All actions, those that start steps among them. */
export const allActions = (): Action[] => [
  ...ACTIONS,
  ...startActions(),
  BRINGING,
  BODY_PART,
  ...bodyActions(),
  ...DATA_ACTIONS,
];
