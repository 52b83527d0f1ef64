/** The three datum planes, drawn while there is nothing else to hold on to, a plane is being chosen, or they are asked
 * for. */
import type { XYZ } from "../api/types";
import { useView } from "../camera/EachView";
import { sketchOnDatum } from "../sketch/newSketch";
import { DATUMS, type DatumName, editable, useBoard } from "../state/store";
import { toScreen } from "../view/camera";

/** Quarters that make a corner of a room: seen from the front, right and above, none hides another. */
const QUARTERS: Record<string, [number, number]> = { front: [1, 1], top: [1, -1], right: [-1, 1] };

export function DatumPlanes() {
  const view = useView();
  const choosing = useBoard((s) => s.choosingPlane);
  const empty = useBoard((s) => (s.part?.document.steps ?? []).length === 0);
  const full = useBoard((s) => Boolean(s.build?.bodies?.length));
  const asked = useBoard((s) => s.planesOn);
  if (!choosing && !empty && !asked) return null;
  const size = (full ? 0.4 * Math.min(view.width, view.height) : 170) / view.scale;
  return (
    <g>
      {Object.entries(DATUMS).map(([name, f]) => {
        const corner = (a: number, b: number) =>
          toScreen(view, [0, 1, 2].map((i) => f.origin[i] + a * size * f.x[i] + b * size * f.y[i]) as XYZ);
        const [a, b] = QUARTERS[name];
        const at = [corner(0, 0), corner(a, 0), corner(a, b), corner(0, b)];
        const [x, y] = corner(a / 2, b / 2);
        return (
          <g
            key={name}
            className="group"
            role="button"
            tabIndex={0}
            aria-label={`${name[0].toUpperCase()}${name.slice(1)} plane`}
            style={{ cursor: "pointer" }}
            onPointerDown={(e) => e.stopPropagation()}
            onClick={() => editable() && sketchOnDatum(name as DatumName)}
            onKeyDown={(e) => e.key === "Enter" && editable() && sketchOnDatum(name as DatumName)}
          >
            <polygon
              points={at.map((p) => p.join()).join(" ")}
              fill="#1E2A44"
              fillOpacity="0.03"
              stroke="#A8741A"
              strokeDasharray="12 3 2 3"
              className="group-hover:stroke-[2] group-hover:[fill-opacity:0.09]"
            />
            <text
              x={x}
              y={y}
              textAnchor="middle"
              fontSize="13"
              fontFamily="IBM Plex Sans Condensed"
              fill="#6f695e"
            >
              {name}
            </text>
          </g>
        );
      })}
    </g>
  );
}
