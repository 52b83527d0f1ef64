import type { Entity, XY } from "../api/types";
import { run } from "../document/commands";
import { dist, pointAt, said } from "../geometry/geometry";
import { bevel, unprefixed } from "../geometry/typed";
import type { Action } from "../state/action";
import { modeOf } from "../state/mode";
import {
  board,
  type CommandDraft,
  editable,
  letGo,
  showMessage,
  sketchOf,
  sketchStep,
  useBoard,
} from "../state/store";
import { EllipseTool, SplineTool, TextTool } from "./tools/bent";
import { DimensionTool, planFor } from "./tools/dimension";
import { bringOutline, EdgesTool } from "./tools/edges";
import { LineTool } from "./tools/line";
import { OffsetTool } from "./tools/offset";
import { RimCircleTool, ThreePointArcTool, TurnedRectangleTool } from "./tools/points";
import { ArcTool, CircleTool, PointTool, RectangleTool } from "./tools/shapes";
import { PolygonTool, SlotTool } from "./tools/slot";
import { Batch, takeTool } from "./tools/tool";
import { TouchingCircleTool } from "./tools/touching";
import { TrimTool } from "./tools/trim";

/** Whether somebody may draw in a sketch just now. */
export const sketching = () => modeOf() === "sketch" && editable();
const entityOf = (ref: string) => (sketchOf(sketchStep()).entities ?? []).find((e) => e.id === ref);
const isLine = (ref: string) =>
  ref === "x" || ref === "y" || ["line", "text"].includes(entityOf(ref)?.kind ?? "");
const isBent = (ref: string) => /^[es]\d+$/.test(ref);
const isRound = (ref: string) => ["circle", "arc"].includes(entityOf(ref)?.kind ?? "");
const isPoint = (ref: string) => ref === "origin" || ref.includes(".") || entityOf(ref)?.kind === "point";
const kinds = (refs: string[]) =>
  refs
    .map((r) => (isPoint(r) ? "p" : isLine(r) ? "l" : isRound(r) ? "r" : isBent(r) ? "b" : "?"))
    .sort()
    .join("");

/** Which selections each constraint takes: sorted letters of (b)ent curve, (l)ine, (p)oint, (r)ound. */
const TAKES: Record<string, RegExp> = {
  horizontal: /^(l+|pp)$/,
  vertical: /^(l+|pp)$/,
  parallel: /^lll*$/,
  perpendicular: /^lll*$/,
  collinear: /^lll*$/,
  equal: /^(lll*|rrr*)$/,
  tangent: /^(b+l*r*|l+r+|rr+)$/,
  concentric: /^([blr]*[br][blr]*|pr|bp)$/,
  coincident: /^(ppp*|lp+|p+r|bp+)$/,
  midpoint: /^lp$/,
  symmetric: /^(l(pp)+|l(rr)+|lll(ll)*)$/,
  fixed: /^[blpr]$/,
};

const CHAINS = new Set(["parallel", "collinear", "equal", "concentric"]);

/** Which of several curves meet at which: every joint of a chain; without joints each with the first, or with the one
 * line among them. Pairs that have the constraint already are left out. */
function couples(kind: string, refs: string[]): [string, string][] {
  const sketch = sketchOf(sketchStep());
  const entities = sketch.entities ?? [];
  const ends = (ref: string) =>
    ["p", "q"].flatMap((end) => {
      const at = pointAt(entities, `${ref}.${end}`);
      return at ? [at] : [];
    });
  const fits = (a: string, b: string) => kind !== "tangent" || !(isLine(a) && isLine(b));
  const has = (a: string, b: string) =>
    (sketch.constraints ?? []).some((c) => c.kind === kind && c.refs.includes(a) && c.refs.includes(b));
  const all = refs.flatMap((a, i) => refs.slice(i + 1).map((b): [string, string] => [a, b]));
  if (refs.length === 2) return all;
  const joined = all.filter(
    ([a, b]) => fits(a, b) && ends(a).some((p) => ends(b).some((q) => dist(p, q) < 1e-6)),
  );
  const lines = refs.filter(isLine);
  const hub = kind === "tangent" && lines.length === 1 ? lines[0] : refs[0];
  const star = refs.filter((r) => r !== hub).map((r): [string, string] => [hub, r]);
  const found = joined.length ? joined : star.filter(([a, b]) => fits(a, b));
  return found.filter(([a, b]) => !has(a, b));
}

async function constrain(kind: string) {
  const refs = board().chosen;
  const b = new Batch();
  if ((kind === "horizontal" || kind === "vertical") && kinds(refs) !== "pp")
    for (const r of refs) b.tie(kind, [r]);
  else if (kind === "tangent" || kind === "perpendicular") {
    const found = couples(kind, refs);
    if (!found.length) return showMessage("All of these are so already.");
    for (const pair of found) b.tie(kind, pair);
  } else if (CHAINS.has(kind)) for (const r of refs.slice(1)) b.tie(kind, [refs[0], r]);
  else if (kind === "symmetric") {
    // pairs in the order they were chosen; among lines the last one is the axis
    const line = refs.every(isLine) ? refs[refs.length - 1] : refs.find(isLine)!;
    const pairs = refs.filter((r) => r !== line);
    for (let i = 0; i < pairs.length; i += 2) b.tie(kind, [pairs[i], pairs[i + 1], line]);
  } else if (kind === "coincident" && refs.length > 2) {
    // all points in one place, or all on the one curve among them
    const curve = refs.find((r) => !isPoint(r));
    const points = refs.filter(isPoint);
    for (const p of curve ? points : points.slice(1)) b.tie(kind, curve ? [p, curve] : [points[0], p]);
  } else if (kind === "coincident" || kind === "midpoint") {
    b.tie(kind, [...refs.filter(isPoint), ...refs.filter((r) => !isPoint(r))]);
  } else b.tie(kind, refs);
  await b.store();
  letGo(refs); // refused, they are lit by the reason given
}

function tie(kind: string, key: string): Action {
  return {
    id: `constrain-${kind}`,
    words: kind[0].toUpperCase() + kind.slice(1),
    keys: `c ${key}`,
    group: "constrain",
    glyph: kind,
    when: () => sketching() && TAKES[kind].test(kinds(board().chosen)),
    run: () => constrain(kind),
  };
}

const drawing = (
  id: string,
  words: string,
  keys: string,
  make: () => import("./tools/tool").Tool,
): Action => ({
  id,
  words,
  keys,
  group: "draw",
  when: sketching,
  run: () => takeTool(make()),
});

function toggleConstruction() {
  const ids = board().chosen.filter((r) => entityOf(r));
  const on = !ids.every((r) => (entityOf(r) as Entity).construction);
  run({ do: "sketch_construction", step: board().sketch!, ids, on });
}

/** The corners that are chosen: ends where lines meet, or where two chosen lines meet. */
function cornersChosen(): string[] {
  const { chosen } = board();
  const entities = sketchOf(sketchStep()).entities ?? [];
  const ends = chosen.filter((r) => /^l\d+\.[pq]$/.test(r));
  if (ends.length === chosen.length) return ends;
  if (kinds(chosen) !== "ll") return [];
  const found = ["p", "q"].flatMap((a) =>
    ["p", "q"].flatMap((b) => {
      const [one, two] = [pointAt(entities, `${chosen[0]}.${a}`), pointAt(entities, `${chosen[1]}.${b}`)];
      return one && two && dist(one, two) < 1e-7 ? [`${chosen[0]}.${a}`] : [];
    }),
  );
  return found;
}

/** A value asked for at the first chosen corner, for a command on all of them. */
function atCorners(
  kind: string,
  make: (corners: string[], expr: string) => CommandDraft,
  hint?: () => string,
) {
  const corners = cornersChosen();
  const at = pointAt(sketchOf(sketchStep()).entities ?? [], corners[0]);
  if (!at) return;
  useBoard.setState({
    field: {
      dimension: null,
      text: "",
      at,
      kind,
      nameless: true,
      hint: hint?.(),
      make: (expr) => make(corners, expr),
    },
  });
}

const roundCorners = () =>
  atCorners("corner radius", (corners, expr) => ({
    do: "sketch_fillet",
    step: board().sketch!,
    corners,
    radius: unprefixed(expr),
  }));

const chamferCorners = () =>
  atCorners(
    "chamfer",
    (corners, expr) => ({
      do: "sketch_chamfer",
      step: board().sketch!,
      corners,
      ...bevel(expr),
    }),
    bevelHint,
  );

/** What is typed at a corner to be chamfered, with the lines its distances lie on. */
function bevelHint(): string {
  const corners = cornersChosen();
  const line = corners[0].split(".")[0];
  const entities = sketchOf(sketchStep()).entities ?? [];
  const at = pointAt(entities, corners[0])!;
  const other = entities.find(
    (e) =>
      e.kind === "line" &&
      !e.construction &&
      e.id !== line &&
      (dist(e.p as XY, at) < 1e-7 || dist(e.q as XY, at) < 1e-7),
  );
  const [one, two] = [said(line), other ? said(other.id) : "the other"];
  return `3, or 3 × 2: along ${one} × along ${two}, or 3 × 30°: the angle to ${one}`;
}

function rewriteText() {
  const text = entityOf(board().chosen[0]);
  if (text?.kind !== "text") return;
  useBoard.setState({
    field: {
      dimension: null,
      text: text.text,
      at: text.c as XY,
      kind: "text",
      nameless: true,
      make: (said) => ({ do: "sketch_text", step: board().sketch!, entity: text.id, text: said }),
    },
  });
}

/** Everything chosen but the last is mirrored about the last, which must be a line or an axis. */
function mirrorChosen() {
  const { chosen, sketch } = board();
  const about = chosen[chosen.length - 1];
  const ids = [...new Set(chosen.slice(0, -1).map((r) => r.split(".")[0]))];
  run({ do: "sketch_mirror", step: sketch!, ids, about }).then((done) => done && letGo(chosen));
}

/** The lines, arcs and circles that are chosen, when nothing else is. */
const offsets = () => {
  const ids = board().chosen;
  return ids.every((r) => ["line", "arc", "circle"].includes(entityOf(r)?.kind ?? "")) ? ids : [];
};

const mirrors = () => {
  const { chosen } = board();
  return (
    sketching() &&
    chosen.length > 1 &&
    isLine(chosen[chosen.length - 1]) &&
    chosen.slice(0, -1).every((r) => entityOf(r))
  );
};

export const SKETCH_ACTIONS: Action[] = [
  drawing("line", "Line", "d l", () => new LineTool()),
  drawing("rectangle", "Rectangle", "d r", () => new RectangleTool(false)),
  drawing("centre-rectangle", "Centre rectangle", "d q", () => new RectangleTool(true)),
  drawing("circle", "Circle", "d c", () => new CircleTool()),
  drawing("arc", "Arc", "d a", () => new ArcTool()),
  drawing("turned-rectangle", "Turned rectangle", "d w", () => new TurnedRectangleTool()),
  drawing("slot", "Slot", "d s", () => new SlotTool()),
  drawing("polygon", "Polygon over corners", "d g", () => new PolygonTool(false)),
  drawing("polygon-flats", "Polygon over flats", "d h", () => new PolygonTool(true)),
  drawing("tangent-arc", "Tangent arc", "d t", () => new LineTool(true)),
  drawing("three-point-arc", "Arc through three", "d b", () => new ThreePointArcTool()),
  drawing("two-point-circle", "Circle over two", "d v", () => new RimCircleTool(false)),
  drawing("three-point-circle", "Circle through three", "d n", () => new RimCircleTool(true)),
  drawing("touching-circle", "Circle touching three", "d m", () => new TouchingCircleTool()),
  drawing("ellipse", "Ellipse", "d e", () => new EllipseTool(false)),
  drawing("ellipse-arc", "Arc of an ellipse", "d i", () => new EllipseTool(true)),
  drawing("spline", "Spline", "d u", () => new SplineTool()),
  drawing("text", "Text", "d x", () => new TextTool()),
  drawing("point", "Point", "d p", () => new PointTool()),
  {
    id: "edges",
    words: "Edges of the part",
    keys: "d j",
    group: "draw",
    when: () => sketching() && board().partEdges.length > 0,
    run: () => takeTool(new EdgesTool()),
  },
  {
    id: "outline",
    words: "Outline of the face",
    keys: "d o",
    group: "draw",
    when: () => sketching() && board().partEdges.some((e) => e.in_plane),
    run: bringOutline,
  },
  {
    id: "drawing",
    words: "Bring in a drawing",
    keys: "d f",
    group: "draw",
    when: sketching,
    run: () => useBoard.setState({ leaf: "drawing" }),
  },
  {
    id: "dimension",
    words: "Dimension",
    keys: "m",
    group: "dimension",
    when: sketching,
    run: () => {
      const refs = board().chosen.filter((r) => !/^[dk]\d+$/.test(r));
      const ok =
        refs.length > 0 &&
        refs.length <= 2 &&
        planFor(refs, [1e9, 1e9], sketchOf(sketchStep()).entities ?? []);
      takeTool(new DimensionTool(ok ? refs : []));
    },
  },
  tie("coincident", "j"),
  tie("horizontal", "h"),
  tie("vertical", "v"),
  tie("parallel", "p"),
  tie("perpendicular", "s"),
  tie("equal", "e"),
  tie("tangent", "t"),
  tie("concentric", "n"),
  tie("midpoint", "m"),
  tie("symmetric", "y"),
  tie("collinear", "l"),
  tie("fixed", "f"),
  {
    id: "construction",
    words: "Construction on/off",
    keys: "e c",
    group: "edit",
    when: () => sketching() && board().chosen.some((r) => entityOf(r)),
    run: toggleConstruction,
  },
  {
    id: "trim",
    words: "Trim",
    keys: "e t",
    group: "edit",
    when: sketching,
    run: () => takeTool(new TrimTool("trim")),
  },
  {
    id: "extend",
    words: "Extend",
    keys: "e n",
    group: "edit",
    when: sketching,
    run: () => takeTool(new TrimTool("extend")),
  },
  {
    id: "split",
    words: "Split",
    keys: "e s",
    group: "edit",
    when: sketching,
    run: () => takeTool(new TrimTool("split")),
  },
  {
    id: "round",
    words: "Round corner",
    keys: "e r",
    group: "edit",
    when: () => sketching() && cornersChosen().length > 0,
    run: roundCorners,
  },
  {
    id: "chamfer",
    words: "Chamfer corner",
    keys: "e h",
    group: "edit",
    when: () => sketching() && cornersChosen().length > 0,
    run: chamferCorners,
  },
  {
    id: "offset",
    words: "Offset",
    keys: "e o",
    group: "edit",
    when: () => sketching() && offsets().length > 0,
    run: () => takeTool(new OffsetTool(offsets())),
  },
  {
    id: "rewrite",
    words: "Write something else",
    keys: "e w",
    group: "edit",
    when: () => sketching() && board().chosen.length === 1 && entityOf(board().chosen[0])?.kind === "text",
    run: rewriteText,
  },
  {
    id: "mirror",
    words: "Mirror about the last",
    keys: "e m",
    group: "edit",
    when: mirrors,
    run: mirrorChosen,
  },
];
