/** Bodies that become parts of their own. */
import { post, Refused } from "../api/client";
import type { Action } from "./action";
import { board, editable, tell } from "./store";

/** The one body that what is chosen belongs to, or null. */
function chosenBody() {
  const { picks, scene } = board();
  const bodies = scene?.bodies() ?? [];
  const ids = new Set(picks.map((p) => bodies[p.body]?.id));
  return ids.size === 1 ? (bodies[picks[0].body] ?? null) : null;
}

/** Save the chosen body as a part in the library, linked to this one. */
async function bodyAsPart() {
  const { part } = board();
  const body = chosenBody();
  if (!part || !body) return;
  const name = body.title || `${part.document.name}, a body`;
  try {
    await post(`/api/parts/${part.id}/bodies/${body.id}/part`, { version: part.version, name });
    tell(`“${name}” is a part of its own now, linked to this one; it stands in the library.`);
  } catch (error) {
    tell(error instanceof Refused ? error.sentence : "The body could not be saved; try again.", "red");
  }
}

export const BODY_PART: Action = {
  id: "body-part",
  words: "Body as a part of its own",
  keys: "b y",
  group: "pick",
  when: () => editable() && !board().sketch && !board().draft && chosenBody() !== null,
  run: bodyAsPart,
};
