/** What a step tells of the mould and of angles, drawn on the part: which way it is pulled, what would lock in it, and
 * angles that can be taken hold of. */
import type { Step, XY, XYZ } from "../api/types";
import { useView } from "../camera/EachView";
import { Pressed } from "../camera/Pressed";
import { apply, unapply } from "../geometry/affine";
import { look } from "../state/catalogue";
import { editable, useBoard } from "../state/store";
import { lengthSaid } from "../ui/measures";
import { sketchAffine, toScreen } from "../view/camera";
import { changeDraft } from "./draft";
import { handleListeners, pullTo } from "./handle";
import { type Turn, useTold } from "./stepReport";

const RED = "#B83720";
const INK = "#1E2A44";
const ARROW = 46; // px
const STEP = 0.5; // degrees
const STEEPEST = 89;

export function Mould() {
  const found = useTold();
  if (!found) return null;
  const { told, old } = found;
  return (
    <g role="group" aria-label="Mould" opacity={old ? 0.4 : 1}>
      <defs>
        <pattern id="locked" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <line x1="0" y1="0" x2="0" y2="6" stroke={RED} strokeWidth="1.3" />
        </pattern>
      </defs>
      {(told.locked ?? []).map((rows, i) => (
        <Locked key={i} rows={rows} />
      ))}
      {told.pull?.ways.map((w, i) => (
        <Pull key={i} at={w.at} way={w.way} turn={told.pull!.turn} />
      ))}
      {(told.sides ?? []).map((side, i) => (
        <Side key={i} {...side} />
      ))}
      {(told.turns ?? []).map((t) => (
        <Angle key={t.path} turn={t} />
      ))}
    </g>
  );
}

/** How far a chamfer reaches into a face: a line from where the edge was, with its length. */
function Side({ at, to, size }: { at: XYZ; to: XYZ; size: number }) {
  const view = useView();
  const unit = useBoard((s) => s.part!.document.unit);
  const [a, b] = [toScreen(view, at), toScreen(view, to)];
  const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
  const long = Math.hypot(dx, dy) || 1;
  return (
    <g pointerEvents="none">
      <path d={`M${a}L${b}`} stroke={RED} strokeWidth="1.6" />
      <circle cx={b[0]} cy={b[1]} r="2.6" fill={RED} />
      <text
        x={b[0] + (dx / long) * 16}
        y={b[1] + (dy / long) * 14}
        textAnchor="middle"
        dominantBaseline="central"
        className="fill-red font-mono text-[12.5px]"
        stroke="#F4F1E8"
        strokeWidth="3"
        paintOrder="stroke"
      >
        {Number(lengthSaid(size, unit, 3).split(" ")[0])}
      </text>
    </g>
  );
}

/** A face that holds the part back: hatched in red pencil within its outline. */
function Locked({ rows }: { rows: XYZ[][] }) {
  const view = useView();
  const drawn = rows.map((row) => row.map((p) => toScreen(view, p)));
  return (
    <g pointerEvents="none">
      <title>This face would lock in the mould</title>
      <path d={closed(drawn)} fill="url(#locked)" fillRule="evenodd" fillOpacity="0.55" />
      {drawn.map((row, i) => (
        <polyline key={i} points={row.join(" ")} fill="none" stroke={RED} strokeWidth="2" />
      ))}
    </g>
  );
}

/** Edges joined end to end to closed loops, so that they can be filled. */
function closed(rows: XY[][]): string {
  const left = rows.map((r) => [...r]);
  const near = (a: XY, b: XY) => Math.hypot(a[0] - b[0], a[1] - b[1]) < 0.5;
  let path = "";
  while (left.length) {
    const loop = left.shift()!;
    for (;;) {
      const end = loop[loop.length - 1];
      const next = left.findIndex((r) => near(r[0], end) || near(r[r.length - 1], end));
      if (next < 0 || near(end, loop[0])) break;
      const [row] = left.splice(next, 1);
      loop.push(...(near(row[0], end) ? row : row.reverse()).slice(1));
    }
    path += `M${loop.join("L")}Z`;
  }
  return path;
}

/** Which way the part is pulled. Pressed while the step is worked on, it turns round. */
function Pull({ at, way, turn }: { at: XYZ; way: XYZ; turn: Record<string, unknown> }) {
  const view = useView();
  const draft = useBoard((s) => s.draft);
  const from = toScreen(view, at);
  const ahead = toScreen(view, at.map((v, i) => v + way[i]) as XYZ);
  const size = Math.hypot(ahead[0] - from[0], ahead[1] - from[1]);
  const flat = size < 0.15 * view.scale; // looked at along the pull
  const [dx, dy] = flat ? [0, 0] : [(ahead[0] - from[0]) / size, (ahead[1] - from[1]) / size];
  const on = (a: number, b: number): XY => [from[0] + a * dx - b * dy, from[1] + a * dy + b * dx];
  const press = draft && editable() ? () => changeDraft({ ...draft.step, ...turn } as Step) : undefined;
  const words = press ? "The way it is pulled: press to turn it round" : "The way it is pulled";
  const [label, side] = [on(flat ? 0 : ARROW + 10, 0), flat ? 14 : 0];
  return (
    <Pressed name={words} wanted={Boolean(press)} take={() => press?.()}>
      {flat ? (
        <circle cx={from[0]} cy={from[1]} r="7" fill="#F4F1E8" stroke={INK} strokeWidth="1.6" />
      ) : (
        <>
          <path d={`M${on(2, 0)}L${on(ARROW, 0)}`} stroke="transparent" strokeWidth="16" />
          <path d={`M${on(2, 0)}L${on(ARROW - 9, 0)}`} stroke={INK} strokeWidth="1.8" />
          <path d={`M${on(ARROW, 0)}L${on(ARROW - 12, 4)}L${on(ARROW - 12, -4)}Z`} fill={INK} />
        </>
      )}
      <text
        x={label[0] + side}
        y={label[1] + 4}
        textAnchor={flat ? "start" : "middle"}
        fontSize="12"
        className="font-cond"
        fill={INK}
        stroke="#F4F1E8"
        strokeWidth="3"
        paintOrder="stroke"
      >
        pull
      </text>
    </Pressed>
  );
}

/** An angle at its face: from the way of the pull to the way the face leans; its end is dragged. */
function Angle({ turn }: { turn: Turn }) {
  const view = useView();
  const draft = useBoard((s) => s.draft);
  const m = sketchAffine(view, turn.frame);
  const seen = Math.abs(m[0] * m[3] - m[1] * m[2]) / view.scale ** 2; // 1: looked at square on
  const typed = draft && Number(look(draft.step, turn.path));
  const angle = typed && typed > 0 && typed <= STEEPEST ? typed : turn.angle;
  const lean = Math.tan((angle * Math.PI) / 180);
  const hinge = apply(m, [0, 0]);
  const foot = apply(m, [turn.reach, 0]);
  const tip = apply(m, [turn.reach, turn.reach * lean]);
  const label = `${Math.round(angle * 100) / 100}°`;
  const hold = draft && editable() && seen > 0.1;
  const set = (value: number) => {
    pullTo(turn.path, String(Math.min(STEEPEST, Math.max(STEP, Math.round(value / STEP) * STEP))));
  };
  const move = (e: React.PointerEvent<SVGElement>) => {
    if (!e.currentTarget.hasPointerCapture(e.pointerId)) return;
    const box = e.currentTarget.ownerSVGElement!.getBoundingClientRect();
    const at = unapply(m, [e.clientX - box.left, e.clientY - box.top]);
    if (at && at[0] * turn.reach > 0) set((Math.atan(at[1] / at[0]) * 180) / Math.PI);
  };
  return (
    <g fill="none" stroke={RED}>
      <path d={`M${hinge}L${foot}`} strokeWidth="1" strokeDasharray="12 3 2 3" pointerEvents="none" />
      <path d={`M${hinge}L${tip}`} strokeWidth="2" pointerEvents="none" />
      <path d={`M${foot}L${tip}`} strokeWidth="1" pointerEvents="none" />
      {hold && (
        <circle
          role="slider"
          tabIndex={0}
          aria-label="Draft angle on the part"
          aria-valuenow={angle}
          aria-valuemin={STEP}
          aria-valuemax={STEEPEST}
          cx={tip[0]}
          cy={tip[1]}
          r="6"
          fill="#F4F1E8"
          strokeWidth="2"
          pointerEvents="auto"
          style={{ cursor: "grab" }}
          onPointerMove={move}
          {...handleListeners("The angle of the draft: drag it", (steps) => set(angle + steps * STEP))}
        />
      )}
      <text
        x={tip[0] + 10}
        y={tip[1] - 6}
        fontSize="13"
        className="font-mono"
        fill={RED}
        stroke="#F4F1E8"
        strokeWidth="3"
        paintOrder="stroke"
        pointerEvents="none"
      >
        {label}
      </text>
    </g>
  );
}
