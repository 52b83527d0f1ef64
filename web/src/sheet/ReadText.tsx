/** A size that was read and has no balloon yet, marked where it stands; a press takes it. */
import type { Proposed, XY } from "../api/types";
import { editable, useBoard } from "../state/store";
import { turnedBox, unturned } from "./place";
import { ownerOf, takeTexts } from "./readSheet";

/** Tells a text of the sheet from the others. */
export const readName = (one: Proposed) => `${one.text} ${one.box}`;

/** Lights a text of the sheet, and the places it measures between. */
export const light = (one: Proposed | null) => useBoard.setState({ readLit: one && readName(one) });

export function ReadText({ one, turn, onScreen }: { one: Proposed; turn: number; onScreen: (at: XY) => XY }) {
  useBoard((s) => s.part); // taken ones are marked no more
  const lit = useBoard((s) => s.readLit === readName(one));
  if (ownerOf(one)) return null;
  const [[u, v], [w, t]] = turnedBox(turn, one.box);
  const [a, b] = [onScreen(unturned(turn, [u, v])), onScreen(unturned(turn, [w, t]))];
  const room = 2;
  return (
    <>
      {lit && one.ends.length > 0 && <Ends at={one.ends.map((p) => onScreen(p as XY))} />}
      <button
        type="button"
        tabIndex={-1}
        aria-label={`Take ${one.text}`}
        title={`${one.text}: ${one.said}`}
        className={`absolute border border-dashed border-red hover:bg-redwash/60 ${lit ? "bg-redwash/60 outline outline-2 outline-red" : ""}`}
        style={{
          left: a[0] - room,
          top: a[1] - room,
          width: b[0] - a[0] + 2 * room,
          height: b[1] - a[1] + 2 * room,
        }}
        onPointerEnter={() => light(one)}
        onPointerLeave={() => light(null)}
        onPointerDown={(e) => e.stopPropagation()}
        onPointerUp={(e) => e.stopPropagation()}
        onClick={() => editable() && takeTexts([one])}
      />
    </>
  );
}

/** The places a dimension of the file measures between. */
function Ends({ at }: { at: XY[] }) {
  return (
    <svg className="pointer-events-none absolute inset-0 h-full w-full" aria-hidden="true" fill="none">
      {at.map(([x, y]) => (
        <circle key={`${x} ${y}`} cx={x} cy={y} r={5} className="stroke-red" strokeWidth={1.6} />
      ))}
      <path d={`M${at.join("L")}`} className="stroke-red" strokeDasharray="3 3" />
    </svg>
  );
}
