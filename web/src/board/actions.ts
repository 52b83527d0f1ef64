/** Every action there is: its words, its keys, when it makes sense, what it does. The deck and the search read this list. */

import { get } from "../api/client";
import type { Entity, ExtrudeStep, Motion } from "../api/types";
import { dist, pointAt } from "../sketch/geometry";
import { DimensionTool, planFor } from "../sketch/tools/dimension";
import { LineTool } from "../sketch/tools/line";
import { OffsetTool } from "../sketch/tools/offset";
import { RimCircleTool, ThreePointArcTool, TurnedRectangleTool } from "../sketch/tools/points";
import { ArcTool, CircleTool, PointTool, RectangleTool } from "../sketch/tools/shapes";
import { PolygonTool, SlotTool } from "../sketch/tools/slot";
import { Batch, useTool } from "../sketch/tools/tool";
import { TrimTool } from "../sketch/tools/trim";
import { named, type ViewName } from "../view/camera";
import { run, travel } from "./change";
import { startDraft } from "./drafting";
import { fit, setView, squareUp } from "./looking";
import { closeSketch, openSketch } from "./sketching";
import {
  board,
  editable,
  frameOf,
  freshStep,
  type Loose,
  sketchOf,
  sketchStep,
  steps,
  tell,
  useBoard,
} from "./store";

export interface Action {
  id: string;
  words: string;
  keys: string;
  group: "draw" | "constrain" | "dimension" | "build" | "view" | "check" | "edit" | "pick";
  glyph?: string;
  when: () => boolean;
  run: () => void;
}

const sketching = () => board().sketch !== null && editable();
const entityOf = (ref: string) => (sketchOf(sketchStep()).entities ?? []).find((e) => e.id === ref);
const isLine = (ref: string) => ref === "x" || ref === "y" || entityOf(ref)?.kind === "line";
const isRound = (ref: string) => ["circle", "arc"].includes(entityOf(ref)?.kind ?? "");
const isPoint = (ref: string) => ref === "origin" || ref.includes(".") || entityOf(ref)?.kind === "point";
const kinds = (refs: string[]) =>
  refs
    .map((r) => (isPoint(r) ? "p" : isLine(r) ? "l" : isRound(r) ? "r" : "?"))
    .sort()
    .join("");

/** Which selections each constraint takes: sorted letters of (l)ine, (p)oint, (r)ound. */
const TAKES: Record<string, RegExp> = {
  horizontal: /^(l+|pp)$/,
  vertical: /^(l+|pp)$/,
  parallel: /^lll*$/,
  perpendicular: /^ll$/,
  collinear: /^lll*$/,
  equal: /^(lll*|rrr*)$/,
  tangent: /^(lr|rr)$/,
  concentric: /^(rrr*|pr)$/,
  coincident: /^(pp|lp|pr)$/,
  midpoint: /^lp$/,
  symmetric: /^(lpp|lrr|lll)$/,
  fixed: /^[lpr]$/,
};

const CHAINS = new Set(["parallel", "collinear", "equal", "concentric"]);

async function constrain(kind: string) {
  const refs = board().chosen;
  const b = new Batch();
  if ((kind === "horizontal" || kind === "vertical") && kinds(refs) !== "pp")
    for (const r of refs) b.tie(kind, [r]);
  else if (CHAINS.has(kind)) for (const r of refs.slice(1)) b.tie(kind, [refs[0], r]);
  else if (kind === "symmetric") {
    const line = refs.length === 3 && kinds(refs) !== "lll" ? refs.find(isLine)! : refs[2];
    b.tie(kind, [...refs.filter((r) => r !== line), line]);
  } else if (kind === "coincident" || kind === "midpoint") {
    b.tie(kind, [...refs.filter(isPoint), ...refs.filter((r) => !isPoint(r))]);
  } else b.tie(kind, refs);
  if (await b.store()) useBoard.setState({ chosen: [] });
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
  make: () => import("../sketch/tools/tool").Tool,
): Action => ({
  id,
  words,
  keys,
  group: "draw",
  when: sketching,
  run: () => useTool(make()),
});

async function addSketch(on: Record<string, unknown>) {
  const id = freshStep();
  useBoard.setState({ choosingPlane: false });
  if (!(await run({ do: "add_step", step: { kind: "sketch", id, on } }))) return;
  // a sketch on a face has its frame once the route has run
  for (let i = 0; i < 100 && !frameOf(board(), id); i++) await new Promise((r) => setTimeout(r, 50));
  openSketch(id);
}

export const sketchOnDatum = (plane: string) => addSketch({ kind: "datum", plane });

export function sketchOnFace() {
  const pick = board().picks[0];
  const face = pick?.kind === "face" ? board().scene?.bodies()[pick.body].faces[pick.face] : undefined;
  if (!face) return;
  if (face.kind !== "plane") {
    tell("A sketch needs a flat face; pick one, or a datum plane.", "red");
    return;
  }
  addSketch({
    kind: "face",
    face: { origins: face.origins, ring: face.ring, near: face.near, said: face.said },
  });
}

const flatFace = () => {
  const pick = board().picks[0];
  if (pick?.kind !== "face" || board().picks.length > 1) return false;
  return board().scene?.bodies()[pick.body]?.faces[pick.face]?.kind === "plane";
};

/** The sketch an extrusion would take: the open one, else the newest that nothing uses yet. */
function profileSketch(): string | null {
  if (board().sketch) return board().sketch;
  const all = steps(board().part);
  const used = new Set(all.flatMap((s) => (s.kind === "extrude" ? [s.sketch] : [])));
  const open = all.filter((s) => s.kind === "sketch" && (s.sketch?.entities ?? []).length);
  const free = open.filter((s) => !used.has(s.id));
  return (free.at(-1) ?? open.at(-1))?.id ?? null;
}

function extrude(operation: "add" | "cut") {
  const sketch = profileSketch();
  if (!sketch) {
    tell("Draw a closed profile in a sketch first, then extrude it.", "red");
    return;
  }
  const state = board().part?.sketches[sketch];
  if (state && !state.regions.length) {
    const ends = state.open_ends.length;
    tell(
      ends
        ? `This sketch holds no closed profile: ${ends} open end${ends === 1 ? "" : "s"}. Close it first.`
        : "This sketch holds no closed profile yet. Draw a closed outline in it.",
      "red",
    );
    return;
  }
  const step = {
    kind: "extrude",
    id: freshStep(),
    sketch,
    operation,
    regions: null,
    extent: { kind: "depth", depth: board().part?.document.unit === "in" ? "1/2" : "10" },
    reverse: false,
    bodies: null,
    name: "",
    note: "",
    suppressed: false,
  } as unknown as ExtrudeStep;
  startDraft(step, true);
}

export async function loadMotions(play: boolean) {
  const s = board();
  if (!s.sketch || !s.part) return;
  const motions = await get<Motion[]>(`/api/parts/${s.part.id}/sketches/${s.sketch}/motions`);
  useBoard.setState({ motions, playing: play && motions.length ? 0 : null });
  if (!motions.length) tell("Nothing can move: this sketch is fully constrained.", "proof");
}

export function deleteChosen() {
  const { chosen, sketch, openStep } = board();
  if (sketch && chosen.length) {
    const ids = [...new Set(chosen.map((r) => r.split(".")[0]))].filter(
      (r) => !["origin", "x", "y"].includes(r),
    );
    if (ids.length)
      run({ do: "sketch_delete", step: sketch, ids }).then((ok) => ok && useBoard.setState({ chosen: [] }));
  } else if (!sketch && openStep) run({ do: "delete_step", step: openStep });
}

function toggleConstruction() {
  const ids = board().chosen.filter((r) => entityOf(r));
  const on = !ids.every((r) => (entityOf(r) as Entity).construction);
  run({ do: "sketch_construction", step: board().sketch, ids, on });
}

export function look(name: ViewName) {
  setView({ ...board().view, turn: named(name) });
  fit();
}

const VIEWS: [ViewName, string, string][] = [
  ["front", "Front view", "v 1"],
  ["top", "Top view", "v 2"],
  ["right", "Right view", "v 3"],
  ["left", "Left view", "v 4"],
  ["under", "View from under", "v 5"],
  ["back", "Back view", "v 6"],
  ["iso", "Isometric view", "v i"],
];

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
function atCorners(kind: string, make: (corners: string[], expr: string) => Loose) {
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
      make: (expr) => make(corners, expr),
    },
  });
}

const roundCorners = () =>
  atCorners("corner radius", (corners, expr) => ({
    do: "sketch_fillet",
    step: board().sketch,
    corners,
    radius: expr.replace(/^\s*R\s*/i, ""),
  }));

const chamferCorners = () =>
  atCorners("chamfer", (corners, expr) => ({
    do: "sketch_chamfer",
    step: board().sketch,
    corners,
    distance: expr.replace(/\s*[x×]\s*45\s*°?\s*$/i, ""),
  }));

/** Everything chosen but the last is mirrored about the last, which must be a line or an axis. */
function mirrorChosen() {
  const { chosen, sketch } = board();
  const about = chosen[chosen.length - 1];
  const ids = [...new Set(chosen.slice(0, -1).map((r) => r.split(".")[0]))];
  run({ do: "sketch_mirror", step: sketch, ids, about }).then(
    (done) => done && useBoard.setState({ chosen: [] }),
  );
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

export const ACTIONS: Action[] = [
  {
    id: "sketch-here",
    words: "Sketch here",
    keys: "b s",
    group: "pick",
    when: () => editable() && !board().sketch && flatFace(),
    run: sketchOnFace,
  },
  {
    id: "sketch",
    words: "Sketch",
    keys: "b s",
    group: "build",
    when: () => editable() && !board().sketch && !flatFace(),
    run: () => useBoard.setState({ choosingPlane: true }),
  },
  {
    id: "extrude",
    words: "Extrude",
    keys: "b e",
    group: "build",
    when: () => editable() && !board().draft,
    run: () => extrude("add"),
  },
  {
    id: "cut",
    words: "Cut",
    keys: "b c",
    group: "build",
    when: () => editable() && !board().draft,
    run: () => extrude("cut"),
  },
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
  drawing("point", "Point", "d p", () => new PointTool()),
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
      useTool(new DimensionTool(ok ? refs : []));
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
    id: "delete",
    words: "Delete",
    keys: "Del",
    group: "edit",
    when: () =>
      editable() &&
      (board().sketch !== null ? board().chosen.length > 0 : board().openStep !== null && !board().draft),
    run: deleteChosen,
  },
  {
    id: "finish",
    words: "Finish",
    keys: "e x",
    group: "edit",
    when: () => board().sketch !== null,
    run: closeSketch,
  },
  {
    id: "trim",
    words: "Trim",
    keys: "e t",
    group: "edit",
    when: sketching,
    run: () => useTool(new TrimTool("trim")),
  },
  {
    id: "extend",
    words: "Extend",
    keys: "e n",
    group: "edit",
    when: sketching,
    run: () => useTool(new TrimTool("extend")),
  },
  {
    id: "split",
    words: "Split",
    keys: "e s",
    group: "edit",
    when: sketching,
    run: () => useTool(new TrimTool("split")),
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
    run: () => useTool(new OffsetTool(offsets())),
  },
  {
    id: "mirror",
    words: "Mirror about the last",
    keys: "e m",
    group: "edit",
    when: mirrors,
    run: mirrorChosen,
  },
  {
    id: "motions",
    words: "Play what can move",
    keys: "k f",
    group: "check",
    when: () => board().sketch !== null && (board().part?.sketches[board().sketch!]?.freedom ?? 0) > 0,
    run: () => loadMotions(true),
  },
  {
    id: "suggest",
    words: "Suggest how to finish",
    keys: "k s",
    group: "check",
    when: () => sketching() && (board().part?.sketches[board().sketch!]?.freedom ?? 0) > 0,
    run: () => useBoard.setState({ suggesting: true }),
  },
  {
    id: "check",
    words: "Check the profile",
    keys: "k p",
    group: "check",
    when: () => board().sketch !== null,
    run: () => useBoard.setState({ checking: true, tolerance: null }),
  },
  {
    id: "values",
    words: "Values and sizes",
    keys: "k v",
    group: "check",
    when: () => board().part !== null,
    run: () => useBoard.setState((s) => ({ leaf: s.leaf === "values" ? null : "values" })),
  },
  {
    id: "expressions",
    words: "Expressions on/off",
    keys: "k e",
    group: "check",
    when: () => board().sketch !== null,
    run: () => useBoard.setState((s) => ({ expressions: !s.expressions })),
  },
  {
    id: "ties",
    words: "Show all constraints",
    keys: "k c",
    group: "check",
    when: () => board().sketch !== null,
    run: () => useBoard.setState({ showTies: !board().showTies }),
  },
  {
    id: "undo",
    words: "Undo",
    keys: "Ctrl Z",
    group: "edit",
    when: () => editable() && !!board().part?.can_undo,
    run: () => travel("undo"),
  },
  {
    id: "redo",
    words: "Redo",
    keys: "Ctrl Y",
    group: "edit",
    when: () => editable() && !!board().part?.can_redo,
    run: () => travel("redo"),
  },
  ...VIEWS.map(
    ([name, words, keys]): Action => ({
      id: `view-${name}`,
      words,
      keys,
      group: "view",
      when: () => true,
      run: () => look(name),
    }),
  ),
  {
    id: "square",
    words: "Square on to the sketch",
    keys: "v s",
    group: "view",
    when: () => board().sketch !== null,
    run: () => {
      const frame = frameOf(board(), board().sketch!);
      if (frame) squareUp(frame);
    },
  },
  { id: "fit", words: "Fit the part", keys: "v f", group: "view", when: () => true, run: fit },
];

export const action = (id: string) => ACTIONS.find((a) => a.id === id)!;
