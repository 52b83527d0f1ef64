/** What every drawing tool is: a small state machine fed with snaps, typed values and keys. */

import { type Entity, isSketch, type XY } from "../../api/types";
import { fit } from "../../camera/viewControl";
import { run } from "../../document/commands";
import { apply } from "../../geometry/affine";
import { pointRefs } from "../../geometry/geometry";
import type { Lead, Snap, Tie } from "../../geometry/ties";
import { roughly, unprefixed } from "../../geometry/typed";
import { affine, board, type CommandDraft, freshId, sketchOf, sketchStep, useBoard } from "../../state/store";
import type { Ghost, ToolInHand, Typed } from "../../state/toolInHand";
import { broughtIn } from "../partEdges";

type Json = Record<string, unknown>;
type Adding = Extract<CommandDraft, { do: "sketch_add" }>;

/** Collects what one command adds, with ids. */
export class Batch {
  entities: Json[] = [];
  constraints: Json[] = [];
  dimensions: Json[] = [];
  inferred: string[] = [];
  projections: NonNullable<Adding["projections"]> = [];
  private links: { callout: string; field: string }[] = [];
  private feeds = [...(board().tool?.feeds ?? [])]; // of the values typed for what is made here
  private count: Record<string, number> = {};
  private used = new Map<string, string>();

  id(letter: string): string {
    const n = this.count[letter] ?? 0;
    this.count[letter] = n + 1;
    return freshId(letter, n);
  }

  entity(letter: string, data: Json): string {
    const id = this.id(letter);
    this.entities.push({ id, ...data });
    return id;
  }

  /** A ref as it is stored: one that names an edge of the part (z3, z3.p) brings that edge in, only to place things
   * (``reference``) or as an outline; one that names the middle of a line (l3.mid) is a point put there. */
  private real(ref: string, reference = false): string {
    const [edge, end] = ref.split(".");
    if (end === "mid") return this.middle(this.real(edge, reference));
    if (!/^z\d+$/.test(edge)) return ref;
    const n = Number(edge.slice(1));
    // what is caught only by its centre places something: it is no outline
    const places = reference || end === "c";
    // between the press and now it may have been brought in
    if (!this.used.has(edge)) this.used.set(edge, broughtIn(n) ?? this.edge(n, places));
    const fresh = this.entities.find((e) => e.id === this.used.get(edge));
    if (fresh && !places) fresh.construction = Boolean(board().partEdges[n].entity.construction);
    return end ? `${this.used.get(edge)}.${end}` : this.used.get(edge)!;
  }

  private middle(line: string): string {
    const known = (this.constraints as { kind?: string; refs?: string[] }[])
      .concat((sketchOf(sketchStep()).constraints ?? []) as { kind: string; refs: string[] }[])
      .find((c) => c.kind === "midpoint" && c.refs?.[1] === line && /^p\d+$/.test(c.refs[0]));
    if (known) return known.refs![0];
    const at = (this.entities as unknown as Entity[]).concat(entitiesNow()).find((e) => e.id === line);
    if (at?.kind !== "line") return line;
    const id = this.entity("p", { kind: "point", at: [(at.p[0] + at.q[0]) / 2, (at.p[1] + at.q[1]) / 2] });
    this.constraints.push({ id: this.id("k"), kind: "midpoint", refs: [id, line] });
    return id;
  }

  /** Bring in an edge of the part, by its place in the list of those on offer. */
  edge(n: number, construction: boolean): string {
    const offered = board().partEdges[n];
    const { id: like, ...data } = offered.entity;
    const id = this.entity(like[0], { ...data, construction });
    this.projections.push({ of: offered.of, entity: id });
    return id;
  }

  tie(kind: string, refs: string[], inferred = false): string {
    const id = this.id("k");
    this.constraints.push({ id, kind, refs: refs.map((r) => this.real(r)) });
    if (inferred) this.inferred.push(id);
    return id;
  }

  size(kind: string, refs: string[], expr: string, more: Json = {}): string {
    const id = this.id("d");
    const fed = this.feeds.findIndex((f) => expr === f.text || expr === unprefixed(f.text));
    if (fed >= 0) this.links.push({ callout: this.feeds.splice(fed, 1)[0].callout, field: id });
    this.dimensions.push({ id, kind, refs: refs.map((r) => this.real(r, true)), expr, ...more });
    return id;
  }

  /** A point put where it was typed: its sizes from the origin; on an axis where one is 0. */
  private standing(ref: string, x: string, y: string) {
    const zero = (text: string) => Number(text.replace(",", ".")) === 0;
    if (zero(x) && zero(y)) this.tie("coincident", ["origin", ref]);
    else
      for (const [text, along, level] of [
        [x, "horizontal", "vertical"],
        [y, "vertical", "horizontal"],
      ] as const)
        if (zero(text)) this.tie(level, ["origin", ref]);
        else this.size("distance", ["origin", ref], text.replace(/^\s*-/, ""), { along });
  }

  /** The ties a snap brought, for the point ``ref`` and the line ``line`` that ends there. */
  snapped(ties: Tie[], ref: string, line: string | null = null) {
    for (const t of ties) {
      if (t.kind === "typed") this.standing(ref, t.x ?? "0", t.y ?? "0");
      else if (t.of === "point" && t.ref) this.tie(t.kind, [ref, t.ref], true);
      if (t.of === "line" && line)
        this.tie(t.kind, !t.ref ? [line] : t.kind === "coincident" ? [t.ref, line] : [line, t.ref], true);
    }
  }

  command(): CommandDraft {
    const links = this.links.map((l) => ({ do: "link_callout" as const, step: board().sketch!, ...l }));
    return links.length ? { do: "together", commands: [this.adding(), ...links] } : this.adding();
  }

  private adding(): Adding {
    return {
      do: "sketch_add",
      step: board().sketch!,
      entities: this.entities as Adding["entities"],
      constraints: this.constraints as Adding["constraints"],
      dimensions: this.dimensions as Adding["dimensions"],
      inferred: this.inferred,
      ...(this.projections.length ? { projections: this.projections } : {}),
    };
  }

  /** Typed sizes can reach beyond what is seen: the board follows. */
  async store(): Promise<boolean> {
    const done = await run(this.command(), true);
    if (!done || !this.dimensions.length) return done;
    const made = new Set(this.entities.map((e) => e.id));
    const m = affine();
    const { view, foot } = board();
    const out = entitiesNow().some(
      (e) =>
        made.has(e.id) &&
        pointRefs(e).some(([, p]) => {
          const [x, y] = m ? apply(m, p) : [0, 0];
          return x < 0 || y < 0 || x > view.width || y > view.height - foot;
        }),
    );
    if (out) fit();
    return done;
  }
}

const PLACE = ["X", "Y"] as const;

export abstract class Tool implements ToolInHand {
  abstract readonly id: string;
  abstract readonly label: string;
  /** Whether it places points, so that what a press would catch is worth showing. */
  readonly catches: boolean = true;
  snap: Snap | null = null;
  typed: Typed[] = [];
  /** X and Y of the next point, while they are typed; for a tool that ``standsAnywhere``. */
  places: Typed[] = [];
  readonly standsAnywhere: boolean = false;
  feeds: { callout: string; text: string }[] = []; // callouts that gave typed values

  /** What the next click will do, in words. */
  abstract hint(): string;
  abstract ghosts(): Ghost[];
  abstract click(s: Snap): void;

  /** A letter pressed while the tool is in hand; true if the tool takes it. */
  key(_key: string): boolean {
    return false;
  }

  /** What the typed values mean, where that can be switched. */
  entryWords(): string | null {
    return null;
  }

  /** The direction in which a curve runs up to where a line being drawn starts. */
  lead(): Lead | null {
    return null;
  }

  /** Where a line being drawn starts, for inference. */
  from(): XY | null {
    return null;
  }

  /** Whether it draws a straight line from there, which may touch curves. */
  straight(): boolean {
    return false;
  }

  /** The curve the start of the line being drawn lies on and can slide along. */
  slides(): string | null {
    return null;
  }

  /** Whether it takes a sweep with the button held; ``swept`` gets what was passed over (mm), on letting go. */
  sweeps(): boolean {
    return false;
  }

  sweep(_at: XY) {}
  swept() {}

  /** The pointer was taken away in the middle of a sweep: nothing is done with what was passed over. */
  interrupt() {}

  move(s: Snap) {
    this.snap = s;
    this.follow();
    redraw();
  }

  /** Values under the pointer have changed. */
  protected follow() {}

  /** Begin to type where the next point stands; true if this tool takes that just now. */
  typePlace(begun: string): boolean {
    if (!this.standsAnywhere || this.typed.length) return false;
    const at = this.snap?.at ?? [0, 0];
    this.places = PLACE.map((label, i) => ({
      key: `place${label}`,
      label,
      text: i ? "" : begun,
      now: at[i] / perUnit(),
      unit: unitName(),
    }));
    redraw();
    return true;
  }

  /** Put the point where X and Y say; what is left empty follows the pointer. */
  private placeTyped() {
    const at = this.snap?.at ?? [0, 0];
    const texts = this.places.map((p, i) => p.text.trim() || String(Number((at[i] / perUnit()).toFixed(3))));
    const [x, y] = texts.map((t, i) => {
      const n = Number(t.replace(",", "."));
      return Number.isFinite(n) ? n * perUnit() : at[i];
    });
    this.places = [];
    const typed: Tie = { of: "point", kind: "typed", ref: null, x: texts[0], y: texts[1] };
    const s: Snap = { at: [x, y], ties: [typed], words: "typed" };
    this.click(s);
    this.move({ ...s, ties: [] });
  }

  /** Enter with typed values: place what they say. */
  enter() {
    if (this.places.length) this.placeTyped();
    else if (this.snap && this.typed.some((t) => t.text)) this.click(this.snap);
  }

  type(key: string, text: string) {
    this.places = this.places.map((t) => (t.key === key ? { ...t, text } : t));
    this.typed = this.typed.map((t) => (t.key === key ? { ...t, text } : t));
    this.follow();
    redraw();
  }

  /** A callout pressed on the sheet goes into the value that has the focus, else into the first that is empty. */
  feed(callout: string, text: string): boolean {
    const focused = (document.activeElement as HTMLElement | null)?.dataset?.typed;
    const field =
      this.typed.find((t) => t.key === focused && !t.text) ??
      this.typed.find((t) => !t.text && t.unit !== "letters") ??
      this.typed.find((t) => t.key === focused);
    if (!field) return false;
    this.feeds = [...this.feeds, { callout, text }];
    this.type(field.key, text);
    const next = this.typed.find((t) => !t.text) ?? field;
    setTimeout(() => document.querySelector<HTMLInputElement>(`[data-typed="${next.key}"]`)?.focus());
    return true;
  }

  /** Step back one level; false when there is nothing to step back from. */
  back(): boolean {
    return false;
  }

  /** What stands in a field, letter by letter: the space in “1 1/4” is on its way to being one. */
  protected written(key: string): string {
    return this.typed.find((t) => t.key === key)?.text ?? "";
  }

  protected text(key: string): string {
    return this.written(key).trim();
  }

  /** A typed plain number, or what the pointer gives: for the ghost only, the core works the value out. */
  protected value(key: string, now: number): number {
    if (!this.text(key)) return now;
    const n = roughly(unprefixed(this.text(key)));
    return n !== null && n > 0 ? n : now > 1e-6 ? now : 10; // no size is not nothing: the core moves it
  }

  protected clearTyped() {
    this.typed = [];
    this.feeds = [];
  }
}

export function redraw() {
  useBoard.setState({ tick: board().tick + 1 });
}

export function takeTool(tool: Tool | null) {
  useBoard.setState({ tool, touched: [], chosen: [], field: null });
}

export const unitName = () => board().part?.document.unit ?? "mm";
export const perUnit = () => (unitName() === "in" ? 25.4 : 1);

export const entitiesNow = (): Entity[] => {
  const s = board();
  const step = (s.part?.document.steps ?? []).find((x) => x.id === s.sketch);
  return step && isSketch(step) ? (step.sketch?.entities ?? []) : [];
};
