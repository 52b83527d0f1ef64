/** The kinds of step, as the core tells them: what starts one, and the sentence with slots each is edited in. */
import { get } from "../api/client";

export interface Option {
  value: string;
  words: string;
  gives: [string, string][];
  on: string; // how the words go on, where the sentence behind them is not seen
}

interface When {
  field: string;
  values: string[];
}

export interface Words {
  is: "words";
  text: string;
  when: When[];
}

export type SlotKind =
  | "length"
  | "angle"
  | "count"
  | "choice"
  | "flag"
  | "size"
  | "sketch"
  | "regions"
  | "faces"
  | "face"
  | "edges"
  | "plane"
  | "axis"
  | "steps"
  | "bodies"
  | "body"
  | "grid"
  | "points"
  | "text";

export interface Slot {
  is: "slot";
  field: string;
  kind: SlotKind;
  label: string;
  options: Option[];
  when: When[];
  optional: boolean;
  empty: string;
  count: number; // of points
}

export interface Group {
  is: "group";
  field: string;
  parts: (Words | Slot)[];
  add: string;
  between: string;
}

export type Part = Words | Slot | Group;

export interface Start {
  action: string;
  kind: string;
  words: string;
  keys: string;
  group: "build" | "refine" | "bodies";
  fresh: Record<string, unknown>;
  first: string;
  needs: "" | "sketch" | "body" | "bodies";
}

/** What there is to know of a kind of step (see core/sulvak_core/steps/kind.py). */
export interface StepKind {
  makes: "bodies" | "sketch" | "guide" | "names";
  called: string;
  source: "" | "regions" | "points" | "lines";
  downwards: boolean; // goes against the sketch's normal unless it is turned round
  repeatable: boolean;
  takes: Partial<Record<Chosen, string>>; // where what is chosen goes when one is started
}

/** What can be chosen before a step is started. */
export type Chosen =
  | "edges"
  | "faces"
  | "plane"
  | "axis"
  | "bodies"
  | "body"
  | "others"
  | "steps"
  | "centre_line";

interface Catalogue {
  kinds: Record<string, StepKind>;
  starts: Start[];
  sentences: Record<string, Part[]>;
  sizes: string[];
}

let known: Promise<Catalogue> | null = null;
let here: Catalogue = { kinds: {}, starts: [], sentences: {}, sizes: [] };

/** Ask for the kinds of step, once. */
export function loadCatalogue(): Promise<Catalogue> {
  known ??= get<Catalogue>("/api/step-kinds").then((c) => {
    here = c;
    return c;
  });
  known.catch(() => {
    known = null;
  });
  return known;
}

/** The kinds of step; empty until they are loaded. */
export const catalogue = () => here;

const UNKNOWN: StepKind = {
  makes: "bodies",
  called: "step",
  source: "",
  downwards: false,
  repeatable: false,
  takes: {},
};

/** What there is to know of a step's kind. */
export const kindOf = (step: { kind: string }): StepKind => here.kinds[step.kind] ?? UNKNOWN;

export type Data = Record<string, unknown>;

/** A field by its dotted path, numbers going into lists; ``x.set`` tells whether ``x`` holds anything. */
export function look(data: unknown, path: string): unknown {
  let found: unknown = data;
  for (const name of path.split(".")) {
    if (name === "set") return !isEmpty(found);
    found = (found as Data | undefined)?.[name];
  }
  return found;
}

export const isEmpty = (v: unknown) =>
  v === null || v === undefined || v === "" || v === "0" || (Array.isArray(v) && v.length === 0);

/** A copy with the field at a dotted path replaced. */
export function put<T>(data: T, path: string, value: unknown): T {
  const [name, ...rest] = path.split(".");
  const copy = (Array.isArray(data) ? [...data] : { ...data }) as Data;
  copy[name] = rest.length ? put(copy[name] ?? {}, rest.join("."), value) : value;
  return copy as T;
}

export const shows = (part: Words | Slot, data: unknown) =>
  part.when.every((w) => w.values.includes(String(look(data, w.field) ?? "").toLowerCase()));

/** What a length holds at first in a part in inches, for what it holds in mm. */
const INCHES: Record<string, string> = { "10": "1/2", "5": "1/4", "2": "1/16", "1": "1/32", "0.5": "1/64" };

/** A first length as the catalogue has it, for the part's unit. */
export const firstLength = (text: string, unit: string) => (unit === "in" ? (INCHES[text] ?? text) : text);

/** Fields of a kind of step that hold lengths, shown now or not, outside its groups. */
export const lengthFields = (kind: string): string[] =>
  (here.sentences[kind] ?? []).flatMap((p) => (p.is === "slot" && p.kind === "length" ? [p.field] : []));

/** A new step with its first lengths for the part's unit. */
export function withFirstLengths(step: Data, unit: string): Data {
  const groups = (here.sentences[String(step.kind)] ?? []).flatMap((p) =>
    p.is === "group"
      ? ((look(step, p.field) as unknown[]) ?? []).flatMap((_, i) =>
          p.parts.flatMap((x) =>
            x.is === "slot" && x.kind === "length" ? [`${p.field}.${i}.${x.field}`] : [],
          ),
        )
      : [],
  );
  return [...lengthFields(String(step.kind)), ...groups].reduce((now, field) => {
    const text = look(now, field);
    return typeof text === "string" ? put(now, field, firstLength(text, unit)) : now;
  }, step);
}

/** The name a callout's link knows a field by: the last name of its path; in a group numbered from the second on, in
 * another list named with it. As `field_name` in the core has it. */
export function linkName(path: string): string {
  const names = path.split(".");
  const last = names[names.length - 1];
  const at = names.findIndex((n) => /^\d+$/.test(n));
  if (at < 0) return last;
  const index = Number(names[at]);
  return `${names[at - 1] === "groups" ? "" : `${names[at - 1]}_`}${last}${index ? index + 1 : ""}`;
}

/** Sketches that steps are made from, whichever way they are. */
export function sketchesUsed(steps: { kind: string }[]): Set<string> {
  const found = steps.flatMap((s) => {
    const slots = slotsOf(here.sentences[s.kind] ?? [], s).filter(({ slot }) => slot.kind === "sketch");
    return [look(s, "sketch"), ...slots.map(({ path }) => look(s, path))];
  });
  return new Set(found.filter((id): id is string => typeof id === "string" && id !== ""));
}

/** Every slot shown for a step, with the whole path of its field. */
export function slotsOf(parts: Part[], data: unknown, before = ""): { slot: Slot; path: string }[] {
  const at = before ? look(data, before.slice(0, -1)) : data;
  return parts.flatMap((p) => {
    if (p.is === "group") {
      const items = (look(data, p.field) as unknown[]) ?? [];
      return items.flatMap((_, i) => slotsOf(p.parts, data, `${p.field}.${i}.`));
    }
    if (p.is === "words" || !shows(p, at)) return [];
    return [{ slot: p, path: before + p.field }];
  });
}
