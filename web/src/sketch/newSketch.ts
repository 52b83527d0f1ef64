/** New sketches: on a datum plane, on a plane a step made, on a flat face. */
import { run } from "../document/commands";
import { board, frameOf, freshStep, holding, showMessage, useBoard } from "../state/store";
import { openSketch } from "./openSketch";

const addSketch = (on: Record<string, unknown>) => holding(makeSketch(on));

async function makeSketch(on: Record<string, unknown>) {
  const id = freshStep();
  useBoard.setState({ choosingPlane: false });
  if (!(await run({ do: "add_step", step: { kind: "sketch", id, on } }))) return;
  useBoard.setState({ picks: [] }); // the face has done its duty
  // a sketch on a face has its frame once the route has run
  for (let i = 0; i < 100 && !frameOf(board(), id); i++) await new Promise((r) => setTimeout(r, 50));
  openSketch(id);
}

export const sketchOnPlane = (step: string) => addSketch({ kind: "plane", step });

export const sketchOnDatum = (plane: string) => addSketch({ kind: "datum", plane });

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
