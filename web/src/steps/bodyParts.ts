/** Bodies that become parts of their own. */
import { post, Refused } from "../api/client";
import type { Action } from "../state/action";
import { working } from "../state/mode";
import { board, editable, showMessage } from "../state/store";
import { chosenBody } from "./bodyActions";

/** Save the chosen body as a part in the library, linked to this one. */
async function bodyAsPart() {
  const { part } = board();
  const body = chosenBody();
  if (!part || !body) return;
  const name = body.title || `${part.document.name}, a body`;
  try {
    const { before } = await post<{ before: string[] }>(`/api/parts/${part.id}/bodies/${body.id}/part`, {
      version: part.version,
      name,
    });
    const twice = before.length ? ` This body was made into a part before: “${before.join("”, “")}”.` : "";
    showMessage(`“${name}” is a part of its own now, linked to this one; it stands in the library.${twice}`);
  } catch (error) {
    showMessage(error instanceof Refused ? error.sentence : "The body could not be saved; try again.", "red");
  }
}

export const BODY_PART: Action = {
  id: "body-part",
  words: "Body as a part of its own",
  keys: "b y",
  group: "pick",
  when: () => editable() && !working() && chosenBody() !== null,
  run: bodyAsPart,
};
