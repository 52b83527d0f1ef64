/** What the tool in hand would draw, and what the next press would catch. */

import type { Entity, XY } from "../api/types";
import type { Affine } from "../geometry/affine";
import { apply } from "../geometry/affine";
import { pathOf } from "../geometry/geometry";
import { useBoard } from "../state/store";
import type { Ghost } from "../state/toolInHand";
import { matrix, PENCIL, RED } from "./ink";
import { SYMBOL } from "./Ties";

export function Ghosts({ m }: { m: Affine }) {
  const tool = useBoard((s) => s.tool);
  useBoard((s) => s.tick);
  if (!tool) return null;
  const snap = tool.snap;
  return (
    <g pointerEvents="none">
      <g transform={matrix(m)} fill="none" stroke={RED} strokeWidth="1.5">
        {tool.ghosts().map((g, i) => (
          <path
            key={i}
            d={ghostPath(g)}
            vectorEffect="non-scaling-stroke"
            stroke={g.kind === "faint" ? PENCIL : undefined}
            strokeDasharray={g.kind === "faint" || g.kind === "strong" ? undefined : "5 3"}
            strokeWidth={WIDTHS[g.kind]}
          />
        ))}
        {snap?.guides?.map(([a, b], i) => (
          <path
            key={`guide${i}`}
            data-testid="guide"
            d={`M${a.join(" ")}L${b.join(" ")}`}
            vectorEffect="non-scaling-stroke"
            strokeDasharray="12 3 2 3"
            strokeWidth="0.8"
          />
        ))}
      </g>
      {snap && snap.ties.length > 0 && tool.catches && (
        <Caught
          at={apply(m, snap.at)}
          kinds={[...new Set(snap.ties.map((t) => t.kind))]}
          words={snap.words}
        />
      )}
    </g>
  );
}

const WIDTHS: Record<string, number> = { trail: 4, faint: 0.8, strong: 3 };

function ghostPath(g: Ghost): string {
  if (g.kind === "faint" || g.kind === "strong") {
    if (g.entity.kind !== "point") return pathOf(g.entity);
    const [x, y] = g.entity.at;
    return `M${x} ${y}h0`;
  }
  if (g.kind === "point") return "";
  if (g.kind === "trail" || g.kind === "path")
    return g.points.length > 1 ? `M${g.points.map((p) => p.join(" ")).join("L")}` : "";
  return pathOf({ id: "g1", construction: false, ...g } as Entity);
}

/** About how wide a letter of the words is, in pixels. */
const LETTER = 5.6;

function Caught({ at, kinds, words }: { at: XY; kinds: string[]; words: string }) {
  const width = useBoard((s) => s.view.width);
  const wide = 17 * kinds.length + LETTER * words.length;
  const x = at[0] + 14 + wide > width ? -14 - wide : 14; // on the side where there is room
  return (
    <g transform={`translate(${at[0]} ${at[1]})`}>
      {kinds.some((k) => k === "coincident" || k === "midpoint") && (
        <rect
          x="-6"
          y="-6"
          width="12"
          height="12"
          fill="none"
          stroke={RED}
          strokeWidth="1.4"
          transform="rotate(45)"
        />
      )}
      <g transform={`translate(${x} -14)`}>
        {kinds.map((k, i) => (
          <path
            key={k}
            d={SYMBOL[k]}
            transform={`translate(${17 * i} 0)`}
            fill="none"
            stroke={RED}
            strokeWidth="1.4"
          />
        ))}
        <text
          x={17 * kinds.length}
          y="4"
          fontSize="11.5"
          fill={RED}
          stroke="var(--color-vellum)"
          strokeWidth="3"
          paintOrder="stroke"
          fontFamily="IBM Plex Sans Condensed"
        >
          {words}
        </text>
      </g>
    </g>
  );
}
