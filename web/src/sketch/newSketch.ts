/** New sketches: on a datum plane, on a plane a step made, on a flat face. */
import { run } from "../document/commands";
import {
  board,
  type CommandDraft,
  type DatumName,
  frameOf,
  freshStep,
  holding,
  showMessage,
  useBoard,
} from "../state/store";
import { openSketch } from "./openSketch";

type Plane = Extract<Extract<CommandDraft, { do: "add_step" }>["step"], { kind: "sketch" }>["on"];

const addSketch = (on: Plane) => holding(makeSketch(on));

async function makeSketch(on: Plane) {
  const id = freshStep();
  useBoard.setState({ choosingPlane: false });
  if (!(await run({ do: "add_step", step: { kind: "sketch", id, on } }))) return;
  useBoard.setState({ picks: [] }); // the face has done its duty
  if (await placed(id)) openSketch(id);
}

/** A sketch on a face has its place once the route has run. False if something else has been begun meanwhile. */
async function placed(id: string): Promise<boolean> {
  const at = board();
  const begun = Date.now();
  let told = false;
  for (;;) {
    const { part, build, sketch, draft } = board();
    if (!part || part.id !== at.part?.id || sketch !== at.sketch || draft !== at.draft) return false;
    if (!part.document.steps?.some((s) => s.id === id)) return false; // undone meanwhile
    if (frameOf(board(), id) || (build?.version ?? -1) >= part.version) break;
    if (!told && Date.now() - begun > 2000) {
      showMessage("The part is being built; the sketch opens when its face is found.");
      told = true;
    }
    await new Promise((r) => setTimeout(r, 50));
  }
  return true;
}

export const sketchOnPlane = (step: string) => addSketch({ kind: "plane", step });

export const sketchOnDatum = (plane: DatumName) => addSketch({ kind: "datum", plane });

export function sketchOnFace() {
  const pick = board().picks[0];
  const face = pick?.kind === "face" ? board().scene?.bodies()[pick.body].faces[pick.face] : undefined;
  if (!face) return;
  if (face.kind !== "plane") {
    showMessage("A sketch needs a flat face; pick one, or a datum plane.", "red");
    return;
  }
  addSketch({
    kind: "face",
    face: { origins: face.origins, ring: face.ring, near: face.near, said: face.said },
  });
}
