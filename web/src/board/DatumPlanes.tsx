/** The three datum planes, drawn while there is nothing else to hold on to or a plane is being chosen. */
import type { XYZ } from "../api/types";
import { toScreen } from "../view/camera";
import { sketchOnDatum } from "./actions";
import { DATUMS, editable, useBoard } from "./store";

export function DatumPlanes() {
  const view = useBoard((s) => s.view);
  const choosing = useBoard((s) => s.choosingPlane);
  const empty = useBoard((s) => (s.part?.document.steps ?? []).length === 0);
  const size =
    useBoard((s) => (s.build?.bodies?.length ? 0.32 * Math.min(s.view.width, s.view.height) : 110)) /
    view.scale;
  if (!choosing && !empty) return null;
  return (
    <g>
      {Object.entries(DATUMS).map(([name, f]) => {
        const corner = (a: number, b: number) =>
          toScreen(view, [0, 1, 2].map((i) => f.origin[i] + a * size * f.x[i] + b * size * f.y[i]) as XYZ);
        const at = [corner(-1, -1), corner(1, -1), corner(1, 1), corner(-1, 1)];
        const label = corner(-0.96, 0.86);
        return (
          <g
            key={name}
            className="group"
            role="button"
            tabIndex={0}
            aria-label={`${name[0].toUpperCase()}${name.slice(1)} plane`}
            style={{ cursor: "pointer" }}
            onPointerDown={(e) => e.stopPropagation()}
            onClick={() => editable() && sketchOnDatum(name)}
            onKeyDown={(e) => e.key === "Enter" && editable() && sketchOnDatum(name)}
          >
            <polygon
              points={at.map((p) => p.join()).join(" ")}
              fill="#1E2A44"
              fillOpacity="0.03"
              stroke="#A8741A"
              strokeDasharray="12 3 2 3"
              className="group-hover:stroke-[2] group-hover:[fill-opacity:0.09]"
            />
            <text x={label[0]} y={label[1]} fontSize="12" fontFamily="IBM Plex Sans Condensed" fill="#6f695e">
              {name}
            </text>
          </g>
        );
      })}
    </g>
  );
}
