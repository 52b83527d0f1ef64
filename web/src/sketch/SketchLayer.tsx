/** The open sketch, drawn as SVG over the board in pencil and ink. */

import { memo, useMemo, useRef } from "react";
import type { Callout, Dimension, Entity, SketchState, XY } from "../api/types";
import type { Affine } from "../geometry/affine";
import { apply } from "../geometry/affine";
import { pathOf, pointAt, pointRefs } from "../geometry/geometry";
import { textPlacesNow } from "../geometry/placing";
import { affine, board, sketchOf, sketchStep, useBoard, useResting } from "../state/store";
import { DimensionMark } from "./DimensionMark";
import { FindingMarks } from "./FindingMarks";
import { Ghosts } from "./Ghosts";
import { INK, matrix, OCHRE, PENCIL, RED } from "./ink";
import { usePlayed } from "./motionPlayback";
import { Ties } from "./Ties";

export function SketchLayer() {
  const s = useResting();
  const step = sketchStep(s);
  const m = useSame(affine(s));
  const sketch = sketchOf(step);
  const played = usePlayed(sketch.entities ?? []);
  const pointed = useMemo(() => byEntity([...s.chosen, ...s.shown]), [s.chosen, s.shown]);
  if (!step || !m) return null;
  const state = s.part!.sketches[step.id] as SketchState | undefined;
  const entities = played ?? s.dragged ?? sketch.entities ?? [];
  const loose = new Set(state?.loose ?? []);
  const given = new Set(sketch.given ?? []);
  const lit = new Set([...(s.message?.lights ?? []), ...s.shown]);
  const fed = new Map<string, Callout>();
  for (const c of s.part!.document.callouts ?? []) if (c.link?.step === step.id) fed.set(c.link.field, c);
  const noted = s.callout ? (s.part!.document.callouts ?? []).find((c) => c.id === s.callout)?.link : null;
  const things = new Map(entities.map((e) => [e.id, e]));
  const its = (refs: string[]) => refs.flatMap((r) => things.get(r.split(".")[0]) ?? []);
  const dimensions = sketch.dimensions ?? NO_SIZES;
  const places = textPlacesNow(dimensions, sketch.entities ?? NO_ENTITIES, m, s.dragged !== null);
  const chosen = new Set(s.chosen);
  const red = (id: string) => chosen.has(id) || lit.has(id);
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
            letters={state?.letters?.[e.id]}
            given={given.has(e.id)}
            loose={loose.has(e.id)}
            chosen={red(e.id)}
          />
        ))}
      </g>
      <CurveUnder
        entities={entities}
        m={m}
        loose={loose}
        given={given}
        letters={state?.letters}
        chosen={red}
      />
      {entities.map((e) => (
        <Ends key={e.id} e={e} m={m} loose={loose.has(e.id)} chosen={pointed.get(e.id) ?? NONE} />
      ))}
      <EndUnder entities={entities} m={m} loose={loose} pointed={pointed} />
      {!played &&
        dimensions.map((d) => (
          <DimensionMark
            key={d.id}
            d={d}
            at={s.putting?.id === d.id ? s.putting.at : places.get(d.id)!}
            entities={its(d.refs)}
            m={m}
            measure={state?.measures?.[d.id]}
            fed={fed.get(d.id)}
            bright={bright(d.id)}
            chosen={chosen.has(d.id)}
          />
        ))}
      <Ties constraints={sketch.constraints ?? []} entities={entities} m={m} state={state} />
      <FindingMarks m={m} />
      <Ghosts m={m} />
    </g>
  );
}

/** The last value again while the new one says the same. */
function useSame<T>(value: T): T {
  const kept = useRef(value);
  if (JSON.stringify(kept.current) !== JSON.stringify(value)) kept.current = value;
  return kept.current;
}

const NONE: string[] = [];
const NO_SIZES: Dimension[] = [];
const NO_ENTITIES: Entity[] = [];

/** Refs by the entity they are of. */
function byEntity(refs: string[]): Map<string, string[]> {
  const found = new Map<string, string[]>();
  for (const ref of refs) {
    const id = ref.split(".")[0];
    found.set(id, [...(found.get(id) ?? []), ref]);
  }
  return found;
}

/** What is under the pointer, and the entity it belongs to. */
function useUnder(entities: Entity[]): { ref: string; e: Entity } | null {
  const ref = useBoard((s) => s.under);
  const id = ref?.split(".")[0];
  const e = id ? entities.find((x) => x.id === id) : undefined;
  return ref && e ? { ref, e } : null;
}

interface UnderProps {
  entities: Entity[];
  m: Affine;
  loose: Set<string>;
}

/** The curve under the pointer once more, wider: the sketch itself is not drawn anew for it. */
function CurveUnder({
  entities,
  m,
  loose,
  given,
  letters,
  chosen,
}: UnderProps & { given: Set<string>; letters?: Record<string, string>; chosen: (id: string) => boolean }) {
  const under = useUnder(entities);
  if (!under || under.ref !== under.e.id) return null;
  const { e } = under;
  return (
    <g transform={matrix(m)} fill="none" pointerEvents="none">
      <Curve
        e={e}
        letters={letters?.[e.id]}
        given={given.has(e.id)}
        loose={loose.has(e.id)}
        chosen={chosen(e.id)}
        hover
      />
    </g>
  );
}

function EndUnder({ entities, m, loose, pointed }: UnderProps & { pointed: Map<string, string[]> }) {
  const under = useUnder(entities);
  if (!under || under.ref === under.e.id) return null;
  const { e, ref } = under;
  return <Ends e={e} m={m} loose={loose.has(e.id)} chosen={pointed.get(e.id) ?? NONE} under={ref} />;
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
      const wall = d[i] > 0 ? [width, height][i] - 12 : [12, 36][i]; // the name of the sketch stands at the top
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
  letters,
  given,
  loose,
  chosen,
  hover = false,
}: {
  e: Entity;
  letters?: string;
  given: boolean;
  loose: boolean;
  chosen: boolean;
  hover?: boolean; // drawn over itself, as what is under the pointer
}) {
  const named: Record<string, string> = {};
  if (!hover)
    Object.assign(named, { "data-entity": e.id, "data-state": given ? "given" : loose ? "pencil" : "ink" });
  if (e.kind === "point") return null;
  const stroke = chosen ? RED : e.construction ? OCHRE : loose ? PENCIL : INK;
  const width = (e.construction ? 1 : loose ? 1.4 : 2.4) + (hover ? 1.6 : 0);
  if (given)
    return (
      <g {...named}>
        {/* the part's own edges: a thin double line */}
        <path
          d={pathOf(e)}
          stroke={stroke}
          strokeWidth={hover ? 5.5 : 4.4}
          strokeDasharray={e.construction ? "12 3 2 3" : undefined}
          vectorEffect="non-scaling-stroke"
        />
        <path
          d={pathOf(e)}
          stroke="#F4F1E8"
          strokeWidth={hover ? 3 : 2.4}
          vectorEffect="non-scaling-stroke"
        />
      </g>
    );
  if (e.kind === "text" && letters)
    return <Letters e={e} d={letters} stroke={stroke} width={width} named={named} />;
  return (
    <path
      d={pathOf(e)}
      {...named}
      stroke={stroke}
      strokeWidth={width}
      strokeDasharray={e.construction ? "12 3 2 3" : undefined}
      vectorEffect="non-scaling-stroke"
    />
  );
});

/** A text: its outlines on its base line, in a thin box that shows where it can be taken. */
function Letters({
  e,
  d,
  stroke,
  width,
  named,
}: {
  e: Entity & { kind: "text" };
  d: string;
  stroke: string;
  width: number;
  named: Record<string, string>;
}) {
  const [ux, uy] = [e.q[0] - e.p[0], e.q[1] - e.p[1]];
  return (
    <g {...named} stroke={stroke}>
      <path d={pathOf(e)} strokeWidth="0.6" strokeDasharray="3 3" vectorEffect="non-scaling-stroke" />
      <path
        d={d}
        transform={matrix([ux, uy, -uy, ux, e.p[0], e.p[1]])}
        strokeWidth={width * 0.45}
        fill={stroke}
        fillOpacity="0.18"
        strokeDasharray={e.construction ? "12 3 2 3" : undefined}
        vectorEffect="non-scaling-stroke"
      />
    </g>
  );
}

const Ends = memo(function Ends({
  e,
  m,
  loose,
  chosen,
  under = null,
}: {
  e: Entity;
  m: Affine;
  loose: boolean;
  chosen: string[];
  under?: string | null;
}) {
  const { width, height } = board().view;
  const middle = `${e.id}.mid`;
  const shown = under === middle || chosen.includes(middle) ? pointAt([e], middle) : null;
  const points: [string, XY][] = shown ? [...pointRefs(e), [middle, shown]] : pointRefs(e);
  return points.map(([ref, at]) => {
    const [x, y] = apply(m, at);
    if (x < -20 || y < -20 || x > width + 20 || y > height + 20) return null; // off the board
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
});
