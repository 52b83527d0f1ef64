/** Ways of looking at the finished part: how it is drawn, cut open, with bodies hidden; and measuring what is pointed at. */
import { post, type Refused } from "../api/client";
import type { components } from "../api/schema.gen";
import type { Body, Callout, Measured, XYZ } from "../api/types";
import { fourViews } from "../camera/viewControl";
import { showBodies } from "../document/builds";
import { run } from "../document/commands";
import type { Action } from "../state/action";
import { enter, working } from "../state/mode";
import { edgeRef, faceRef } from "../state/refs";
import { board, type CutPlane, DATUMS, showMessage, stillAt, useBoard } from "../state/store";
import { DRAWN, type Drawn } from "../view/drawn";
import type { Pick } from "../view/pointed";

type Spot = components["schemas"]["Spot"];

const away = (c: CutPlane) =>
  c.turned
    ? { normal: c.normal.map((v) => -v) as XYZ, at: -c.at }
    : { normal: c.normal as [number, number, number], at: c.at };

/** How far the part reaches along a direction, mm. */
export function span(normal: XYZ): [number, number] {
  const heights = (board().scene?.corners() ?? []).map(
    (c) => c.x * normal[0] + c.y * normal[1] + c.z * normal[2],
  );
  let [low, high] = [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY];
  for (const h of heights) [low, high] = [Math.min(low, h), Math.max(high, h)];
  return heights.length ? [low, high] : [0, 1];
}

export function cutAt(cut: CutPlane | null) {
  useBoard.setState({ cut });
  board().scene?.cutOpen(cut && away(cut));
}

/** Cut across a datum plane's direction, through the middle of the part, or on a flat face that is chosen. */
export function cutAcross(named: string) {
  const face = chosenFlat();
  if (named === "face" && face) {
    const { normal, near } = face;
    const n = normal as [number, number, number];
    cutAt({ named, normal: n, at: near[0] * n[0] + near[1] * n[1] + near[2] * n[2] - 1e-3, turned: false });
    return;
  }
  const normal = (DATUMS[named] ?? DATUMS.front).normal as XYZ;
  const [low, high] = span(normal);
  cutAt({ named, normal, at: (low + high) / 2, turned: false });
}

/** The flat face that is chosen, if one thing is chosen and it is one. */
export function chosenFlat() {
  const { picks, scene } = board();
  const pick = picks.length === 1 && picks[0].kind === "face" ? picks[0] : null;
  const face = pick && scene?.bodies()[pick.body]?.faces[pick.face];
  return face?.normal ? face : null;
}

export function drawAs(how: Drawn) {
  useBoard.setState({ drawn: how });
  board().scene?.draws(how);
}

function nextDrawn() {
  const all = Object.keys(DRAWN) as Drawn[];
  drawAs(all[(all.indexOf(board().drawn) + 1) % all.length]);
}

export async function hide(hidden: string[]) {
  useBoard.setState({ hidden, picks: [], hover: null });
  await showBodies();
}

const pickedBodies = () => [...new Set(board().picks.map((p) => board().scene?.bodies()[p.body]?.id ?? ""))];
const bodyIds = () => (board().build?.bodies ?? []).map((b) => b.id);

let turn = 0;

export function startMeasuring() {
  enter({ measuring: true });
  ask();
}

export function stopMeasuring() {
  turn += 1;
  if (!board().measuring) return;
  enter({ picks: [] });
  board().scene?.mark(null, []);
}

/** Something was pointed at while measuring: the second thing goes with the first, the third starts anew. */
export function measureAlso(pick: Pick | null) {
  const { picks, scene } = board();
  const now = pick ? (picks.length === 1 ? [picks[0], pick] : [pick]) : [];
  useBoard.setState({ picks: now });
  scene?.mark(pick, now);
  ask();
}

/** The whole body of what is pointed at. */
export function measureBody() {
  const body = board().scene?.bodies()[board().picks[0]?.body ?? 0];
  if (body) send([{ body: body.id, kind: "body", index: 0 }]);
}

function ask() {
  const { picks, scene } = board();
  const bodies = scene?.bodies() ?? [];
  const chosen = picks.slice(0, 2).filter((p) => bodies[p.body]);
  if (!chosen.length) {
    turn += 1;
    useBoard.setState({ measured: null });
    return;
  }
  send(
    chosen.map((p) => ({
      body: bodies[p.body].id,
      kind: p.kind,
      index: p.kind === "face" ? p.face : p.kind === "edge" ? p.edge : 0,
      at: p.kind === "edge" ? null : (p.at.toArray() as [number, number, number]),
    })),
  );
}

/** What was pointed at as it is kept in a callout, to be found again on a part that has changed. */
function spotOf(p: Pick, body: Body, behind: boolean): Spot {
  if (p.kind === "face") {
    const { origins, ring, near } = faceRef(body, p.face);
    const at = behind && p.at ? (p.at.toArray() as [number, number, number]) : near;
    return { kind: "face", body: "", origins: [origins], ring, near: at };
  }
  const { between, near } = edgeRef(body, p.edge);
  const at = p.kind === "corner" ? (p.at.toArray() as [number, number, number]) : near;
  return { kind: p.kind, body: "", origins: between.map((f) => f.origins), near: at };
}

/** How the figure is measured again: the places pointed at, and its name. */
function gaugedBy(figure: Measured["figures"][number]) {
  const { picks, scene } = board();
  const bodies = scene?.bodies() ?? [];
  const spots = picks.slice(0, 2).map((p) => spotOf(p, bodies[p.body], figure.name.startsWith("material")));
  return { spots, figure: figure.name };
}

/** A callout that nothing uses is measured by what was pointed at, with every build. */
export async function proveBy(callout: Callout, figure: Measured["figures"][number]) {
  if (await run({ do: "gauge_callout", callout: callout.id, gauged: gaugedBy(figure) })) stopMeasuring();
}

/** A figure that was measured becomes a callout: from now on it is measured with every build. */
export async function calloutOf(figure: Measured["figures"][number]) {
  const { part } = board();
  const callouts = part!.document.callouts ?? [];
  const number = Math.max(0, ...callouts.map((c) => c.number)) + 1;
  const id = `b${Math.max(0, ...callouts.map((c) => Number(c.id.slice(1)))) + 1}`;
  const callout = { id, number, text: figure.callout, gauged: gaugedBy(figure) };
  if (await run({ do: "set_callout", callout }))
    showMessage(`Callout ${number}, ${figure.callout}: measured with every build from now on.`);
}

/** A figure that was measured goes on the drawing, where it follows the part. */
export async function onDrawing(figure: Measured["figures"][number]) {
  if (await run({ do: "add_size", gauged: gaugedBy(figure), text: "" }))
    showMessage(`${figure.text} is on the drawing now, and follows the part.`);
}

async function send(picks: components["schemas"]["PickIn"][]) {
  turn += 1;
  const mine = turn;
  const { part } = board();
  try {
    const measured = await post<Measured>(`/api/parts/${part!.id}/measure`, { picks });
    if (mine === turn && board().measuring && stillAt(part!)) useBoard.setState({ measured });
  } catch (error) {
    if (mine !== turn || !stillAt(part!)) return;
    useBoard.setState({ measured: null });
    showMessage((error as Refused).sentence ?? "This could not be measured; try again.", "red");
  }
}

const shown = () => (board().build?.bodies?.length ?? 0) > 0;

export const LOOKING_ACTIONS: Action[] = [
  {
    id: "measure",
    words: "Measure",
    keys: "v m",
    group: "view",
    when: () => shown() && !working(),
    run: () => (board().measuring ? stopMeasuring() : startMeasuring()),
  },
  {
    id: "section",
    words: "Cut open (section)",
    keys: "v c",
    group: "view",
    when: shown,
    run: () => (board().cut ? cutAt(null) : cutAcross(chosenFlat() ? "face" : "front")),
  },
  {
    id: "drawn",
    words: "Draw the part another way",
    keys: "v d",
    group: "view",
    when: shown,
    run: nextDrawn,
  },
  {
    id: "four",
    words: "Four views at once, or one",
    keys: "v q",
    group: "view",
    when: () => shown() && !board().sketch,
    run: fourViews,
  },
  {
    id: "hide",
    words: "Hide this body",
    keys: "v h",
    group: "view",
    when: () => board().picks.length > 0,
    run: () => hide([...board().hidden, ...pickedBodies()]),
  },
  {
    id: "only",
    words: "Show only this body",
    keys: "v o",
    group: "view",
    when: () => board().picks.length > 0 && bodyIds().length > 1,
    run: () => hide(bodyIds().filter((b) => !pickedBodies().includes(b))),
  },
  {
    id: "show-all",
    words: "Show all bodies",
    keys: "v a",
    group: "view",
    when: () => board().hidden.length > 0,
    run: () => hide([]),
  },
];
