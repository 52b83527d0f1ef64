/** Starting steps: what a new one holds at first, from what is chosen and what is there. */
import { Vector3 } from "three";
import { isSketch, type Step } from "../api/types";
import { asItIs } from "../document/builds";
import type { Action } from "../state/action";
import {
  type Chosen,
  catalogue,
  type Data,
  firstLength,
  kindOf,
  put,
  type Start,
  type StepKind,
  sketchesUsed,
  slotsOf,
  withFirstLengths,
} from "../state/catalogue";
import { edgeRef, faceRef } from "../state/refs";
import {
  board,
  editable,
  frameOf,
  freshStep,
  holding,
  type State,
  showMessage,
  sketchOf,
  stepOf,
  steps,
} from "../state/store";
import { onKeptForAgain, startDraft } from "./draft";
import { POINTED } from "./slots";

const used = () => sketchesUsed(steps(board().part));

type Region = NonNullable<State["part"]>["sketches"][string]["regions"][number];

/** The closed regions of the sketch a step was made from that no step takes yet. */
function unusedRegions(like: Step): Region[] {
  const sketch = (like as unknown as Data).sketch;
  const regions = board().part?.sketches[String(sketch)]?.regions ?? [];
  if (kindOf(like).source !== "regions") return [];
  const taken = (r: Region) =>
    steps(board().part).some(
      (s) =>
        "regions" in s &&
        s.sketch === sketch &&
        (s.regions
          ? s.regions.some((p) => p.around.join() === r.around.join() && `${p.at}` === `${r.at}`)
          : r.default),
    );
  return regions.filter((r) => !taken(r));
}

/** Another of a kind is as the one before was kept, but for what it is made of and where. */
function asKept(step: Data, like: Step) {
  const parts = catalogue().sentences[like.kind] ?? [];
  const before = structuredClone(like) as unknown as Data;
  const own = new Set(["id", "kind", "name", "note", "suppressed", "group", "sketch", "regions"]);
  for (const p of parts) {
    const where = p.is === "slot" && POINTED.has(p.kind) && !["plane", "axis"].includes(p.kind);
    if (where && !p.field.includes(".")) own.add(p.field);
    if (p.is !== "group") continue;
    own.add(p.field);
    const [first] = (before[p.field] as Data[]) ?? [];
    const [fresh] = (step[p.field] as Data[]) ?? [];
    if (!first || !fresh) continue;
    const values = p.parts.flatMap((x) => (x.is === "slot" && !POINTED.has(x.kind) ? [x.field] : []));
    for (const field of values) fresh[field] = first[field];
  }
  for (const [field, value] of Object.entries(before)) if (!own.has(field)) step[field] = value;
  const [next] = unusedRegions(like);
  if (next) step.regions = [{ around: next.around, at: next.at }];
}

/** The sketch a step would be made from: the open one, else the newest that nothing uses yet. */
function sourceSketch(): string | null {
  if (board().sketch) return board().sketch;
  const all = steps(board().part);
  const open = all.filter((s) => isSketch(s) && !s.stencil && (s.sketch?.entities ?? []).length);
  const taken = used();
  const free = open.filter((s) => !taken.has(s.id));
  return (free.at(-1) ?? open.at(-1))?.id ?? null;
}

/** What is to be drawn for a step, where there is no sketch at all. */
const WANTED = { "": "", regions: "a closed profile", points: "points", lines: "an open line" };

/** Why a sketch cannot be the source of a kind of step, in words; null when it can. */
function unfit({ source }: StepKind, id: string): string | null {
  const state = board().part?.sketches[id];
  const step = stepOf(board().part, id);
  const entities = step && isSketch(step) ? (sketchOf(step).entities ?? []) : [];
  if (source === "points") {
    const points = entities.some((e) => !e.construction && (e.kind === "point" || e.kind === "circle"));
    return points ? null : "Draw points or circles in a sketch where the holes go, then drill.";
  }
  const ends = state?.open_ends.length ?? 0;
  if (source === "lines")
    return ends >= 2 ? null : "This sketch holds no open line. Draw the line that it is to run along.";
  if (!state || state.regions.length) return null;
  return ends
    ? `This sketch holds no closed profile: ${ends} open end${ends === 1 ? "" : "s"}. Close it first.`
    : "This sketch holds no closed profile yet. Draw a closed outline in it.";
}

/** Why there are too few bodies for a kind of step; null if there are not. */
function tooFew(s: Start): string | null {
  const count = (board().build?.bodies ?? []).length;
  if (s.needs && s.needs !== "sketch" && !count)
    return "There is no body yet to work on. Extrude a profile first.";
  return s.needs === "bodies" && count < 2
    ? "There is only one body. Make another first: extrude it as a new body, or split this one."
    : null;
}

function start(s: Start, like: Step | null = null, waited = false): unknown {
  const kind = kindOf(s);
  const of = board().part;
  const within = board().sketch;
  const none = !(board().build?.bodies ?? []).length;
  // bodies of a change just made may be on their way; keys wait for what they are meant for
  if (!waited && (tooFew(s) || (none && kind.takes.centre_line)) && board().shownVersion !== of?.version)
    return holding(asItIs()).then((there) => {
      const now = board();
      if (now.part?.id !== of?.id || now.draft || now.sketch !== within) return;
      if (there || !tooFew(s)) start(s, like, true);
      else showMessage("The part is still being built. Begin this step when it stands on the board.");
    });
  const unit = of?.document.unit ?? "mm";
  const step = withFirstLengths(structuredClone({ ...s.fresh, kind: s.kind, id: freshStep() }), unit);
  Object.assign(step, { name: "", note: "", suppressed: false });
  if (s.needs === "sketch") {
    const more = like && unusedRegions(like);
    const sketch = more?.length ? ((like as unknown as Data).sketch as string) : sourceSketch();
    if (like && !more?.length && used().has(sketch ?? ""))
      return showMessage("Every closed region that is drawn has its step; sketch the next profile.");
    if (!sketch) return showMessage(`Draw ${WANTED[kind.source]} in a sketch first.`, "red");
    const why = unfit(kind, sketch);
    fromSketch(step, sketch, kind);
    if (kind.downwards || s.fresh.operation === "cut") towardsPart(step, sketch, kind.downwards);
    if (why) {
      // an open chain is a mistake more often than a wall, so that is only offered
      const open = "wall" in step && (board().part?.sketches[sketch]?.open_ends.length ?? 0) >= 2;
      const wall = {
        label: "Make a wall along it",
        act: () => startDraft({ ...step, wall: firstLength("2", unit) } as Step, true, null, s),
      };
      return showMessage(why, "red", open ? [wall] : []);
    }
  }
  const few = tooFew(s);
  if (few) return showMessage(few, "red");
  take(s, step);
  if (like) asKept(step, like);
  const slots = slotsOf(catalogue().sentences[s.kind] ?? [], step);
  const first = slots.find((x) => x.path === s.first && POINTED.has(x.slot.kind));
  startDraft(step as Step, true, first?.path ?? null, s);
}

/** From a plane beside the part a cut, a hole or a rib goes towards it. On a face it goes into the material by itself. */
function towardsPart(step: Data, sketch: string, downwards: boolean) {
  const source = stepOf(board().part, sketch);
  const frame = frameOf(board(), sketch);
  if (!frame || !source || !isSketch(source) || source.on.kind === "face") return;
  const normal = new Vector3(...frame.normal);
  const at = new Vector3(...frame.origin).dot(normal);
  const far = (board().scene?.corners() ?? []).map((p) => p.dot(normal) - at);
  const before = far.length > 0 && Math.min(...far) > -1e-4; // all of the part lies before the plane
  const behind = far.length > 0 && Math.max(...far) < 1e-4;
  if (before || behind) step.reverse = downwards ? before : behind;
}

function fromSketch(step: Data, sketch: string, { takes }: StepKind) {
  step.sketch = sketch;
  if (!takes.centre_line) return;
  // a centre line drawn for it is the axis; else the sketch's own upright one
  const source = stepOf(board().part, sketch);
  const lines = source && isSketch(source) ? (sketchOf(source).entities ?? []) : [];
  const centre = lines.filter((e) => e.kind === "line" && e.construction).at(-1);
  step[takes.centre_line] = { kind: "line", step: sketch, line: centre?.id ?? "y" };
  step.operation = (board().build?.bodies ?? []).length ? "add" : "new";
}

/** What is chosen on the board goes into the new step's slots. */
function take(s: Start, step: Data) {
  const { picks, scene } = board();
  const bodies = scene?.bodies() ?? [];
  const faces = picks.flatMap((p) =>
    p.kind === "face" && bodies[p.body] ? [faceRef(bodies[p.body], p.face)] : [],
  );
  const edges = picks.flatMap((p) =>
    p.kind === "edge" && bodies[p.body] ? [edgeRef(bodies[p.body], p.edge)] : [],
  );
  const ids = [...new Set(picks.flatMap((p) => (bodies[p.body] ? [bodies[p.body].id] : [])))];
  const chosenEdges = [
    ...edges.map((edge) => ({ by: "pick", edge })),
    ...faces.map((face) => ({ by: "around", face })),
  ];
  const chosenFaces = faces.map((face) => ({ by: "pick", face }));
  const made = picks.length ? faces.map((f) => f.origins[0].split("/")[0]) : [board().openStep ?? ""];
  const again = [...new Set(made)].filter((id) => {
    const step = stepOf(board().part, id);
    return step && kindOf(step).repeatable;
  });
  const { takes } = kindOf(s);
  const chosen: Partial<Record<Chosen, unknown>> = {
    edges: chosenEdges,
    // what no step of the route made by itself, as in a file from outside, is repeated by its faces
    faces: takes.steps && again.length ? [] : chosenFaces,
    plane: faces.length ? { kind: "face", face: faces[0] } : undefined,
    axis: edges.length ? { kind: "edge", edge: edges[0] } : undefined,
    bodies: ids,
    body: ids[0] ?? "",
    others: ids.slice(1),
    steps: again,
  };
  for (const [what, path] of Object.entries(takes)) {
    const value = chosen[what as Chosen];
    if (value !== undefined) Object.assign(step, put(step, path, value));
  }
}

let made: { of: Start[]; actions: Action[] } | null = null;

/** An action for every way to start a step. */
export function startActions(): Action[] {
  const { starts } = catalogue();
  if (made?.of === starts) return made.actions;
  const actions = starts.map(
    (s): Action => ({
      id: `step ${s.action}`, // drawing has actions of the same name: to split, to chamfer
      words: s.words,
      keys: s.keys,
      group: s.group,
      when: () => editable() && !board().draft && (s.needs === "sketch" || !board().sketch),
      run: () => start(s),
    }),
  );
  made = { of: starts, actions };
  return actions;
}

onKeptForAgain((action, like) => {
  const s = catalogue().starts.find((x) => x.action === action);
  if (s) start(s, like);
});
