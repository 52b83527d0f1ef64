/** The six views laid out as on a drawing, the isometric beside them, and the projection symbol that switches the arrangement. */

import { run } from "../document/commands";
import { editable, useBoard } from "../state/store";
import type { ViewName } from "../view/camera";
import { look } from "./viewControl";

const CELL = 29;

/** Column and row of each view in third-angle arrangement (ISO 5456-2); first angle swaps sides. */
const THIRD: [ViewName, string, number, number][] = [
  ["top", "Top", 1, 0],
  ["left", "Left", 0, 1],
  ["front", "Front", 1, 1],
  ["right", "Right", 2, 1],
  ["back", "Back", 3, 1],
  ["under", "Under", 1, 2],
];
const SWAP: Partial<Record<ViewName, ViewName>> = {
  top: "under",
  under: "top",
  left: "right",
  right: "left",
};

export function ViewCross() {
  const projection = useBoard((s) => s.part!.document.projection);
  const foot = useBoard((s) => s.foot);
  const parted = useBoard((s) => s.panes !== null);
  const first = projection === "first";
  if (parted) return null; // each view has its own name to press
  return (
    <div
      className="absolute left-4 select-none"
      style={{ bottom: foot + 10 }}
      onPointerDown={(e) => e.stopPropagation()}
    >
      <svg width={CELL * 4 + 4} height={CELL * 3 + 4} role="group" aria-label="Views">
        <g transform="translate(1 1)">
          {THIRD.map(([name, , c, r]) => {
            const shown = first ? (SWAP[name] ?? name) : name;
            return <View key={name} name={shown} x={c * CELL} y={r * CELL} />;
          })}
          <g
            transform={`translate(${2.5 * CELL} 1)`}
            role="button"
            tabIndex={0}
            aria-label="Isometric view"
            className="cursor-pointer text-ink hover:text-red"
            onClick={() => look("iso")}
            onKeyDown={(e) => e.key === "Enter" && look("iso")}
          >
            <rect x="-4" y="-1" width="30" height="28" fill="transparent" />
            <path d="M11 3L20 8V18L11 23L2 18V8ZM2 8L11 13L20 8M11 13V23" fill="none" stroke="currentColor" />
          </g>
          <g
            transform={`translate(${2.2 * CELL} ${2.5 * CELL})`}
            role="button"
            tabIndex={0}
            aria-label={`${first ? "First" : "Third"}-angle arrangement; press for the other`}
            className="cursor-pointer text-pencil hover:text-red"
            onClick={() =>
              editable() && run({ do: "set_part", changes: { projection: first ? "third" : "first" } })
            }
            onKeyDown={(e) =>
              e.key === "Enter" &&
              editable() &&
              run({ do: "set_part", changes: { projection: first ? "third" : "first" } })
            }
          >
            <rect x="-4" y="-10" width="56" height="22" fill="transparent" />
            <g fill="none" stroke="currentColor" transform={first ? "translate(46 0) scale(-1 1)" : ""}>
              <circle cx="8" r="6" />
              <circle cx="8" r="3" />
              <path d="M22 -3L38 -6V6L22 3ZM0 0H46" strokeDasharray="none" />
            </g>
          </g>
        </g>
      </svg>
    </div>
  );
}

function View({ name, x, y }: { name: ViewName; x: number; y: number }) {
  const words = name[0].toUpperCase() + name.slice(1);
  return (
    <g
      transform={`translate(${x} ${y})`}
      role="button"
      tabIndex={0}
      aria-label={`${words} view`}
      className="cursor-pointer hover:text-red"
      onClick={() => look(name)}
      onKeyDown={(e) => e.key === "Enter" && look(name)}
    >
      <rect width={CELL} height={CELL} fill="#FBF9F3" stroke="currentColor" strokeWidth="1" />
      <text
        x={CELL / 2}
        y={CELL / 2 + 3.5}
        textAnchor="middle"
        fontSize="10"
        fontFamily="IBM Plex Sans Condensed"
        fill="currentColor"
      >
        {words}
      </text>
    </g>
  );
}
