/** Solids from outside brought into the part. */
import { upload } from "../api/client";
import type { Part } from "../api/types";
import { changing } from "../document/commands";
import type { Action } from "../state/action";
import { working } from "../state/mode";
import { editable, freshStep, showMessage } from "../state/store";

const FORMS = ".step,.stp,.p21,model/step";

/** Let a STEP file be chosen, and take its bodies in as the next step. */
export function bringSolids() {
  const field = document.createElement("input");
  field.type = "file";
  field.accept = FORMS;
  field.hidden = true;
  field.onchange = () => {
    const file = field.files?.[0];
    field.remove();
    if (file) take(file);
  };
  field.oncancel = () => field.remove();
  // in the page while the choice is open: outside it the browser may clear it away, and the choice would be lost
  document.body.append(field);
  field.click();
}

async function take(file: File) {
  const stop = new AbortController();
  showMessage(`Reading ${file.name} …`, "ink", [{ label: "Stop", act: () => stop.abort() }]);
  const done = await changing((part) =>
    upload<Part>(
      `/api/parts/${part.id}/solids`,
      { file, version: String(part.version), step: freshStep() },
      stop.signal,
    ),
  );
  if (!done && stop.signal.aborted) showMessage("Stopped; nothing was taken in.");
}

export const BRINGING: Action = {
  id: "bring-solids",
  words: "STEP file",
  keys: "b i",
  group: "build",
  when: () => editable() && !working(),
  run: bringSolids,
};
