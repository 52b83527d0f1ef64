/** The three datum planes, drawn while there is nothing else to hold on to or a plane is being chosen. */
import type { XYZ } from "../api/types";
import { toScreen } from "../view/camera";
import { sketchOnDatum, sketchOnPlane } from "./actions";
import { put } from "./catalogue";
import { changeDraft } from "./drafting";
import { activeSlot } from "./pointing";
import { DATUMS, editable, stepOf, useBoard } from "./store";

/** Quarters that make a corner of a room: seen from the front, right and above, none hides another. */
const QUARTERS: Record<string, [number, number]> = { front: [1, 1], top: [1, -1], right: [-1, 1] };

/** Planes that datum steps made: drawn while nothing is sketched, to be sketched on or pointed at. */
export function StepPlanes() {
  const s = useBoard();
  const planes = (s.build?.steps ?? []).filter((r) => r.frame && stepOf(s.part, r.id)?.kind === "datum");
  const active = activeSlot();
  const waits = s.choosingPlane || active?.slot.kind === "plane";
  const size = (0.22 * Math.min(s.view.width, s.view.height)) / s.view.scale;
  const take = (id: string) => {
    if (active?.slot.kind === "plane" && s.draft)
      changeDraft(put(s.draft.step, active.path, { kind: "plane", step: id }));
    else if (editable()) sketchOnPlane(id);
  };
  return (
    <g>
      {planes.map((r) => {
        const f = r.frame!;
        const at = [
          [-1, -1],
          [1, -1],
          [1, 1],
          [-1, 1],
        ].map(([a, b]) =>
          toScreen(s.view, [0, 1, 2].map((i) => f.origin[i] + a * size * f.x[i] + b * size * f.y[i]) as XYZ),
        );
        return (
          <g
            key={r.id}
            role={waits ? "button" : undefined}
            tabIndex={waits ? 0 : undefined}
            aria-label={`Plane of step ${r.number}`}
            pointerEvents={waits ? "auto" : "none"}
            style={{ cursor: waits ? "pointer" : "default" }}
            onPointerDown={(e) => e.stopPropagation()}
            onClick={() => take(r.id)}
            onKeyDown={(e) => e.key === "Enter" && take(r.id)}
          >
            <polygon
              points={at.map((p) => p.join()).join(" ")}
              fill="#A8741A"
              fillOpacity={waits ? 0.1 : 0.03}
              stroke="#A8741A"
              strokeDasharray="12 3 2 3"
            />
            <text
              x={at[3][0] + 4}
              y={at[3][1] + 13}
              fontSize="11"
              fontFamily="IBM Plex Sans Condensed"
              fill="#8a5f14"
            >
              {r.number}
            </text>
          </g>
        );
      })}
    </g>
  );
}

export function DatumPlanes() {
  const view = useBoard((s) => s.view);
  const choosing = useBoard((s) => s.choosingPlane);
  const empty = useBoard((s) => (s.part?.document.steps ?? []).length === 0);
  const full = useBoard((s) => Boolean(s.build?.bodies?.length));
  if (!choosing && !empty) return null;
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
