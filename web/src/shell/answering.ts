/** Which actions answer to what is searched for, the nearest first. */
import type { Action } from "../state/action";
import { allActions } from "./actions";

/** How near an action is to what is searched: its words begin so, hold a word that does, hold it at all, or not. */
function farFrom(a: Action, word: string): number {
  const words = a.words.toLowerCase();
  if (!word || words.startsWith(word)) return 0;
  return words.split(/[ ,]/).some((w) => w.startsWith(word)) ? 1 : words.includes(word) ? 2 : 3;
}

/** Those that hold every word; what makes no sense now comes last. */
export function answering(text: string): Action[] {
  const words = text.toLowerCase().split(" ").filter(Boolean);
  return allActions()
    .filter((a) => words.every((w) => `${a.words} ${a.group} ${a.also ?? ""}`.toLowerCase().includes(w)))
    .map((a) => ({ a, rank: Number(!a.when()) * 4 + farFrom(a, words[0] ?? "") }))
    .sort((x, y) => x.rank - y.rank)
    .map(({ a }) => a);
}
