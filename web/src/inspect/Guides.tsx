/** What the route makes besides bodies, drawn over them: datum planes, axes and points, and sketches not yet used.
 * While a slot waits for one of them it can be pressed here. */
import { type ReactNode, useMemo } from "react";
import type { Step, XY, XYZ } from "../api/types";
import { useView } from "../camera/EachView";
import { Pressed } from "../camera/Pressed";
import { apply } from "../geometry/affine";
import { pathOf, pointRefs } from "../geometry/geometry";
import { sketchOnPlane } from "../sketch/newSketch";
import { kindOf } from "../state/catalogue";
import type { Guide } from "../state/guides";
import { editable, frameOf, useBoard, useResting } from "../state/store";
import { pressPoint, putInSlot } from "../steps/picks";
import { sketchAffine, toScreen } from "../view/camera";
import { guides, triedGuide, wantedGuide } from "./visibleGuides";

const OCHRE = "#A8741A";
const CHAIN = "12 3 2 3";

export function Guides() {
  useResting();
  const wanted = wantedGuide();
  const tried = triedGuide();
  const scene = useBoard((s) => s.scene);
  const bodies = (scene?.bodies() ?? []).map((b) => b.key).join();
  // biome-ignore lint/correctness/useExhaustiveDependencies: other bodies reach elsewhere
  const extent = useMemo(() => boxCorners(scene?.corners() ?? []), [scene, bodies]);
  return (
    <g role="group" aria-label="Sketches and datums">
      {guides().map((g) => (
        <Mark
          key={g.step.id}
          guide={g}
          extent={extent}
          wanted={wanted === g.form || (g.form === "sketch" && wanted === "point")}
        />
      ))}
      {tried && <Mark guide={tried} extent={extent} wanted={false} />}
    </g>
  );
}

/** The corners of the box round places: what stands for how far the part reaches. */
function boxCorners(places: { x: number; y: number; z: number }[]): XYZ[] {
  const ends = (["x", "y", "z"] as const).map((axis) => {
    let [low, high] = [Infinity, -Infinity];
    for (const p of places) [low, high] = [Math.min(low, p[axis]), Math.max(high, p[axis])];
    return [low, high];
  });
  if (!places.length) return [];
  return [0, 1, 2, 3, 4, 5, 6, 7].map((i) => ends.map((e, k) => e[(i >> k) & 1]) as XYZ);
}

/** How far the part reaches from a place along a direction, and a little more; about the place where there is none. */
function reach(
  extent: XYZ[],
  at: readonly number[],
  way: readonly number[],
  spare: number,
): [number, number] {
  const spots = extent.map((c) => c.reduce((sum, v, i) => sum + (v - at[i]) * way[i], 0));
  return spots.length ? [Math.min(...spots) - spare, Math.max(...spots) + spare] : [-4 * spare, 4 * spare];
}

function Mark(props: Props) {
  if (props.guide.form === "plane") return <PlaneMark {...props} />;
  if (props.guide.form === "axis") return <AxisMark {...props} />;
  return props.guide.form === "point" ? <PointMark {...props} /> : <SketchMark {...props} />;
}

function Label({ at, children }: { at: XY; children: ReactNode }) {
  return (
    <text
      x={at[0]}
      y={at[1]}
      fontSize="11.5"
      className="font-cond"
      fill="#7a5210"
      stroke="#F4F1E8"
      strokeWidth="3"
      paintOrder="stroke"
    >
      {children || "new"}
    </text>
  );
}

interface Props {
  guide: Guide;
  extent: XYZ[]; // corners of the box round the part
  wanted: boolean;
}

function PlaneMark({ guide: { step, number, frame }, extent, wanted }: Props) {
  const view = useView();
  const f = frame!;
  const spare = 26 / view.scale;
  const [across, up] = [reach(extent, f.origin, f.x, spare), reach(extent, f.origin, f.y, spare)];
  const at = [
    [across[0], up[0]],
    [across[1], up[0]],
    [across[1], up[1]],
    [across[0], up[1]],
  ].map(([a, b]) => toScreen(view, [0, 1, 2].map((i) => f.origin[i] + a * f.x[i] + b * f.y[i]) as XYZ));
  const take = () => {
    if (!putInSlot({ kind: "plane", step: step.id }) && editable()) sketchOnPlane(step.id);
  };
  const points = at.map((p) => p.join()).join(" ");
  return (
    <Pressed name={`Plane of step ${number}`} wanted={wanted} take={take}>
      {/* taken by its rim: what lies under it can be pressed too */}
      {wanted && <polygon points={points} fill="none" stroke="transparent" strokeWidth="14" />}
      <polygon
        points={points}
        pointerEvents="none"
        fill={OCHRE}
        fillOpacity={wanted ? 0.1 : 0.03}
        stroke={OCHRE}
        strokeDasharray={CHAIN}
      />
      <Label at={[at[3][0] + 4, at[3][1] + 13]}>{number}</Label>
    </Pressed>
  );
}

function AxisMark({ guide: { step, number, axis }, extent, wanted }: Props) {
  const view = useView();
  const { at, direction } = axis!;
  const [low, high] = reach(extent, at, direction, 28 / view.scale);
  const place = (t: number) => toScreen(view, at.map((v, i) => v + t * direction[i]) as XYZ);
  const [a, b] = [place(low), place(high)];
  const ends = { x1: a[0], y1: a[1], x2: b[0], y2: b[1] };
  return (
    <Pressed
      name={`Axis of step ${number}`}
      wanted={wanted}
      take={() => putInSlot({ kind: "datum", step: step.id })}
    >
      {wanted && <line {...ends} stroke="transparent" strokeWidth="12" />}
      <line {...ends} stroke={OCHRE} strokeWidth={wanted ? 2 : 1.1} strokeDasharray={CHAIN} />
      <Label at={[b[0] + 5, b[1] - 5]}>{number}</Label>
    </Pressed>
  );
}

function PointMark({ guide: { step, number, point }, wanted }: Props) {
  const [x, y] = toScreen(useView(), point as XYZ);
  return (
    <Pressed
      name={`Point of step ${number}`}
      wanted={wanted}
      take={() => pressPoint({ kind: "datum", step: step.id })}
    >
      {wanted && <circle cx={x} cy={y} r="9" fill="transparent" />}
      <path
        d={`M${x - 6} ${y}H${x + 6}M${x} ${y - 6}V${y + 6}`}
        stroke={OCHRE}
        strokeWidth={wanted ? 2.2 : 1.4}
      />
      <circle cx={x} cy={y} r="2.6" fill="#F4F1E8" stroke={OCHRE} strokeWidth={wanted ? 1.8 : 1.2} />
      <Label at={[x + 7, y - 6]}>{number}</Label>
    </Pressed>
  );
}

function SketchMark({ guide: { step, number }, wanted }: Props) {
  const s = useResting();
  const view = useView();
  const frame = frameOf(s, step.id);
  if (!frame || step.kind !== "sketch") return null;
  const m = sketchAffine(view, frame);
  const entities = step.sketch?.entities ?? [];
  const loose = new Set(s.part!.sketches[step.id]?.loose ?? []);
  const ends = wanted ? entities.flatMap((e) => pointRefs(e)) : [];
  return (
    <g role="group" aria-label={`Sketch ${number}`} fill="none">
      <g transform={`matrix(${m.join(" ")})`} pointerEvents="none">
        {entities.map((e) => (
          <path
            key={e.id}
            d={pathOf(e)}
            stroke={e.construction ? OCHRE : loose.has(e.id) ? "#8C8577" : "#1E2A44"}
            strokeWidth={e.construction ? 0.8 : 1.3}
            strokeDasharray={e.construction ? CHAIN : undefined}
            vectorEffect="non-scaling-stroke"
          />
        ))}
      </g>
      {entities.map((e) => {
        if (e.kind !== "point" || wanted) return null;
        const [x, y] = apply(m, e.at as XY);
        return <path key={e.id} d={`M${x - 4} ${y}H${x + 4}M${x} ${y - 4}V${y + 4}`} stroke="#1E2A44" />;
      })}
      {ends.map(([ref, at]) => {
        const [x, y] = apply(m, at);
        return (
          <Pressed
            key={ref}
            name={`Point ${ref} of sketch ${number}`}
            wanted
            take={() => pressPoint({ kind: "point", step: step.id, point: ref })}
          >
            <circle cx={x} cy={y} r="4" fill="#F4F1E8" stroke={OCHRE} strokeWidth="1.4" />
          </Pressed>
        );
      })}
    </g>
  );
}

/** What a step lays on the board besides bodies can be hidden or shown. */
export function LaidOut({ step }: { step: Step }) {
  useResting();
  const open = useBoard((s) => s.sketch !== null);
  const on = guides().some((g) => g.step.id === step.id);
  if (!["guide", "sketch"].includes(kindOf(step).makes) || open) return null;
  return (
    <button
      type="button"
      className="btn"
      onClick={() =>
        useBoard.setState((s) => ({ laid: { ...s.laid, [step.id]: !on }, guidesOff: on && s.guidesOff }))
      }
    >
      {on ? "Hide on the board" : "Show on the board"}
    </button>
  );
}
