/** What the profile check found, marked where it is; and what a mending or a fit to the sheet that is being tried would change. */
import type { Entity, Finding, XY } from "../api/types";
import type { Affine } from "../geometry/affine";
import { apply } from "../geometry/affine";
import { pathOf } from "../geometry/geometry";
import { editable, sketchOf, sketchStep, useBoard } from "../state/store";
import { mend, useCheck } from "./findings";
import { matrix, PROOF, RED } from "./ink";

/** Told at once, without being asked for. */
const LIVE = new Set(["gap", "near miss"]);

export function FindingMarks({ m }: { m: Affine }) {
  const found = useCheck().data;
  const open = useBoard((s) => s.checking);
  const quiet = useBoard((s) => s.tool !== null || s.dragged !== null || s.playing !== null);
  if (!found || quiet) return null;
  return (
    <>
      {found.findings
        .filter((f) => open || LIVE.has(f.kind))
        .map((f) => (
          <Mark key={f.key + f.at} finding={f} at={apply(m, f.at as XY)} tolerance={found.tolerance} />
        ))}
      <Tried m={m} />
    </>
  );
}

/** A small open circle with a caret; one press mends. */
function Mark({ finding, at, tolerance }: { finding: Finding; at: XY; tolerance: number }) {
  const mends = finding.mends && editable();
  const words = `${finding.said}${mends ? ". Press to mend it" : ""}`;
  return (
    <g
      transform={`translate(${at[0]} ${at[1]})`}
      role="button"
      tabIndex={-1}
      aria-label={words}
      style={{ cursor: mends ? "pointer" : "default", pointerEvents: "auto" }}
      onPointerDown={(e) => {
        e.stopPropagation();
        if (mends) mend(tolerance, [finding]);
        else useBoard.setState({ chosen: finding.refs });
      }}
    >
      <title>{words}</title>
      <circle r="8" fill={RED} fillOpacity="0.06" stroke={RED} strokeWidth="1.4" />
      <path d="M-5 18L0 11L5 18" fill="none" stroke={RED} strokeWidth="1.6" />
    </g>
  );
}

function Tried({ m }: { m: Affine }) {
  const mending = useBoard((s) => s.mending);
  const fitted = useBoard((s) => s.fitted);
  if (!mending && !fitted) return null;
  const now = sketchOf(sketchStep()).entities ?? [];
  const paths = (list: Entity[], colour: string, dash?: string) =>
    list.map((e) => (
      <path
        key={e.id + colour}
        d={pathOf(e)}
        stroke={colour}
        strokeWidth="3"
        strokeDasharray={dash}
        vectorEffect="non-scaling-stroke"
      />
    ));
  return (
    <g transform={matrix(m)} fill="none" pointerEvents="none">
      {paths(
        now.filter((e) => mending?.gone.includes(e.id)),
        RED,
        "3 4",
      )}
      {paths((mending?.changed as Entity[]) ?? [], PROOF)}
      {paths(fitted ?? [], PROOF)}
    </g>
  );
}
