/** The sizes that a face or an edge of the part hangs on: of the sketch it was drawn in, and of the steps it came from. */
import type { SketchState, Step } from "../api/types";
import { run } from "../document/commands";
import { catalogue, kindOf, look, put, slotsOf } from "../state/catalogue";
import { board, numberOf, stepOf } from "../state/store";
import type { Pick } from "../view/pointed";

export interface Size {
  key: string;
  label: string; // what it is, for the reader
  text: string; // as it was typed
  step: string;
  dimension?: string;
  path?: string;
}

const VALUES = ["length", "angle", "count"];
const STEP = /^s\d+$/;

/** Origins of what was picked: a face's, or those of both faces an edge lies between. */
export function originsOf(pick: Pick): string[] {
  const body = board().scene?.bodies()[pick.body];
  if (!body || pick.kind === "corner") return [];
  const faces = pick.kind === "face" ? [pick.face] : body.edges[pick.edge].faces;
  return [...new Set(faces.flatMap((f) => body.faces[f]?.origins ?? []))];
}

/** Every size those origins speak of, each once. */
export function sizesFor(origins: string[]): Size[] {
  const found = new Map<string, Size>();
  const add = (size: Size) => found.set(size.key, size);
  for (const origin of origins) {
    // what came from a face takes its origin along: every step named in it has a say
    const names = origin.split("/");
    names.forEach((name, i) => {
      const step = STEP.test(name) ? stepOf(board().part, name) : null;
      if (step) ofStep(step, names[i + 1], names[i + 2]).forEach(add);
    });
  }
  return [...found.values()];
}

function ofStep(step: Step, role: string | undefined, what: string | undefined): Size[] {
  const grown = kindOf(step).source === "regions";
  // a wall has the sizes that place it, then how deep or how far round it goes
  if (grown && "sketch" in step && typeof step.sketch === "string" && role === "side" && what)
    return [...drawn(step.sketch, what), ...own(step)];
  return own(step);
}

const owner = (ref: string) => ref.split(".")[0];
const ALIKE = ["equal", "concentric", "symmetric", "collinear"];

/** The dimensions of a sketch that say where one of its entities is: its own, those of what it is made like, then those
 * of what it is joined to. */
function drawn(ident: string, entity: string): Size[] {
  const { part } = board();
  const step = stepOf(part, ident);
  if (step?.kind !== "sketch") return [];
  const state = part!.sketches[ident] as SketchState | undefined;
  const ties = step.sketch?.constraints ?? [];
  const partners = (of: Set<string>, kinds: string[]) =>
    ties
      .filter((c) => kinds.includes(c.kind) && c.refs.some((r) => of.has(owner(r))))
      .flatMap((c) => (c.kind === "symmetric" ? c.refs.slice(0, 2) : c.refs).map(owner));
  const alike = new Set([entity]);
  for (let before = 0; alike.size > before; ) {
    before = alike.size;
    for (const other of partners(alike, ALIKE)) alike.add(other);
  }
  const joined = new Set(partners(new Set([entity]), ["coincident"]));
  const rank = (refs: string[]) => {
    const named = refs.map(owner);
    return named.includes(entity)
      ? 0
      : named.some((n) => alike.has(n))
        ? 1
        : named.some((n) => joined.has(n))
          ? 2
          : 3;
  };
  return (step.sketch?.dimensions ?? [])
    .filter((d) => d.driving !== false && rank(d.refs) < 3)
    .sort((a, b) => rank(a.refs) - rank(b.refs))
    .map((d) => ({
      key: `${ident} ${d.id}`,
      label: `${state?.words[d.id] ?? d.id}, sketch ${numberOf(part, ident)}`,
      text: d.expr,
      step: ident,
      dimension: d.id,
    }));
}

const NTH = ["first", "second", "third", "fourth", "fifth", "sixth", "seventh", "eighth", "ninth", "tenth"];

/** Which of several groups of a sentence a value stands in: “of the second group”. */
function inGroup(step: Step, path: string): string {
  const [, field, n] = /^(\w+)\.(\d+)\./.exec(path) ?? [];
  if (!field || ((look(step, field) as unknown[]) ?? []).length < 2) return "";
  return NTH[Number(n)] ? ` of the ${NTH[Number(n)]} group` : ` of group ${Number(n) + 1}`;
}

/** The values in a step's own sentence. */
function own(step: Step): Size[] {
  return slotsOf(catalogue().sentences[step.kind] ?? [], step)
    .filter(
      ({ slot, path }) =>
        VALUES.includes(slot.kind) && look(step, path) && !(slot.optional && look(step, path) === "0"),
    )
    .map(({ slot, path }) => ({
      key: `${step.id} ${path}`,
      label: `${slot.label.toLowerCase()}${inGroup(step, path)}, step ${numberOf(board().part, step.id)}`,
      text: String(look(step, path)),
      step: step.id,
      path,
    }));
}

/** Store another value for a size. */
export async function setSize(size: Size, text: string): Promise<boolean> {
  if (size.dimension)
    return run({
      do: "sketch_dimension",
      step: size.step,
      dimension: size.dimension,
      changes: { expr: text },
    });
  const step = stepOf(board().part, size.step);
  if (!step || !size.path) return false;
  const top = size.path.split(".")[0];
  return run({ do: "set_step", step: size.step, changes: { [top]: look(put(step, size.path, text), top) } });
}
