/** The board itself: solids below, the sketch and the view's furniture above, pointer and wheel in one place. */
import { useEffect, useRef, useState } from "react";
import type { XY } from "../api/types";
import { EachView, PaneNames } from "../camera/EachView";
import { ViewCross } from "../camera/ViewCross";
import { resize } from "../camera/viewControl";
import { showBodies } from "../document/builds";
import { DatumPlanes } from "../inspect/DatumPlanes";
import { ExactLines } from "../inspect/ExactLines";
import { Guides } from "../inspect/Guides";
import { drawnExactly } from "../inspect/hiddenLines";
import { LookStrip, MeasuredLines } from "../inspect/LookStrip";
import { SketchLayer } from "../sketch/SketchLayer";
import { TypedFields } from "../sketch/TypedFields";
import { ValueEditor } from "../sketch/ValueEditor";
import { kindOf } from "../state/catalogue";
import { stepOf, useBoard, useResting } from "../state/store";
import { Grips } from "../steps/Grips";
import { Mould } from "../steps/Mould";
import { Places } from "../steps/Places";
import { RegionPicker } from "../steps/RegionPicker";
import { toScreen } from "../view/camera";
import { BoardScene } from "../view/scene";
import { type At, BoardPointer } from "./boardPointer";

/** Which size's text stands at a place of the board, as the browser finds it. */
const sizeAt = (holder: React.RefObject<HTMLDivElement | null>) => (at: XY) => {
  const box = holder.current?.getBoundingClientRect();
  if (!box) return null; // the board was left while something was still to be drawn
  const found = document.elementFromPoint(at[0] + box.left, at[1] + box.top)?.closest("[data-size]");
  return found?.getAttribute("data-size") ?? null;
};

export function Viewport() {
  const holder = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const space = useRef(false);
  const [pointer] = useState(() => new BoardPointer(sizeAt(holder)));
  const partId = useBoard((s) => s.part!.id);
  const view = useBoard((s) => s.view);
  const tool = useBoard((s) => s.tool);
  const sketch = useBoard((s) => s.sketch);

  useEffect(() => {
    const scene = new BoardScene(canvas.current!, partId, () => pointer.again(), drawnExactly);
    useBoard.setState({ scene });
    const size = () => {
      const box = holder.current?.getBoundingClientRect();
      if (!box) return; // told once more while the board is left
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
  }, [partId, pointer]);

  useEffect(() => {
    const press = (e: KeyboardEvent) => {
      if (e.code === "Space" && e.target === document.body) space.current = e.type === "keydown";
    };
    const away = () => {
      space.current = false;
      pointer.interrupt();
    };
    window.addEventListener("keydown", press);
    window.addEventListener("keyup", press);
    window.addEventListener("blur", away);
    return () => {
      window.removeEventListener("blur", away);
      window.removeEventListener("keydown", press);
      window.removeEventListener("keyup", press);
    };
  }, [pointer]);

  const place = (e: { clientX: number; clientY: number }): XY => {
    const box = holder.current!.getBoundingClientRect();
    return [e.clientX - box.left, e.clientY - box.top];
  };
  const how = (e: React.PointerEvent): At => ({
    at: place(e),
    button: e.button,
    more: e.shiftKey || e.ctrlKey,
    free: e.altKey,
  });

  // biome-ignore lint/correctness/useExhaustiveDependencies: the view is what has changed
  useEffect(() => pointer.again(), [view]);

  return (
    <div
      ref={holder}
      data-testid="board"
      className="absolute inset-0 touch-none overflow-hidden"
      style={{ cursor: tool ? "crosshair" : "default" }}
      onPointerDown={(e) => {
        (document.activeElement as HTMLElement | null)?.blur?.();
        e.currentTarget.setPointerCapture(e.pointerId);
        pointer.down({ ...how(e), panning: space.current });
        e.preventDefault();
      }}
      onPointerMove={(e) => pointer.move(how(e))}
      onPointerUp={(e) => pointer.up(how(e))}
      onPointerCancel={() => pointer.interrupt()}
      onPointerLeave={() => pointer.leave()}
      onDoubleClick={() => pointer.double()}
      onContextMenu={(e) => e.preventDefault()}
      onWheel={(e) => pointer.wheel(place(e), e.deltaY)}
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
    <p className="pointer-events-none absolute left-4 top-2.5 right-[min(310px,calc(100%-220px))] font-cond text-[14px] font-semibold leading-tight">
      {words}
    </p>
  );
}
