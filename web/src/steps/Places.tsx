/** The places of a pattern, marked on the part while it is worked on: pressed, one is left out or put back. */

import { useView } from "../camera/EachView";
import { Pressed } from "../camera/Pressed";
import { editable, useBoard } from "../state/store";
import { toScreen } from "../view/camera";
import { leftOut, placeOf, placeSaid, turnPlace } from "./copyUnder";
import { type Grid, useTold } from "./stepReport";

const INK = "#1E2A44";
const RED = "#B83720";
const MOST = 600; // marks; more cannot be told apart

export function Places() {
  const found = useTold();
  const draft = useBoard((s) => s.draft);
  const grid = found?.told.grid;
  if (!draft || !grid || !editable() || grid.counts[0] * grid.counts[1] > MOST) return null;
  const out = leftOut();
  const marks = [];
  for (let j = 0; j < grid.counts[1]; j += 1)
    for (let i = 0; i < grid.counts[0]; i += 1)
      marks.push(
        <Place key={`${i} ${j}`} grid={grid} place={[i, j]} out={out.some(([a, b]) => a === i && b === j)} />,
      );
  return (
    <g role="group" aria-label="Places of the pattern" opacity={found.old ? 0.5 : 1}>
      {marks}
    </g>
  );
}

function Place({ grid, place: [i, j], out }: { grid: Grid; place: [number, number]; out: boolean }) {
  const view = useView();
  const [x, y] = toScreen(view, placeOf(grid, [i, j]));
  if (!i && !j) return <circle cx={x} cy={y} r="4" fill={INK} pointerEvents="none" />;
  const words = `${placeSaid(grid, [i, j])}: ${out ? "press to put it back" : "press to leave it out"}`;
  return (
    <Pressed name={words} wanted take={() => turnPlace([i, j])}>
      <circle cx={x} cy={y} r="11" fill="transparent" />
      <circle
        cx={x}
        cy={y}
        r="6.5"
        fill="#F4F1E8"
        stroke={out ? RED : INK}
        strokeWidth="1.6"
        strokeDasharray={out ? "3 2" : undefined}
      />
      {out ? (
        <path d={`M${x - 3} ${y - 3}l6 6M${x + 3} ${y - 3}l-6 6`} stroke={RED} strokeWidth="1.6" />
      ) : (
        <circle cx={x} cy={y} r="2.2" fill={INK} />
      )}
    </Pressed>
  );
}
