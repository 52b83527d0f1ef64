/** Balloons numbered anew: view by view, round the page, by size. */
import { post } from "../api/client";
import type { Part, PartChanges } from "../api/types";
import { changing, run } from "../document/commands";
import { seen } from "../document/partAnswers";
import { board, type CommandDraft } from "../state/store";
import { pagesOf } from "./pages";
import { viewsOn } from "./viewsOnPage";

export type NumberedBy = Extract<CommandDraft, { do: "number_callouts" }>["by"];

interface ViewOnPage {
  page: number;
  box: [number, number, number, number];
}

/** Left, top, right and bottom of a box between two corners, on the page. */
const upright = ([a, b, c, d]: number[]): ViewOnPage["box"] => {
  const within = (v: number) => Math.min(1, Math.max(0, v));
  return [within(Math.min(a, c)), within(Math.min(b, d)), within(Math.max(a, c)), within(Math.max(b, d))];
};

/** Where the views stand on the pages that have balloons: those placed by hand, and those that are recognised. */
async function views(): Promise<ViewOnPage[]> {
  const part = board().part!;
  const pages = pagesOf(part.document);
  const found: ViewOnPage[] = [];
  for (const page of new Set((part.document.callouts ?? []).filter((c) => c.at).map((c) => c.page ?? 0))) {
    if (!pages[page]) continue;
    const there = await viewsOn(part.id, part.version, pages[page], page);
    found.push(...there.map((v) => ({ page, box: upright(v.box) })));
  }
  return found;
}

export function numberBy(by: NumberedBy): Promise<boolean> {
  if (by !== "views") return run({ do: "number_callouts", by });
  return changing(async (part) => {
    const command: CommandDraft = { do: "number_callouts", by, views: await views() };
    return post<Part | PartChanges>(`/api/parts/${part.id}/commands`, { ...seen(part), command });
  });
}
