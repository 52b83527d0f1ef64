/** What the pointer does on the board: pointing, pressing, turning, dragging, pulling a window. Nothing of the page is
 * needed for it, so that it can be driven without one. */
import type { XY } from "../api/types";
import { handle, setView } from "../camera/viewControl";
import { unapply } from "../geometry/affine";
import { said } from "../geometry/geometry";
import { allUnder } from "../geometry/snap";
import { measureAlso } from "../inspect/measure";
import { caught, touch } from "../sketch/catch";
import { dragDropped, dragEnd, dragStart, dragTo } from "../sketch/drag";
import { openSketch } from "../sketch/openSketch";
import { edgesToUse } from "../sketch/partEdges";
import { working } from "../state/mode";
import {
  affine,
  board,
  clearMessage,
  editable,
  showMessage,
  sketchOf,
  sketchStep,
  stepOf,
  useBoard,
} from "../state/store";
import { copyUnder, turnPlace } from "../steps/copyUnder";
import { pointAt } from "../steps/picks";
import { activeSlot } from "../steps/slots";
import { orbit, pan, zoom } from "../view/camera";
import { within } from "../view/panes";
import type { Pick } from "../view/pointed";
import { inWindow } from "../view/window";

/** A pointer over the board: pixels from its upper left corner, the button that went down, the keys that are held. */
export interface At {
  at: XY;
  button?: number;
  more?: boolean; // what is pressed is taken besides what is chosen
  free?: boolean; // inference is held off
  panning?: boolean;
}

interface Hold {
  kind: "turn" | "pan" | "drag" | "press" | "window" | "sweep";
  from: XY;
  last: XY;
  ref?: string;
  offset?: XY; // from the pointer to the point that is dragged, mm
  moved: boolean;
}

const picksKey = (picks: Pick[]) =>
  picks
    .map((p) => {
      const which = p.kind === "face" ? p.face : p.kind === "edge" ? p.edge : p.at.toArray();
      return `${p.kind}${p.body}.${which}`;
    })
    .join();

/** Which of the things under the pointer is meant: the one stepped to, as long as the same things lie there. */
function pointedAt(now: string, before: string): number {
  if (now !== before) useBoard.setState({ stepped: 0 });
  return board().stepped;
}

/** A window stays in the pane it was begun in. */
const inPane = (at: XY): XY => {
  const { panes, pane } = board();
  return panes ? within(panes[pane], at) : at;
};

/** A pull of the tool in hand has come to a place on the board. */
function swept(m: ReturnType<typeof affine>, at: XY) {
  const here = m && unapply(m, at);
  if (here) board().tool?.sweep(here);
}

const upper = (text: string) => text[0].toUpperCase() + text.slice(1);

export class BoardPointer {
  private hold: Hold | null = null;
  private rest: XY | null = null; // where the pointer rests on the board

  /** ``sizeAt``: the size whose text stands at a place, as it is drawn. */
  constructor(private sizeAt: (at: XY) => string | null) {}

  private sizeUnder(at: XY): string[] {
    const found = board().tool ? null : this.sizeAt(at);
    return found ? [found] : [];
  }

  private point(at: XY, free: boolean, moved = true) {
    const s = board();
    const m = affine(s);
    if (s.sketch && m) {
      const own = sketchOf(sketchStep(s)).entities ?? [];
      const here = [...this.sizeUnder(at), ...allUnder(at, own, m)];
      // a size may go to an edge of the part that is not in the sketch yet: what is drawn comes first
      if (s.tool?.id === "dimension") here.push(...allUnder(at, edgesToUse(), m).filter((r) => r[0] === "z"));
      const index = pointedAt(here.join(), s.sketchUnder.join());
      useBoard.setState({ sketchUnder: here, under: here[index] ?? null, pointer: unapply(m, at) });
      if (s.tool) {
        const found = caught(at, free);
        if (found) {
          if (moved) touch(found);
          s.tool.move(found);
        }
      }
      return;
    }
    const copy = copyUnder(at);
    if (copy || s.guide?.startsWith("Place ")) useBoard.setState({ guide: copy?.words ?? null });
    const here = s.scene?.pickAll(at, s.draft ? activeSlot()?.slot.kind === "points" : s.measuring) ?? [];
    const index = pointedAt(picksKey(here), picksKey(s.solidUnder));
    const pick = here[index] ?? null;
    if (picksKey(pick ? [pick] : []) !== picksKey(s.hover ? [s.hover] : [])) s.scene?.mark(pick, s.picks);
    useBoard.setState({ hover: pick, solidUnder: here });
  }

  /** What lies under a resting pointer changes when the view or the part does. */
  again() {
    if (this.rest && !this.hold) this.point(this.rest, false, false);
  }

  down({ at, button = 0, free = false, panning = false }: At) {
    handle(at);
    if (button === 2) this.hold = { kind: "turn", from: at, last: at, moved: false };
    else if (button === 1 || panning) this.hold = { kind: "pan", from: at, last: at, moved: false };
    else {
      this.point(at, free);
      const s = board();
      const ref = s.under;
      const window = s.sketch ? !s.tool && !ref : (!s.draft || activeSlot() !== null) && !s.hover;
      const loose = ref && s.sketch && !s.tool && editable() && !/^(origin|x|y|d\d+)$/.test(ref);
      this.hold = {
        kind: s.tool?.sweeps() ? "sweep" : loose ? "drag" : window ? "window" : "press",
        from: at,
        last: at,
        ref: ref?.replace(/\.mid$/, ""),
        moved: false,
      };
    }
  }

  move({ at, free = false }: At) {
    this.rest = at;
    const h = this.hold;
    if (!h) {
      handle(at);
      this.point(at, free);
      return;
    }
    const [dx, dy] = [at[0] - h.last[0], at[1] - h.last[1]];
    h.last = at;
    const begins = !h.moved && Math.hypot(at[0] - h.from[0], at[1] - h.from[1]) > 4;
    h.moved ||= begins;
    if (h.kind === "turn") setView(orbit(board().view, dx, dy));
    else if (h.kind === "pan") setView(pan(board().view, dx, dy));
    else if (h.kind === "sweep") {
      const m = affine();
      if (begins) swept(m, h.from);
      if (h.moved) swept(m, at);
    } else if (h.kind === "drag" && h.moved) {
      if (begins) {
        const state = board().part?.sketches[board().sketch ?? ""];
        const held = h.ref!.split(".")[0];
        if (state && !state.loose.includes(held)) {
          showMessage(
            `${upper(said(held))} cannot move: its sizes and constraints hold it. Change or delete one of them.`,
          );
          this.hold = { ...h, kind: "press" };
          return;
        }
        clearMessage();
        this.grip(h);
        dragStart(h.ref!);
      }
      const to = this.pulled(h, at);
      if (to) dragTo(to);
    } else if (h.kind === "window") useBoard.setState({ window: h.moved ? [h.from, inPane(at)] : null });
    else this.point(at, free);
  }

  /** A line is dragged by its start, which keeps its distance from the pointer. */
  private grip(h: Hold) {
    const entity = (sketchOf(sketchStep()).entities ?? []).find((x) => x.id === h.ref);
    const m = affine();
    if (entity?.kind !== "line" || !m) return;
    const from = unapply(m, h.from);
    if (from) h.offset = [entity.p[0] - from[0], entity.p[1] - from[1]];
    h.ref = `${h.ref}.p`;
  }

  private pulled(h: Hold, at: XY): XY | null {
    const m = affine();
    const to = m && unapply(m, at);
    return to && [to[0] + (h.offset?.[0] ?? 0), to[1] + (h.offset?.[1] ?? 0)];
  }

  private takeWindow(from: XY, to: XY, more: boolean) {
    const s = board();
    const m = affine(s);
    useBoard.setState({ window: null });
    if (!s.sketch) {
      const taken = s.scene?.inside(from, to, s.windowTouches) ?? [];
      if (activeSlot()) {
        const wanted = activeSlot()!.slot.kind === "edges" ? "edge" : "face";
        for (const pick of taken) if (pick.kind === wanted) pointAt(pick);
        return;
      }
      const picks = more ? [...s.picks, ...taken] : taken;
      useBoard.setState({ picks });
      s.scene?.mark(null, picks);
      return;
    }
    if (!m) return;
    const taken = inWindow(sketchOf(sketchStep(s)).entities ?? [], m, from, to, s.windowTouches);
    useBoard.setState({ chosen: more ? [...new Set([...s.chosen, ...taken])] : taken });
  }

  up({ at, button = 0, more = false, free = false }: At) {
    const h = this.hold;
    this.hold = null;
    if (!h) return;
    if (h.kind === "sweep" && h.moved) {
      board().tool?.swept();
      return;
    }
    if (h.kind === "drag" && h.moved) {
      const to = this.pulled(h, at);
      if (to) dragEnd(h.ref!, to);
      return;
    }
    if (h.kind === "window" && h.moved) {
      this.takeWindow(h.from, inPane(at), more);
      return;
    }
    if (h.moved || button !== 0 || h.kind === "pan") return;
    this.press(at, more, free);
  }

  private press(at: XY, more: boolean, free: boolean) {
    const s = board();
    const m = affine(s);
    if (s.sketch && m) {
      if (s.tool) {
        const found = caught(at, free);
        if (found) s.tool.click(found);
        return;
      }
      const ref = s.under;
      clearMessage();
      if (!ref) useBoard.setState({ chosen: more ? s.chosen : [] });
      else if (more)
        useBoard.setState({
          chosen: s.chosen.includes(ref) ? s.chosen.filter((r) => r !== ref) : [...s.chosen, ref],
        });
      else useBoard.setState({ chosen: [ref] });
      return;
    }
    this.point(at, false);
    const pick = board().hover;
    if (s.draft) {
      clearMessage();
      const copy = copyUnder(at);
      if (copy) turnPlace(copy.place);
      else pointAt(pick);
      return;
    }
    if (s.measuring) {
      clearMessage();
      measureAlso(pick);
      return;
    }
    const picks = pick ? (more ? [...s.picks, pick] : [pick]) : [];
    useBoard.setState({ picks });
    s.scene?.mark(pick, picks);
  }

  double() {
    const s = board();
    if (working(s)) return;
    const pick = s.picks[0];
    if (pick?.kind !== "face") return;
    const origin = s.scene?.bodies()[pick.body]?.faces[pick.face]?.origins[0];
    const step = origin ? stepOf(s.part, origin.split("/")[0]) : null;
    if (step && "regions" in step && stepOf(s.part, step.sketch)) openSketch(step.sketch);
  }

  /** What was begun is taken away from the hand: the system asks for the pointer, or the page loses the focus. */
  interrupt() {
    const h = this.hold;
    this.hold = null;
    if (h?.kind === "drag" && h.moved) dragDropped();
    else if (h?.kind === "sweep") board().tool?.interrupt();
    else if (h?.kind === "window") useBoard.setState({ window: null });
  }

  leave() {
    this.rest = null;
    useBoard.setState({ hover: null, under: null, pointer: null, sketchUnder: [], solidUnder: [] });
    board().scene?.mark(null, board().picks);
  }

  /** ``by``: how far the wheel was turned, in pixels. */
  wheel(at: XY, by: number) {
    setView(zoom(board().view, Math.exp(-by * 0.0015), at));
  }
}
