/** The board itself: solids below, the sketch and the view's furniture above, pointer and wheel in one place. */
import { useEffect, useRef } from "react";
import type { XY } from "../api/types";
import { EachView, PaneNames } from "../camera/EachView";
import { ViewCross } from "../camera/ViewCross";
import { handle, resize, setView } from "../camera/viewControl";
import { showBodies } from "../document/builds";
import { unapply } from "../geometry/affine";
import { said } from "../geometry/geometry";
import { allUnder } from "../geometry/snap";
import { DatumPlanes } from "../inspect/DatumPlanes";
import { ExactLines } from "../inspect/ExactLines";
import { Guides } from "../inspect/Guides";
import { drawnExactly } from "../inspect/hiddenLines";
import { LookStrip, MeasuredLines } from "../inspect/LookStrip";
import { measureAlso } from "../inspect/measure";
import { caught, touch } from "../sketch/catch";
import { dragEnd, dragStart, dragTo } from "../sketch/drag";
import { openSketch } from "../sketch/openSketch";
import { edgesToUse } from "../sketch/partEdges";
import { SketchLayer } from "../sketch/SketchLayer";
import { TypedFields } from "../sketch/TypedFields";
import { ValueEditor } from "../sketch/ValueEditor";
import { kindOf } from "../state/catalogue";
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
  useResting,
} from "../state/store";
import { copyUnder, turnPlace } from "../steps/copyUnder";
import { Grips } from "../steps/Grips";
import { Mould } from "../steps/Mould";
import { Places } from "../steps/Places";
import { pointAt } from "../steps/picks";
import { RegionPicker } from "../steps/RegionPicker";
import { activeSlot } from "../steps/slots";
import { orbit, pan, toScreen, zoom } from "../view/camera";
import { within } from "../view/panes";
import type { Pick } from "../view/pointed";
import { BoardScene } from "../view/scene";
import { inWindow } from "../view/window";

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

export function Viewport() {
  const holder = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const hold = useRef<Hold | null>(null);
  const space = useRef(false);
  const rest = useRef<XY | null>(null); // where the pointer rests on the board
  const partId = useBoard((s) => s.part!.id);
  const view = useBoard((s) => s.view);
  const tool = useBoard((s) => s.tool);
  const sketch = useBoard((s) => s.sketch);

  useEffect(() => {
    const scene = new BoardScene(canvas.current!, partId, () => pointAgain.current(), drawnExactly);
    useBoard.setState({ scene });
    const size = () => {
      const box = holder.current!.getBoundingClientRect();
      scene.resize(box.width, box.height);
      resize(box.width, box.height);
    };
    const watch = new ResizeObserver(size);
    watch.observe(holder.current!);
    size();
    showBodies();
    return () => {
      watch.disconnect();
      scene.dispose();
      useBoard.setState({ scene: null });
    };
  }, [partId]);

  useEffect(() => {
    const press = (e: KeyboardEvent) => {
      if (e.code === "Space" && e.target === document.body) space.current = e.type === "keydown";
    };
    window.addEventListener("keydown", press);
    window.addEventListener("keyup", press);
    return () => {
      window.removeEventListener("keydown", press);
      window.removeEventListener("keyup", press);
    };
  }, []);

  const place = (e: { clientX: number; clientY: number }): XY => {
    const box = holder.current!.getBoundingClientRect();
    return [e.clientX - box.left, e.clientY - box.top];
  };

  /** The size whose text the pointer is over, as the browser finds it. */
  const sizeUnder = (at: XY): string[] => {
    if (board().tool) return [];
    const box = holder.current!.getBoundingClientRect();
    const found = document.elementFromPoint(at[0] + box.left, at[1] + box.top)?.closest("[data-size]");
    return found ? [found.getAttribute("data-size")!] : [];
  };

  function point(at: XY, free: boolean, moved = true) {
    const s = board();
    const m = affine(s);
    if (s.sketch && m) {
      const own = sketchOf(sketchStep(s)).entities ?? [];
      const here = [...sizeUnder(at), ...allUnder(at, own, m)];
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
  const pointAgain = useRef(() => {});
  pointAgain.current = () => {
    if (rest.current && !hold.current) point(rest.current, false, false);
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: the view is what has changed
  useEffect(() => pointAgain.current(), [view]);

  function onPointerDown(e: React.PointerEvent) {
    const at = place(e);
    handle(at);
    (document.activeElement as HTMLElement | null)?.blur?.();
    e.currentTarget.setPointerCapture(e.pointerId);
    if (e.button === 2) hold.current = { kind: "turn", from: at, last: at, moved: false };
    else if (e.button === 1 || space.current)
      hold.current = { kind: "pan", from: at, last: at, moved: false };
    else {
      point(at, e.altKey);
      const s = board();
      const ref = s.under;
      const window = s.sketch ? !s.tool && !ref : (!s.draft || activeSlot() !== null) && !s.hover;
      const loose = ref && s.sketch && !s.tool && editable() && !/^(origin|x|y|d\d+)$/.test(ref);
      hold.current = {
        kind: s.tool?.sweeps() ? "sweep" : loose ? "drag" : window ? "window" : "press",
        from: at,
        last: at,
        ref: ref?.replace(/\.mid$/, ""),
        moved: false,
      };
    }
    e.preventDefault();
  }

  function onPointerMove(e: React.PointerEvent) {
    const at = place(e);
    rest.current = at;
    const h = hold.current;
    if (!h) {
      handle(at);
      point(at, e.altKey);
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
          hold.current = { ...h, kind: "press" };
          return;
        }
        clearMessage();
        grip(h);
        dragStart(h.ref!);
      }
      const to = pulled(h, at);
      if (to) dragTo(to);
    } else if (h.kind === "window") useBoard.setState({ window: h.moved ? [h.from, inPane(at)] : null });
    else point(at, e.altKey);
  }

  /** A line is dragged by its start, which keeps its distance from the pointer. */
  function grip(h: Hold) {
    const entity = (sketchOf(sketchStep()).entities ?? []).find((x) => x.id === h.ref);
    const m = affine();
    if (entity?.kind !== "line" || !m) return;
    const from = unapply(m, h.from);
    if (from) h.offset = [entity.p[0] - from[0], entity.p[1] - from[1]];
    h.ref = `${h.ref}.p`;
  }

  function pulled(h: Hold, at: XY): XY | null {
    const m = affine();
    const to = m && unapply(m, at);
    return to && [to[0] + (h.offset?.[0] ?? 0), to[1] + (h.offset?.[1] ?? 0)];
  }

  function takeWindow(from: XY, to: XY, more: boolean) {
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

  function onPointerUp(e: React.PointerEvent) {
    const h = hold.current;
    hold.current = null;
    if (!h) return;
    const at = place(e);
    if (h.kind === "sweep" && h.moved) {
      board().tool?.swept();
      return;
    }
    if (h.kind === "drag" && h.moved) {
      const to = pulled(h, at);
      if (to) dragEnd(h.ref!, to);
      return;
    }
    if (h.kind === "window" && h.moved) {
      takeWindow(h.from, inPane(at), e.shiftKey || e.ctrlKey);
      return;
    }
    if (h.moved || e.button !== 0 || h.kind === "pan") return;
    press(at, e.shiftKey || e.ctrlKey, e.altKey);
  }

  function press(at: XY, more: boolean, free: boolean) {
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
    point(at, false);
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

  function onDoubleClick() {
    const s = board();
    if (s.sketch || s.draft) return;
    const pick = s.picks[0];
    if (pick?.kind !== "face") return;
    const origin = s.scene?.bodies()[pick.body]?.faces[pick.face]?.origins[0];
    const step = origin ? stepOf(s.part, origin.split("/")[0]) : null;
    if (step && "regions" in step && stepOf(s.part, step.sketch)) openSketch(step.sketch);
  }

  return (
    <div
      ref={holder}
      data-testid="board"
      className="absolute inset-0 touch-none overflow-hidden"
      style={{ cursor: tool ? "crosshair" : "default" }}
      onPointerDown={onPointerDown}
      onPointerMove={onPointerMove}
      onPointerUp={onPointerUp}
      onPointerLeave={() => {
        rest.current = null;
        useBoard.setState({ hover: null, under: null, pointer: null, sketchUnder: [], solidUnder: [] });
        board().scene?.mark(null, board().picks);
      }}
      onDoubleClick={onDoubleClick}
      onContextMenu={(e) => e.preventDefault()}
      onWheel={(e) => setView(zoom(board().view, Math.exp(-e.deltaY * 0.0015), place(e)))}
    >
      <Ruling />
      <canvas ref={canvas} className="absolute inset-0 h-full w-full" aria-label="The part" />
      <svg
        className="absolute inset-0 h-full w-full"
        width={view.width}
        height={view.height}
        role="group"
        aria-label="Drawing surface"
      >
        <EachView>
          {!sketch && <DatumPlanes />}
          <Guides />
          <ExactLines />
          <RegionPicker />
          <Mould />
          <Grips />
          <Places />
          <MeasuredLines />
        </EachView>
        <SketchLayer />
        <PulledWindow />
      </svg>
      <Caption />
      <ViewCross />
      <PaneNames />
      <LookStrip />
      <TypedFields />
      <ValueEditor />
    </div>
  );
}

function PulledWindow() {
  const pulled = useBoard((s) => s.window);
  if (!pulled) return null;
  const [a, b] = pulled;
  return (
    <rect
      x={Math.min(a[0], b[0])}
      y={Math.min(a[1], b[1])}
      width={Math.abs(a[0] - b[0])}
      height={Math.abs(a[1] - b[1])}
      className="fill-red/5 stroke-red"
      strokeDasharray="5 3"
    />
  );
}

/** A light ruling while sketching, one step of 1, 2 or 5 × 10ⁿ mm. */
function Ruling() {
  const sketch = useBoard((s) => s.sketch);
  const view = useBoard((s) => s.view);
  if (!sketch) return null;
  const want = 26 / view.scale;
  const ten = 10 ** Math.floor(Math.log10(want));
  const step = [1, 2, 5, 10].map((k) => k * ten).find((k) => k >= want)! * view.scale;
  const [ox, oy] = toScreen(view, [0, 0, 0]);
  return (
    <div
      className="absolute inset-0 opacity-50"
      style={{
        backgroundImage:
          "linear-gradient(to right, #E6E1D3 1px, transparent 1px), linear-gradient(to bottom, #E6E1D3 1px, transparent 1px)",
        backgroundSize: `${step}px ${step}px`,
        backgroundPosition: `${ox}px ${oy}px`,
      }}
    />
  );
}

function Caption() {
  const s = useResting();
  const report = s.sketch ? s.build?.steps?.find((r) => r.id === s.sketch) : null;
  const step = stepOf(s.part, s.sketch);
  const index = (s.part?.document.steps ?? []).findIndex((x) => x.id === s.sketch);
  const place =
    step?.kind === "sketch" && step.on.kind === "datum"
      ? `on the ${step.on.plane} plane`
      : (report?.sentence.replace(/^Sketch /, "") ?? "");
  const words = s.sketch
    ? `Sketch ${10 * (index + 1)} ${place}`
    : s.draft
      ? kindOf(s.draft.step).makes === "guide"
        ? "Trying a datum: it lies where the chain line is"
        : "Trying a step: green is added, red is cut away"
      : s.looking
        ? "What would change: green is added, red is taken away"
        : "";
  if (!words) return null;
  return (
    <p className="pointer-events-none absolute left-4 top-2.5 right-[310px] font-cond text-[14px] font-semibold leading-tight">
      {words}
    </p>
  );
}
