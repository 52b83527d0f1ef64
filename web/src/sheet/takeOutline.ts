/** The outline of a view of the sheet, taken into the sketch that is open. */
import { post, type Refused } from "../api/client";
import type { Part } from "../api/types";
import { fit } from "../camera/viewControl";
import { applyPart, inTurn } from "../document/commands";
import { board, showMessage, useBoard } from "../state/store";
import { readPage } from "./readSheet";

/** The next press on the drawing chooses a view. */
export async function chooseView() {
  const choosing = board().sheetMode === "outline";
  useBoard.setState({
    sheetMode: choosing ? null : "outline",
    reading: false,
    workingOut: null,
    lining: false,
  });
  if (choosing) return;
  const said = await readPage();
  const none = said
    ? said.views.length
      ? ""
      : "No view was found on this page."
    : board().sheetRead?.trouble;
  if (!none || board().sheetMode !== "outline") return;
  useBoard.setState({ sheetMode: null });
  showMessage(none, "red");
}

/** Take a view by its place among those of the page that is looked at, or what a window (shares of it) holds. */
export async function takeView(view: number, window: number[] | null = null) {
  const { part, sketch, sheetPage: page } = board();
  if (!part || !sketch) return;
  await inTurn(async () => {
    try {
      const after = await post<Part>(`/api/parts/${part.id}/sketches/${sketch}/outline`, {
        version: board().part!.version,
        page,
        view,
        window,
        ...board().outlineWith,
      });
      applyPart(after);
      useBoard.setState({ sheetMode: null, checking: true, tolerance: null });
      showMessage(after.said?.join(" ") ?? "", "proof");
      fit();
    } catch (error) {
      showMessage((error as Refused).sentence, "red");
    }
  });
}
