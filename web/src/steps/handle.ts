/** What handles on the part share: being taken hold of, moved by the arrow keys, and typing into the draft. */

import { look, put } from "../state/catalogue";
import { useBoard } from "../state/store";
import { changeDraft } from "./draft";

/** A value pulled on the part is typed from then on: a callout that fed it lets it go. */
export function pullTo(path: string, text: string) {
  const { draft: now } = useBoard.getState();
  if (!now) return;
  const { [path]: _gone, ...feeds } = now.feeds;
  useBoard.setState({ draft: { ...now, feeds } });
  if (String(look(now.step, path)) !== text) changeDraft(put(now.step, path, text));
}

/** Listeners of a handle: ``words`` for the reading line, ``nudge`` by so many steps of the arrow keys. */
export const handleListeners = (words: string, nudge: (steps: number) => void) => ({
  onPointerDown: (e: React.PointerEvent<SVGElement>) => {
    if (e.button !== 0) return;
    e.stopPropagation();
    e.preventDefault();
    e.currentTarget.setPointerCapture(e.pointerId);
  },
  onPointerEnter: () => useBoard.setState({ guide: words }),
  onPointerLeave: () => useBoard.setState({ guide: null }),
  onKeyDown: (e: React.KeyboardEvent) => {
    const steps = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1 }[e.key];
    if (!steps) return;
    e.preventDefault();
    e.stopPropagation();
    nudge(steps);
  },
});
