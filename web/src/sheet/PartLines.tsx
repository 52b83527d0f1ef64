/** The part's own lines laid over the sheet, and on top what differs. */
import type { LinePiece, XY } from "../api/types";
import { useBoard } from "../state/store";
import { pieceName, useLines } from "./lines";

const path = (piece: LinePiece, onScreen: (at: XY) => XY) =>
  `M${piece.points.map((p) => onScreen(p as XY).map((v) => v.toFixed(1))).join("L")}`;

export function PartLines({ onScreen }: { onScreen: (at: XY) => XY }) {
  const blend = useBoard((s) => s.blend);
  const chosen = useBoard((s) => s.linePiece);
  const views = useLines()?.said?.views ?? [];
  const model = (kind: string) =>
    views.flatMap((v) => v.model.filter((p) => p.kind === kind).map((p) => path(p, onScreen))).join("");
  return (
    <svg className="pointer-events-none absolute inset-0 h-full w-full" aria-hidden="true" fill="none">
      <g style={{ opacity: Math.min(1, 0.15 + blend) }} className="stroke-proof">
        <path d={model("seen")} strokeWidth={1.3} />
        <path d={model("hidden")} strokeWidth={0.9} strokeDasharray="5 3" />
      </g>
      {views.map((v, i) => (
        <g key={`${v.box}`}>
          {v.missing.map((p, k) => (
            <path
              key={`${p.points[0]}`}
              d={path(p, onScreen)}
              className="stroke-ochre"
              strokeDasharray="2 3"
              strokeWidth={chosen === pieceName(i, "missing", k) ? 5 : 2.2}
            />
          ))}
          {v.unexplained.map((p, k) => (
            <path
              key={`${p.points[0]}`}
              d={path(p, onScreen)}
              className="stroke-red"
              strokeWidth={chosen === pieceName(i, "unexplained", k) ? 5 : 2.2}
            />
          ))}
        </g>
      ))}
    </svg>
  );
}
