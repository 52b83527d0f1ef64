/** The marks of constraints beside the geometry. */

import { useMemo } from "react";
import type { Constraint, Entity, SketchState, XY } from "../api/types";
import type { Affine } from "../geometry/affine";
import { apply, unapply } from "../geometry/affine";
import { dist, mid, onCurve, pointAt, pointRefs } from "../geometry/geometry";
import { useBoard } from "../state/store";
import { OCHRE, RED } from "./ink";

/** Constraint marks in the standard's symbols: those of what is pointed at or chosen, or all on demand. */
export const SYMBOL: Record<string, string> = {
  horizontal: "M-5 0H5",
  vertical: "M0 -5V5",
  parallel: "M-4 5L0 -5M1 5L5 -5",
  perpendicular: "M-5 5H5M0 5V-5",
  collinear: "M-6 0H-1M1 0H6",
  equal: "M-4 -2H4M-4 2H4",
  concentric: "M5 0A5 5 0 1 1 -5 0A5 5 0 1 1 5 0M2 0A2 2 0 1 1 -2 0A2 2 0 1 1 2 0",
  tangent: "M-6 4H6M4 0A4 4 0 1 1 -4 0A4 4 0 1 1 4 0",
  midpoint: "M-6 0H6M0 -3V3M-2.4 5H2.4",
  symmetric: "M-4 -3V3M4 -3V3M0 -6V6",
  offset: "M-5 -5V5H5M-1 -5V1H5",
  fixed: "M-5 3H5M-4 6L-2 3M0 6L2 3M4 6L6 3M0 3V-5",
  coincident: "M2.5 0A2.5 2.5 0 1 1 -2.5 0A2.5 2.5 0 1 1 2.5 0M-6 0H-2.5M2.5 0H6",
};

function anchor(ref: string, entities: Entity[]): XY | null {
  const p = pointAt(entities, ref);
  if (p) return p;
  const e = entities.find((x) => x.id === ref);
  if (!e) return null;
  return e.kind === "line"
    ? mid(e.p as XY, e.q as XY)
    : e.kind === "point"
      ? (e.at as XY)
      : onCurve(e, [1e6, 1e6]);
}

const BESIDE: XY[] = [
  [16, -18],
  [16, 18],
  [-16, -18],
  [-16, 18],
  [24, 0],
  [-24, 0],
  [0, -25],
  [0, 25],
  [34, -18],
  [34, 18],
  [-34, -18],
  [-34, 18],
];
const POINT_CLEAR = 18; // pixels: half a mark and what a press on a point catches
const CURVE_CLEAR = 11;
const MARK_CLEAR = 18;
const LOOKED_AT = 150; // entities up to which the room beside is looked for

/** A place for a mark beside ``spot`` on the screen, so that it lies over no point, no curve and no other mark. */
function beside(spot: XY, entities: Entity[], m: Affine, taken: XY[]): XY {
  const points = entities.flatMap(pointRefs).map(([, at]) => apply(m, at));
  const near = entities.length > LOOKED_AT ? [] : entities.filter((e) => e.kind !== "point");
  let best: XY = [spot[0] + BESIDE[0][0], spot[1] + BESIDE[0][1]];
  let least = Number.POSITIVE_INFINITY;
  for (const [dx, dy] of BESIDE) {
    const at: XY = [spot[0] + dx, spot[1] + dy];
    const here = unapply(m, at);
    if (!here) return best;
    const lack = (d: number, wanted: number) => Math.max(0, wanted - d);
    const clash =
      4 * Math.max(0, ...points.map((p) => lack(dist(p, at), POINT_CLEAR))) +
      4 * Math.max(0, ...taken.map((p) => lack(dist(p, at), MARK_CLEAR))) +
      Math.max(0, ...near.map((e) => lack(dist(apply(m, onCurve(e, here)), at), CURVE_CLEAR)));
    if (clash < least) [least, best] = [clash, at];
    if (!clash) break;
  }
  return best;
}

/** Whether a point of the sketch lies right where the pointer is: it is meant before the mark over it. */
function onPoint(e: React.PointerEvent<SVGGElement>, entities: Entity[], m: Affine): boolean {
  const box = e.currentTarget.ownerSVGElement!.getBoundingClientRect();
  const at: XY = [e.clientX - box.left, e.clientY - box.top];
  return entities.flatMap(pointRefs).some(([, p]) => dist(apply(m, p), at) < 6);
}

export function Ties({
  constraints,
  entities,
  m,
  state,
}: {
  constraints: Constraint[];
  entities: Entity[];
  m: Affine;
  state: SketchState | undefined;
}) {
  const showTies = useBoard((s) => s.showTies);
  const chosen = useBoard((s) => s.chosen);
  const under = useBoard((s) => s.under);
  const lights = useBoard((s) => s.message?.lights);
  const drawing = useBoard((s) => s.tool !== null);
  const touched = useMemo(() => {
    const things = new Set([...chosen, under ?? ""].map((r) => r.split(".")[0]));
    return (c: Constraint) =>
      chosen.includes(c.id) || lights?.includes(c.id) || c.refs.some((r) => things.has(r.split(".")[0]));
  }, [chosen, under, lights]);
  const taken: XY[] = [];
  return constraints
    .filter((c) => showTies || touched(c))
    .flatMap((c) => {
      const refs =
        c.kind === "coincident" || c.kind === "concentric" ? c.refs.slice(0, 1) : c.refs.slice(0, 2);
      return refs.flatMap((ref) => {
        const at = anchor(ref, entities);
        if (!at) return [];
        const spot = beside(apply(m, at), entities, m, taken);
        taken.push(spot);
        const on = chosen.includes(c.id) || lights?.includes(c.id);
        return (
          <g
            key={c.id + ref}
            transform={`translate(${spot[0]} ${spot[1]})`}
            role="button"
            tabIndex={-1}
            aria-label={state?.words[c.id] ?? c.kind}
            style={{ cursor: "pointer", pointerEvents: drawing ? "none" : "auto" }}
            onPointerDown={(e) => {
              if (onPoint(e, entities, m)) return;
              e.stopPropagation();
              useBoard.setState({ chosen: [c.id] });
            }}
          >
            <title>{state?.words[c.id]}</title>
            <rect x="-8" y="-8" width="16" height="16" rx="2" fill="#FBF9F3" stroke={on ? RED : "#D9D3C3"} />
            <path d={SYMBOL[c.kind]} fill="none" stroke={on ? RED : OCHRE} strokeWidth="1.3" />
          </g>
        );
      });
    });
}
