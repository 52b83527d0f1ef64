import type { XY } from "../../api/types";
import { add, dist, mul, sub } from "../../geometry/geometry";
import type { Lead, Snap, Tie } from "../../geometry/ties";
import type { Ghost, Typed } from "../../state/toolInHand";
import { type Bow, bow, leaving } from "./bow";
import { Batch, entitiesNow, perUnit, redraw, Tool, unitName } from "./tool";

type Start = { at: XY; ties: Tie[]; ref: string | null };

/** What the typed values mean. */
const ENTRIES = ["length and angle", "X and Y from the last point", "X and Y from the origin"] as const;

/** Chained lines: idle → placing → placing …; closing on the chain's first point ends it.
 * From an end that is there already the next piece can be a tangent arc instead. */
export class LineTool extends Tool {
  readonly standsAnywhere = true;
  readonly id: string;
  readonly label: string;
  private start: Start | null = null;
  private first: XY | null = null;
  private ahead: XY | null = null; // where the next line starts, while the one before is being stored
  private waiting: Snap[] = []; // presses that came meanwhile
  private left = false; // the chain was left meanwhile
  private chained = false; // a piece of the chain is drawn
  private round: boolean;
  private entry = 0;

  constructor(round = false) {
    super();
    this.id = round ? "tangent-arc" : "line";
    this.label = round ? "Tangent arc" : "Line";
    this.round = round;
  }

  hint() {
    if (!this.start)
      return this.round ? "press the end of a line or arc it goes on from" : "press where the line starts";
    const caught = this.snap ? ` · ${this.snap.words}` : "";
    if (this.round) return `press where the arc ends${caught}; a goes back to lines`;
    const arcs = this.start.ref ? "; a turns it into a tangent arc, Enter ends the chain" : "";
    return `press where it ends${caught}; type, Tab; x switches what is typed${arcs}`;
  }

  from() {
    return (this.left ? null : this.ahead) ?? this.start?.at ?? null;
  }

  straight() {
    return !this.round;
  }

  slides(): string | null {
    const ties = this.start?.ref ? [] : (this.start?.ties ?? []);
    const [only] = ties;
    return ties.length === 1 && only.kind === "coincident" && !/[.xy]/.test(only.ref ?? ".")
      ? only.ref
      : null;
  }

  /** Where the line begins: slid along the curve it starts on, unless its direction is typed. */
  private begin(): XY {
    const typed = ["angle", "x", "y"].some((k) => this.text(k));
    return (!typed && !this.ahead && this.snap?.start) || this.start!.at;
  }

  /** The direction in which what is there leaves the start. */
  lead(): Lead | null {
    const ref = this.start?.ref;
    const way = ref ? leaving(entitiesNow(), ref) : null;
    const id = ref?.split(".")[0] ?? "";
    return way && ref && id.startsWith("a") ? { ref: id, way } : null;
  }

  key(key: string): boolean {
    if (key === "a" && this.start?.ref) this.round = !this.round;
    else if (key === "x" && !this.round) this.entry = (this.entry + 1) % ENTRIES.length;
    else return false;
    this.clearTyped();
    this.follow();
    redraw();
    return true;
  }

  entryWords() {
    return this.start && !this.round ? ENTRIES[this.entry] : null;
  }

  protected follow() {
    if (!this.start || !this.snap || this.round) return;
    const d = sub(this.snap.at, this.begin());
    const k = perUnit();
    const field = (key: string, label: string, now: number, u: string = unitName()): Typed => ({
      key,
      label,
      text: this.written(key),
      now,
      unit: u,
    });
    if (this.entry === 0) {
      const angle = (Math.atan2(d[1], d[0]) * 180) / Math.PI;
      this.typed = [field("length", "Length", Math.hypot(...d) / k), field("angle", "Angle", angle, "°")];
    } else {
      const at = this.entry === 1 ? d : this.snap.at;
      this.typed = [field("x", "X", at[0] / k), field("y", "Y", at[1] / k)];
    }
  }

  /** A typed plain number with its sign, in mm; else what the pointer gives. */
  private signed(key: string, now: number): number {
    const n = Number(this.text(key).replace(",", "."));
    return this.text(key) && Number.isFinite(n) ? n * perUnit() : now;
  }

  private end(): XY | null {
    if (!this.start || !this.snap) return null;
    const begin = this.begin();
    const d = sub(this.snap.at, begin);
    if (this.entry === 1) return add(begin, [this.signed("x", d[0]), this.signed("y", d[1])]);
    if (this.entry === 2) return [this.signed("x", this.snap.at[0]), this.signed("y", this.snap.at[1])];
    const typedAngle = Number(this.text("angle"));
    const turn =
      this.text("angle") && Number.isFinite(typedAngle)
        ? (typedAngle * Math.PI) / 180
        : Math.atan2(d[1], d[0]);
    const size = this.value("length", Math.hypot(...d) / perUnit()) * perUnit();
    return add(begin, mul([Math.cos(turn), Math.sin(turn)], size));
  }

  private arc(): Bow | null {
    const way = this.start?.ref ? leaving(entitiesNow(), this.start.ref) : null;
    return way && this.snap ? bow(this.start!.at, way, this.snap.at) : null;
  }

  ghosts(): Ghost[] {
    if (!this.start || !this.snap) return this.snap ? [{ kind: "point", at: this.snap.at }] : [];
    if (this.round) {
      const a = this.arc();
      return a ? [{ kind: "arc", ...a }] : [{ kind: "line", p: this.start.at, q: this.snap.at }];
    }
    const q = this.end();
    return q ? [{ kind: "line", p: this.begin(), q }] : [];
  }

  click(s: Snap) {
    if (this.ahead) {
      this.waiting.push(s);
      return;
    }
    if (!this.start) {
      const end = s.ties.find(
        (t) => t.of === "point" && t.kind === "coincident" && /\.[pq]$/.test(t.ref ?? ""),
      );
      if (this.round && !end) return;
      this.start = { at: s.at, ties: s.ties, ref: end?.ref ?? null };
      this.first = s.at;
      redraw();
      return;
    }
    this.snap = s;
    if (this.round) {
      const a = this.arc();
      if (a) this.placeArc(this.start, a, s);
      return;
    }
    const q = this.end()!;
    const begin = this.begin();
    if (dist(q, begin) < 1e-6) return;
    if (this.first === this.start.at) this.first = begin;
    this.place({ ...this.start, at: begin }, q, s);
  }

  private async place(start: Start, q: XY, s: Snap) {
    const b = new Batch();
    const id = b.entity("l", { kind: "line", p: start.at, q });
    if (start.ref) b.tie("coincident", [start.ref, `${id}.p`], true);
    else b.snapped(start.ties, `${id}.p`);
    const [length, angle, x, y] = ["length", "angle", "x", "y"].map((k) => this.text(k));
    const typed = length || angle || x || y;
    const kept = typed ? s.ties.filter((t) => t.of === "line" && !angle && !x && !y) : s.ties;
    b.snapped(kept, `${id}.q`, id);
    if (angle) {
      const a = Math.abs(Number(angle.replace("°", "")));
      if (a === 0 || a === 180) b.tie("horizontal", [id]);
      else if (a === 90 || a === 270) b.tie("vertical", [id]);
      else b.size("angle", ["x", id], angle.replace(/^-/, ""));
    }
    if (length) b.size("distance", [id], length);
    const from = this.entry === 2 ? "origin" : `${id}.p`;
    for (const [text, along, level] of [
      [x, "horizontal", "vertical"],
      [y, "vertical", "horizontal"],
    ] as const) {
      if (!text) continue;
      if (Number(text.replace(",", ".")) === 0)
        b.tie(level, from === "origin" ? ["origin", `${id}.q`] : [id]);
      else b.size("distance", [from, `${id}.q`], text.replace(/^\s*-/, ""), { along });
    }
    await this.goOn(b, start, q, `${id}.q`);
  }

  private async placeArc(start: Start, a: Bow, s: Snap) {
    const b = new Batch();
    const id = b.entity("a", { kind: "arc", c: a.c, r: a.r, p: a.p, q: a.q });
    const [near, far] = a.forward ? ["p", "q"] : ["q", "p"];
    b.tie("coincident", [start.ref!, `${id}.${near}`]);
    b.tie("tangent", [start.ref!.split(".")[0], id]);
    b.snapped(
      s.ties.filter((t) => t.of === "point"),
      `${id}.${far}`,
    );
    this.round = this.id === "tangent-arc";
    await this.goOn(b, start, s.at, `${id}.${far}`);
  }

  private async goOn(b: Batch, start: Start, q: XY, ref: string) {
    this.ahead = q;
    this.chained = true;
    this.clearTyped();
    const done = await b.store();
    this.ahead = null;
    const closed = this.first && dist(this.first, q) < 1e-6;
    this.start = this.left ? null : done && !closed ? { at: q, ties: [], ref } : done ? null : start;
    this.chained = this.start !== null;
    redraw();
    const waiting = done || this.left ? this.waiting : [];
    this.waiting = [];
    this.left = false;
    for (const s of waiting) this.click(s);
  }

  /** Enter with nothing typed ends the chain; the tool stays in hand for another. */
  enter() {
    if (this.places.length || this.typed.some((t) => t.text)) super.enter();
    else this.endChain();
  }

  /** A chain ends with one Esc as a circle does; only what is merely begun is let go first. */
  back() {
    if (!this.start && !this.ahead) return false;
    const { chained } = this;
    this.endChain();
    return !chained;
  }

  private endChain() {
    this.start = null;
    this.chained = false;
    this.left = this.ahead !== null;
    this.waiting = [];
    this.round = this.id === "tangent-arc";
    this.clearTyped();
    redraw();
  }
}
