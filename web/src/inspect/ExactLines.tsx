/** The part's lines as on a drawing (ISO 128): seen edges in ink, smooth ones thin, hidden ones dashed. */

import { useView } from "../camera/EachView";
import { toScreen } from "../view/camera";
import { type Lines, useExactLines } from "./hiddenLines";

const path = (runs: Lines["seen"]) => runs.map((run) => `M${run.map((p) => p.join(" ")).join("L")}`).join("");

export function ExactLines() {
  const view = useView();
  const lines = useExactLines(view);
  if (!lines) return null;
  const [x, y] = toScreen(view, [0, 0, 0]);
  return (
    <g
      aria-label="Lines of the part"
      transform={`matrix(${view.scale} 0 0 ${-view.scale} ${x} ${y})`}
      className="pointer-events-none stroke-ink [&>path]:[vector-effect:non-scaling-stroke]"
      fill="none"
    >
      <path d={path(lines.hidden)} strokeWidth="0.9" strokeDasharray="6 3" data-testid="hidden-lines" />
      <path d={path(lines.smooth)} strokeWidth="0.5" />
      <path d={path(lines.seen)} strokeWidth="1.3" data-testid="seen-lines" />
    </g>
  );
}
