/** A dimension as ISO 129 draws it: arrowheads, text above the line, its balloon when a callout feeds it. */

import { memo } from "react";
import { get } from "../api/client";
import type { Callout, Dimension, Entity, XY } from "../api/types";
import { run } from "../document/commands";
import type { Affine } from "../geometry/affine";
import { type Layout, layout } from "../geometry/dimensionLayout";
import { board, editable, useBoard } from "../state/store";
import { INK, PENCIL, RED } from "./ink";

function shownValue(d: Dimension, measure: number | undefined, unit: string): string {
  if (measure === undefined) return d.expr;
  const value = d.kind === "angle" || unit === "mm" ? measure : measure / 25.4;
  // a plain number is shown as it was typed, to the last digit; what is worked out, to four places
  const typed = d.driving !== false && /^\s*[\d.,]+\s*$/.test(d.expr);
  const text = String(Number(value.toFixed(typed ? 9 : d.kind === "angle" ? 2 : 4)));
  const size = {
    radius: `R${text}`,
    diameter: `Ø${text}`,
    angle: `${text}°`,
    distance: text,
    arc_length: `⌒${text}`,
  }[d.kind];
  return d.driving === false ? `(${size})` : d.name ? `${d.name} = ${size}` : size;
}

export function Arrow({ at, angle, colour }: { at: XY; angle: number; colour: string }) {
  const deg = (angle * 180) / Math.PI;
  return (
    <path d="M0 0L-9 -2.2V2.2Z" fill={colour} transform={`translate(${at[0]} ${at[1]}) rotate(${deg})`} />
  );
}

/** Put another dimension's name into the value being typed: a live link. One without a name is given one. */
async function linkTo(d: Dimension) {
  let name = d.name ?? "";
  if (!name) {
    const part = board().part!;
    name = (await get<{ free: string }>(`/api/parts/${part.id}/values`)).free;
    const named = {
      do: "sketch_dimension",
      step: board().sketch!,
      dimension: d.id,
      changes: { name },
    } as const;
    if (!(await run(named, true))) return;
  }
  const open = board().field;
  if (!open) return;
  const text = /[-+*/(]\s*$/.test(open.text) ? open.text + name : name;
  useBoard.setState({ field: { ...open, text } });
}

interface MarkProps {
  d: Dimension;
  at: XY; // where its text stands, mm
  entities: Entity[]; // those it speaks of
  m: Affine;
  measure: number | undefined;
  fed: Callout | undefined;
  bright: boolean;
  chosen: boolean;
}

/** The text of a size is pulled to another place; let go, it stays there. */
function put(down: React.PointerEvent, id: string, at: XY, m: Affine) {
  const [a, b, c, d] = m;
  const det = a * d - b * c;
  if (Math.abs(det) < 1e-9) return;
  const to = (e: PointerEvent): XY => {
    const [x, y] = [e.clientX - down.clientX, e.clientY - down.clientY];
    return [at[0] + (d * x - c * y) / det, at[1] + (a * y - b * x) / det];
  };
  const move = (e: PointerEvent) => {
    const far = Math.hypot(e.clientX - down.clientX, e.clientY - down.clientY) > 4;
    if (far || board().putting) useBoard.setState({ putting: { id, at: to(e) } });
  };
  const drop = async () => {
    window.removeEventListener("pointermove", move);
    window.removeEventListener("pointerup", drop);
    const { putting, sketch } = board();
    if (putting?.id === id)
      await run({ do: "sketch_dimension", step: sketch!, dimension: id, changes: { at: putting.at } }, true);
    useBoard.setState({ putting: null });
  };
  window.addEventListener("pointermove", move);
  window.addEventListener("pointerup", drop);
}

/** Whether all of a mark lies beside the board, on one side of it. */
function offBoard(l: Layout): boolean {
  const { width, height } = board().view;
  const places = [l.text, ...l.lines.flat(), ...l.arrows.map((a) => a.at)];
  const [xs, ys] = [places.map((p) => p[0]), places.map((p) => p[1])];
  const beside = 120; // pixels a text may reach into the board from its place
  return (
    Math.max(...xs) < -beside ||
    Math.max(...ys) < -beside ||
    Math.min(...xs) > width + beside ||
    Math.min(...ys) > height + beside
  );
}

/** Whether nothing that a mark is drawn from has changed. */
function same(a: MarkProps, b: MarkProps): boolean {
  return (
    a.d === b.d &&
    a.at[0] === b.at[0] &&
    a.at[1] === b.at[1] &&
    a.m === b.m &&
    a.measure === b.measure &&
    a.fed === b.fed &&
    a.bright === b.bright &&
    a.chosen === b.chosen &&
    a.entities.length === b.entities.length &&
    a.entities.every((e, i) => e === b.entities[i])
  );
}

export const DimensionMark = memo(function DimensionMark({
  d,
  at,
  entities,
  m,
  measure,
  fed,
  bright,
  chosen,
}: MarkProps) {
  const under = useBoard((s) => s.under === d.id);
  const unit = useBoard((s) => s.part!.document.unit);
  const tool = useBoard((s) => s.tool);
  const field = useBoard((s) => s.field);
  const expressions = useBoard((s) => s.expressions);
  const l = layout({ ...d, at }, entities, m);
  if (!l || offBoard(l)) return null;
  const colour = bright || chosen ? RED : d.driving === false ? PENCIL : INK;
  const text = expressions ? `${d.name ? `${d.name} = ` : ""}${d.expr}` : shownValue(d, measure, unit);
  const half = text.length * 4.1;
  const edit = () => {
    if (d.driving === false) return;
    useBoard.setState({
      field: { dimension: d.id, text: d.expr, at, kind: d.kind },
      chosen: [d.id],
    });
  };
  return (
    <g data-dimension={d.id} fontWeight={under ? 600 : undefined}>
      <g stroke={colour} strokeWidth="0.9" fill="none">
        {l.lines.map(([a, b], i) => (
          <line key={i} x1={a[0]} y1={a[1]} x2={b[0]} y2={b[1]} />
        ))}
        {l.arcs.map((a) => (
          <path key={a} d={a} />
        ))}
      </g>
      {l.arrows.map((a, i) => (
        <Arrow key={i} {...a} colour={colour} />
      ))}
      <g
        transform={`translate(${l.text[0]} ${l.text[1]}) rotate(${l.turn})`}
        role="button"
        tabIndex={0}
        data-size={d.id}
        aria-label={`Dimension ${text}${fed ? ` ${fed.number}` : ""}`}
        style={{ cursor: "pointer", pointerEvents: tool && !field ? "none" : "auto" }}
        onPointerDown={(e) => {
          if (e.button !== 0 || (!field && board().under !== d.id)) return; // another thing here is meant (Tab)
          e.stopPropagation();
          if (field && field.dimension !== d.id) {
            e.preventDefault(); // the value field keeps the focus
            linkTo(d);
            return;
          }
          useBoard.setState({ chosen: e.shiftKey ? [...board().chosen, d.id] : [d.id] });
          if (editable()) put(e, d.id, at, m);
        }}
        onDoubleClick={() => !field && edit()}
        onKeyDown={(e) => e.key === "Enter" && edit()}
      >
        <rect x={-half} y={-13} width={2 * half} height={16} fill="#F4F1E8" opacity="0.8" />
        <text textAnchor="middle" y={-1} fontFamily="IBM Plex Mono" fontSize="13.5" fill={colour}>
          {text}
        </text>
        {fed && (
          <g transform={`translate(${half + 10} -5)`}>
            <circle r="8" fill="#FBF9F3" stroke={colour} />
            <text
              textAnchor="middle"
              y="3.6"
              fontSize="10"
              fontFamily="IBM Plex Sans Condensed"
              fill={colour}
            >
              {fed.number}
            </text>
          </g>
        )}
      </g>
    </g>
  );
}, same);
