/** The open sketch, drawn as SVG over the board in pencil and ink. */
import { memo, useEffect, useMemo, useState } from "react";
import type { Callout, Constraint, Dimension, Entity, SketchState, XY } from "../api/types";
import { affine, board, sketchOf, sketchStep, useBoard } from "../board/store";
import { type Affine, apply } from "../view/camera";
import { layout } from "./dimensionLayout";
import { mid, onCurve, pathOf, pointAt, pointRefs } from "./geometry";
import type { Ghost } from "./tools/tool";

const INK = "#1E2A44";
const PENCIL = "#8C8577";
const RED = "#C8412B";
const OCHRE = "#A8741A";
const matrix = (m: Affine) => `matrix(${m.join(" ")})`;

export function SketchLayer() {
  const s = useBoard();
  const step = sketchStep(s);
  const m = affine(s);
  const sketch = sketchOf(step);
  const played = usePlayed(sketch.entities ?? []);
  if (!step || !m) return null;
  const state = s.part!.sketches[step.id] as SketchState | undefined;
  const entities = played ?? s.dragged ?? sketch.entities ?? [];
  const loose = new Set(state?.loose ?? []);
  const lit = new Set([...(s.message?.lights ?? []), ...s.shown]);
  const fed = new Map<string, Callout>();
  for (const c of s.part!.document.callouts ?? []) if (c.link?.step === step.id) fed.set(c.link.field, c);
  const noted = s.callout ? (s.part!.document.callouts ?? []).find((c) => c.id === s.callout)?.link : null;
  const bright = (id: string) => lit.has(id) || (noted?.step === step.id && noted.field === id);
  return (
    <g data-testid="sketch" data-affine={m.join(" ")}>
      <Axes m={m} />
      {!s.dragged && !played && <Regions state={state} m={m} />}
      <g transform={matrix(m)} fill="none">
        {entities.map((e) => (
          <Curve
            key={e.id}
            e={e}
            loose={loose.has(e.id)}
            chosen={s.chosen.includes(e.id) || lit.has(e.id)}
            hover={s.under === e.id}
          />
        ))}
      </g>
      {entities.map((e) => (
        <Ends
          key={e.id}
          e={e}
          m={m}
          loose={loose.has(e.id)}
          chosen={[...s.chosen, ...s.shown]}
          under={s.under}
        />
      ))}
      {!played &&
        (sketch.dimensions ?? []).map((d) => (
          <DimensionMark
            key={d.id}
            d={d}
            entities={entities}
            m={m}
            measure={state?.measures?.[d.id]}
            fed={fed.get(d.id)}
            bright={bright(d.id)}
            chosen={s.chosen.includes(d.id)}
          />
        ))}
      <Ties constraints={sketch.constraints ?? []} entities={entities} m={m} state={state} />
      <OpenEnds state={state} m={m} />
      <Ghosts m={m} />
    </g>
  );
}

function Axes({ m }: { m: Affine }) {
  const [o, x, y] = [apply(m, [0, 0]), apply(m, [1, 0]), apply(m, [0, 1])];
  const far = (p: XY): [XY, XY] => {
    const d = [p[0] - o[0], p[1] - o[1]];
    const size = Math.hypot(d[0], d[1]) || 1;
    const k = 3000 / size;
    return [
      [o[0] - d[0] * k, o[1] - d[1] * k],
      [o[0] + d[0] * k, o[1] + d[1] * k],
    ];
  };
  const { width, height } = useBoard((s) => s.view);
  /** Where an axis leaves the board, for its letter. */
  const leaves = (p: XY): XY | null => {
    const d = [p[0] - o[0], p[1] - o[1]];
    const size = Math.hypot(d[0], d[1]);
    if (size < 0.3 * Math.hypot(x[0] - o[0] + y[0] - o[0], x[1] - o[1] + y[1] - o[1])) return null;
    const steps = [0, 1].map((i) => {
      const wall = d[i] > 0 ? [width, height][i] - 12 : 12;
      return Math.abs(d[i]) < 1e-9 ? Infinity : (wall - o[i]) / d[i];
    });
    const k = Math.min(...steps);
    return k > 0 ? [o[0] + d[0] * k, o[1] + d[1] * k] : null;
  };
  const letters = [
    ["x", leaves(x)],
    ["y", leaves(y)],
  ] as const;
  return (
    <g stroke={OCHRE} strokeWidth="0.8" strokeDasharray="14 3 2 3" opacity="0.75">
      {letters.map(
        ([letter, at]) =>
          at && (
            <text
              key={letter}
              x={at[0] - (letter === "y" ? 12 : 4)}
              y={at[1] - (letter === "x" ? 7 : -6)}
              fill={OCHRE}
              stroke="none"
              fontSize="13"
              className="font-mono"
            >
              {letter}
            </text>
          ),
      )}
      {[far(x), far(y)].map(([a, b]) => (
        <line key={`${a}`} x1={a[0]} y1={a[1]} x2={b[0]} y2={b[1]} />
      ))}
      <circle cx={o[0]} cy={o[1]} r="3.5" fill="#F4F1E8" strokeDasharray="none" strokeWidth="1.2" />
    </g>
  );
}

function Regions({ state, m }: { state: SketchState | undefined; m: Affine }) {
  return (
    <g transform={matrix(m)}>
      {state?.regions.map((r) => (
        <path key={r.path} d={r.path} fill={INK} fillRule="evenodd" opacity={r.default ? 0.065 : 0.02} />
      ))}
    </g>
  );
}

const Curve = memo(function Curve({
  e,
  loose,
  chosen,
  hover,
}: {
  e: Entity;
  loose: boolean;
  chosen: boolean;
  hover: boolean;
}) {
  if (e.kind === "point") return null;
  const stroke = chosen ? RED : e.construction ? OCHRE : loose ? PENCIL : INK;
  const width = (e.construction ? 1 : loose ? 1.4 : 2.4) + (hover ? 1.6 : 0);
  return (
    <path
      d={pathOf(e)}
      data-entity={e.id}
      data-state={loose ? "pencil" : "ink"}
      stroke={stroke}
      strokeWidth={width}
      strokeDasharray={e.construction ? "12 3 2 3" : undefined}
      vectorEffect="non-scaling-stroke"
    />
  );
});

function Ends({
  e,
  m,
  loose,
  chosen,
  under,
}: {
  e: Entity;
  m: Affine;
  loose: boolean;
  chosen: string[];
  under: string | null;
}) {
  return pointRefs(e).map(([ref, at]) => {
    const [x, y] = apply(m, at);
    const hot = under === ref || chosen.includes(ref);
    const colour = chosen.includes(ref) ? RED : loose ? PENCIL : INK;
    if (ref.endsWith(".c"))
      return (
        <path
          key={ref}
          d={`M${x - 4} ${y}H${x + 4}M${x} ${y - 4}V${y + 4}`}
          stroke={colour}
          strokeWidth={hot ? 2.4 : 1}
        />
      );
    return (
      <circle
        key={ref}
        cx={x}
        cy={y}
        r={hot ? 4.5 : e.kind === "point" ? 3.4 : 2.7}
        fill={loose ? "#F4F1E8" : colour}
        stroke={colour}
        strokeWidth="1.2"
      />
    );
  });
}

function shownValue(d: Dimension, measure: number | undefined, unit: string): string {
  if (measure === undefined) return d.expr;
  const value = d.kind === "angle" || unit === "mm" ? measure : measure / 25.4;
  const text = String(Number(value.toFixed(d.kind === "angle" ? 2 : unit === "in" ? 4 : 3)));
  const size = { radius: `R${text}`, diameter: `Ø${text}`, angle: `${text}°`, distance: text }[d.kind];
  return d.driving === false ? `(${size})` : d.name ? `${d.name} = ${size}` : size;
}

function Arrow({ at, angle, colour }: { at: XY; angle: number; colour: string }) {
  const deg = (angle * 180) / Math.PI;
  return (
    <path d="M0 0L-9 -2.2V2.2Z" fill={colour} transform={`translate(${at[0]} ${at[1]}) rotate(${deg})`} />
  );
}

function DimensionMark({
  d,
  entities,
  m,
  measure,
  fed,
  bright,
  chosen,
}: {
  d: Dimension;
  entities: Entity[];
  m: Affine;
  measure: number | undefined;
  fed: Callout | undefined;
  bright: boolean;
  chosen: boolean;
}) {
  const unit = useBoard((s) => s.part!.document.unit);
  const tool = useBoard((s) => s.tool);
  const l = layout(d, entities, m);
  if (!l) return null;
  const colour = bright || chosen ? RED : d.driving === false ? PENCIL : INK;
  const text = shownValue(d, measure, unit);
  const half = text.length * 4.1;
  const edit = () => {
    if (d.driving === false) return;
    useBoard.setState({
      field: { dimension: d.id, text: d.expr, at: (d.at as XY) ?? [0, 0], kind: d.kind },
      chosen: [d.id],
    });
  };
  return (
    <g data-dimension={d.id}>
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
        aria-label={`Dimension ${text}`}
        style={{ cursor: "pointer", pointerEvents: tool ? "none" : "auto" }}
        onPointerDown={(e) => {
          e.stopPropagation();
          useBoard.setState({ chosen: e.shiftKey ? [...board().chosen, d.id] : [d.id] });
        }}
        onDoubleClick={edit}
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
}

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

function Ties({
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
  const count = new Map<string, number>();
  return constraints
    .filter((c) => showTies || touched(c))
    .flatMap((c) => {
      const refs =
        c.kind === "coincident" || c.kind === "concentric" ? c.refs.slice(0, 1) : c.refs.slice(0, 2);
      return refs.flatMap((ref) => {
        const at = anchor(ref, entities);
        if (!at) return [];
        const spot = apply(m, at);
        const key = spot.map(Math.round).join();
        const n = count.get(key) ?? 0;
        count.set(key, n + 1);
        const on = chosen.includes(c.id) || lights?.includes(c.id);
        return (
          <g
            key={c.id + ref}
            transform={`translate(${spot[0] + 16 + 18 * n} ${spot[1] - 18})`}
            role="button"
            tabIndex={-1}
            aria-label={state?.words[c.id] ?? c.kind}
            style={{ cursor: "pointer", pointerEvents: drawing ? "none" : "auto" }}
            onPointerDown={(e) => {
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

function OpenEnds({ state, m }: { state: SketchState | undefined; m: Affine }) {
  const tool = useBoard((s) => s.tool);
  if (tool || !state?.regions.length) return null;
  return state.open_ends.map((at) => {
    const [x, y] = apply(m, at as XY);
    return <circle key={`${x} ${y}`} cx={x} cy={y} r="7" fill="none" stroke={RED} strokeDasharray="3 2" />;
  });
}

function Ghosts({ m }: { m: Affine }) {
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
            strokeDasharray="5 3"
            strokeWidth={g.kind === "trail" ? 4 : undefined}
          />
        ))}
      </g>
      {snap && snap.ties.length > 0 && tool.catches && (
        <Caught at={apply(m, snap.at)} kinds={snap.ties.map((t) => t.kind)} words={snap.words} />
      )}
    </g>
  );
}

function ghostPath(g: Ghost): string {
  if (g.kind === "point") return "";
  if (g.kind === "trail") return g.points.length > 1 ? `M${g.points.map((p) => p.join(" ")).join("L")}` : "";
  return pathOf({ id: "g1", construction: false, ...g } as Entity);
}

function Caught({ at, kinds, words }: { at: XY; kinds: string[]; words: string }) {
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
      <g transform="translate(14 -14)">
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
        <text x={17 * kinds.length} y="4" fontSize="11.5" fill={RED} fontFamily="IBM Plex Sans Condensed">
          {words}
        </text>
      </g>
    </g>
  );
}

/** While free motions play: the entities swung along the motion being shown. */
function usePlayed(entities: Entity[]): Entity[] | null {
  const motions = useBoard((s) => s.motions);
  const playing = useBoard((s) => s.playing);
  const [shown, setShown] = useState<Entity[] | null>(null);
  useEffect(() => {
    if (playing === null || !motions?.length) {
      setShown(null);
      return;
    }
    let frame = 0;
    const started = performance.now();
    const view = board().view;
    const reach = 22 / view.scale;
    const tickOn = (now: number) => {
      const t = Math.max(0, (now - started) / 1500);
      const n = playing + Math.floor(t);
      if (n >= motions.length) {
        useBoard.setState({ playing: null });
        return;
      }
      const motion = motions[n];
      const swing = Math.sin(2 * Math.PI * (t % 1)) * reach;
      setShown(entities.map((e) => swung(e, motion.points as Record<string, XY>, motion.radii, swing)));
      frame = requestAnimationFrame(tickOn);
    };
    frame = requestAnimationFrame(tickOn);
    return () => cancelAnimationFrame(frame);
  }, [motions, playing, entities]);
  return playing === null ? null : shown;
}

function swung(e: Entity, points: Record<string, XY>, radii: Record<string, number>, k: number): Entity {
  const move = (ref: string, at: XY): XY => {
    const v = points[ref];
    return v ? [at[0] + v[0] * k, at[1] + v[1] * k] : at;
  };
  if (e.kind === "point") return { ...e, at: move(e.id, e.at as XY) };
  if (e.kind === "line") return { ...e, p: move(`${e.id}.p`, e.p as XY), q: move(`${e.id}.q`, e.q as XY) };
  const r = Math.max(e.r + (radii[e.id] ?? 0) * k, e.r * 0.05);
  const c = move(`${e.id}.c`, e.c as XY);
  if (e.kind === "circle") return { ...e, c, r };
  return { ...e, c, r, p: move(`${e.id}.p`, e.p as XY), q: move(`${e.id}.q`, e.q as XY) };
}
