/** While an extrusion is being tried: the sketch's closed regions, to be taken in or left out with a press. */

import type { XY } from "../api/types";
import { useView } from "../camera/EachView";
import type { Affine } from "../geometry/affine";
import { apply } from "../geometry/affine";
import { said } from "../geometry/geometry";
import { kindOf } from "../state/catalogue";
import { frameOf, useBoard, useResting } from "../state/store";
import { areaSaid } from "../ui/measures";
import { sketchAffine } from "../view/camera";
import { changeDraft } from "./draft";

export function RegionPicker() {
  const s = useResting();
  const guide = useBoard((x) => x.guide);
  const view = useView();
  if (!s.draft) return null;
  const step = s.draft.step;
  if (kindOf(step).source !== "regions" || !("regions" in step)) return null;
  const state = s.part!.sketches[step.sketch];
  const frame = frameOf(s, step.sketch);
  const unit = s.part!.document.unit;
  if (!state || !frame) return null;
  const m: Affine = sketchAffine(view, frame);
  const taken = (r: (typeof state.regions)[number]) =>
    step.regions
      ? step.regions.some((p) => p.around.join() === r.around.join() && p.at.join() === r.at.join())
      : r.default;
  const toggle = (r: (typeof state.regions)[number]) => {
    const now = state.regions.filter((x) => (x === r ? !taken(x) : taken(x)));
    const same = state.regions.every((x) => now.includes(x) === x.default);
    if (now.length)
      changeDraft({ ...step, regions: same ? null : now.map((x) => ({ around: x.around, at: x.at })) });
  };
  /** What a region is, and what a press on it does. */
  const name = (r: (typeof state.regions)[number], i: number) => {
    const round = r.around.slice(0, 4).map(said).join(", ") + (r.around.length > 4 ? " …" : "");
    const does = taken(r) ? "leave it out" : "take it in";
    return `Region ${i + 1}, ${areaSaid(r.area, unit, 1)}, bounded by ${round}: press to ${does}`;
  };
  return (
    <>
      <g transform={`matrix(${m.join(" ")})`}>
        {state.regions.map((r, i) => (
          <path
            key={r.path}
            d={r.path}
            fillRule="evenodd"
            fill="#1E2A44"
            fillOpacity={guide === name(r, i) ? 0.3 : taken(r) ? 0.16 : 0.02}
            stroke="#1E2A44"
            strokeWidth={guide === name(r, i) ? 2 : 1}
            strokeDasharray={taken(r) ? undefined : "5 3"}
            vectorEffect="non-scaling-stroke"
            role="checkbox"
            tabIndex={0}
            aria-checked={taken(r)}
            aria-label={`Region ${i + 1}, ${areaSaid(r.area, unit, 1)}`}
            // drawn at the sketch's scale, a focus ring would be as large: what has the focus is darkened instead
            style={{ cursor: "pointer", outline: "none" }}
            onFocus={() => useBoard.setState({ guide: name(r, i) })}
            onBlur={() => useBoard.setState({ guide: null })}
            onPointerEnter={() => useBoard.setState({ guide: name(r, i) })}
            onPointerLeave={() => useBoard.setState({ guide: null })}
            onPointerDown={(e) => {
              if (e.button !== 0) return;
              e.stopPropagation();
              e.preventDefault(); // a press leaves the keys where they are
            }}
            onClick={() => toggle(r)}
            onKeyDown={(e) => e.key === " " && toggle(r)}
          />
        ))}
      </g>
      {state.regions.length > 1 &&
        state.regions.map((r, i) => {
          const [x, y] = apply(m, r.at as XY);
          return (
            <text
              key={r.path}
              x={x}
              y={y}
              textAnchor="middle"
              dominantBaseline="central"
              className={`pointer-events-none font-mono text-[11px] ${taken(r) ? "fill-ink" : "fill-pencil"}`}
              stroke="#F4F1E8"
              strokeWidth="3"
              paintOrder="stroke"
            >
              {i + 1}
            </text>
          );
        })}
    </>
  );
}
