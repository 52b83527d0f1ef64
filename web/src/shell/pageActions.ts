/** Leaving the board for one of the part's other pages. */
import type { Action } from "../state/action";
import { goTo } from "../state/goTo";
import { board } from "../state/store";

const PAGES: [string, string, string, string][] = [
  ["inspection", "Inspection: every size measured", "o i", "first part report callouts proven"],
  ["inspection?tab=lines", "Lines of the sheet, explained or not", "o l", "inspection compare edges"],
  ["inspection?tab=mass", "Mass: figures, what drives it, its target", "o m", "weight inertia scale"],
  ["inspection?tab=mould", "Check: release from the mould", "o u", "draft undercut pull casting"],
  ["inspection?tab=walls", "Check: wall thickness", "o w", "thin thick map"],
  ["inspection?tab=cutters", "Check: cutter access", "o c", "milling drills set-ups pockets"],
  ["inspection?tab=solid", "Check: a sound solid", "o s", "valid closed sliver knife edge"],
  ["inspection?tab=meshes", "Meshes beside the part", "o b", "scan STL 3MF GLB deviation compare reference"],
  ["drawing", "Drawing of the part", "o d", "views title block PDF SVG DXF"],
  ["release", "Release: what must hold, revisions", "o r", "pack shop revision conditions"],
];

export const PAGE_ACTIONS: Action[] = PAGES.map(([path, words, keys, also]) => ({
  id: `page ${path}`,
  words,
  also,
  keys,
  group: "check",
  when: () => board().part !== null && !board().draft,
  run: () => goTo(`/parts/${board().part!.id}/${path}`),
}));
