/** One page of the sheet: moved, zoomed and turned; ballooned, scaled and measured on. */
import { useEffect, useLayoutEffect, useRef, useState } from "react";
import type { Callout, XY } from "../api/types";
import { run } from "../document/commands";
import { board, editable, type SheetMode, useBoard } from "../state/store";
import { Balloon } from "../ui/ui";
import { pieceAt } from "./lines";
import "./followView";
import { useSpokenOf } from "./lit";
import { KnownLength, Measured, PageTools } from "./PageTools";
import { PartLines } from "./PartLines";
import { lookOf, type SheetPage } from "./pages";
import { centred, closeTo, fitted, type Look, turned, turnedBox, unturned, zoomed } from "./place";
import { placeView } from "./placedViews";
import { pressCallout } from "./pressCallout";
import { ReadText, readName } from "./ReadText";
import { ownerOf, pageReading, takeTexts, textAt } from "./readSheet";
import { takeView } from "./takeOutline";
import { usePicture } from "./usePicture";

const setMode = (sheetMode: SheetMode) => useBoard.setState({ sheetMode });

export function SheetDrawing({ shown, page }: { shown: SheetPage; page: number }) {
  const callouts = useBoard((s) => s.part!.document.callouts ?? []);
  const mode = useBoard((s) => s.sheetMode);
  const room = useBoard((s) => s.sheetSize);
  const listing = useBoard((s) => s.reading);
  const lining = useBoard((s) => s.lining);
  const blend = useBoard((s) => s.blend);
  const piece = useBoard((s) => s.linePiece);
  const sent = useBoard((s) => s.sheetAt);
  const spoken = useSpokenOf();
  useBoard((s) => s.sheetRead); // what was read is drawn below
  const [frame, setFrame] = useState<XY>([270, 190]);
  const [moved, setMoved] = useState<Look | null>(null); // null: as it fits
  const [ends, setEnds] = useState<XY[]>([]);
  const [pulled, setPulled] = useState<[XY, XY] | null>(null); // a window round outlines
  const box = useRef<HTMLDivElement>(null);
  const dragging = useRef(false);
  const from = useRef<XY | null>(null); // where a window round outlines began
  const { turn = 0, scale = 0 } = lookOf(shown);
  const points = shown.points;
  const size = fitted(points, turn, frame);
  const look = moved ?? centred(size, frame);
  const [big, tall] = [size[0] * look.k, size[1] * look.k];
  const picture = usePicture(shown, page, Math.max(big, tall));
  useLayoutEffect(() => {
    const watch = new ResizeObserver(() => {
      if (!box.current) return; // told once more while the sheet is left
      setFrame([box.current.clientWidth, box.current.clientHeight]);
      setMoved(null);
    });
    watch.observe(box.current!);
    return () => watch.disconnect();
  }, []);
  const now = useRef({ size, frame, look });
  now.current = { size, frame, look };
  useEffect(() => {
    const el = box.current!;
    const wheel = (e: WheelEvent) => {
      e.preventDefault();
      const at = el.getBoundingClientRect();
      const { size, frame, look } = now.current;
      const to = zoomed(
        look,
        Math.exp(-e.deltaY * 0.002),
        [e.clientX - at.left, e.clientY - at.top],
        size,
        frame,
      );
      now.current.look = to; // the next turn of the wheel may come before the page is drawn
      setMoved(to.k === 1 ? null : to);
    };
    el.addEventListener("wheel", wheel, { passive: false });
    return () => el.removeEventListener("wheel", wheel);
  }, []);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another purpose or page begins afresh
  useEffect(() => setEnds([]), [mode, page]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another page or turn is seen whole at first
  useEffect(() => setMoved(null), [page, turn, shown.sheet.sha256]);

  // biome-ignore lint/correctness/useExhaustiveDependencies: a piece of the list is gone to when it is pressed
  useEffect(() => {
    const points = piece && pieceAt(piece)?.points;
    if (!points) return;
    setMoved(closeTo(around(points as XY[], turn), size, frame));
  }, [piece]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: it is sent once, and moved by hand from there
  useEffect(() => {
    if (sent?.page !== page) return;
    const [left, top, right, bottom] = sent.box;
    setMoved(
      closeTo(
        around(
          [
            [left, top],
            [right, bottom],
          ],
          turn,
        ),
        size,
        frame,
      ),
    );
  }, [sent, page]);

  const onScreen = (at: XY): XY => {
    const [u, v] = turned(turn, at);
    return [look.x + u * big, look.y + v * tall];
  };
  const onPage = (e: { clientX: number; clientY: number }): XY | null => {
    const at = box.current!.getBoundingClientRect();
    const share = unturned(turn, [
      (e.clientX - at.left - look.x) / big,
      (e.clientY - at.top - look.y) / tall,
    ]);
    return share.every((v) => v >= 0 && v <= 1) ? share : null;
  };
  /** A window pulled round what is meant: its outlines go into the sketch. */
  function letGo() {
    from.current = null;
    if (!pulled) return;
    const [[ax, ay], [bx, by]] = pulled;
    setPulled(null);
    const window = [Math.min(ax, bx), Math.min(ay, by), Math.max(ax, bx), Math.max(ay, by)];
    if (window[2] - window[0] > 0.01 && window[3] - window[1] > 0.01) takeView(0, window);
  }
  function press(e: React.PointerEvent) {
    if (dragging.current || !(mode === "aim" || mode === "scale" || mode === "measure" || mode === "place"))
      return;
    const at = onPage(e);
    if (!at) return;
    if (mode === "place" && ends.length === 1) {
      setEnds([]);
      placeView(page, [ends[0], at]);
      return;
    }
    if (mode !== "aim") {
      setEnds(ends.length === 1 ? [ends[0], at] : [at]);
      return;
    }
    const said = pageReading();
    const text = said && textAt(said, at, points);
    if (!text) setMode(at);
    else if (!ownerOf(text)) takeTexts([text]);
  }
  const here = callouts.filter((c) => c.page === page && c.at);
  const marks = ends.map(onScreen);
  const said = listing || mode === "aim" ? pageReading() : null;
  const ratio = turn % 180 ? points[0] / points[1] : points[1] / points[0];
  return (
    <div className={`flex min-h-0 flex-col ${room === "side" ? "shrink-0" : "min-w-0 grow"}`}>
      <div
        ref={box}
        role="group"
        aria-label="Drawing"
        className="relative mx-3.5 overflow-hidden border border-hair bg-white"
        style={{
          ...(room === "side"
            ? { aspectRatio: `1 / ${ratio}`, maxHeight: "46vh" }
            : { flex: "1 1 0", minHeight: 120 }),
          cursor: mode && !Array.isArray(mode) ? "crosshair" : "grab",
        }}
        onPointerDown={(e) => {
          dragging.current = false;
          from.current = mode === "outline" ? onPage(e) : null;
          // a view that is pressed there takes its own press, unless a window is pulled
          if (mode !== "outline") e.currentTarget.setPointerCapture(e.pointerId);
        }}
        onPointerMove={(e) => {
          const at = from.current && e.buttons ? onPage(e) : null;
          if (from.current && at) {
            const far = Math.hypot((at[0] - from.current[0]) * big, (at[1] - from.current[1]) * tall) > 5;
            if (!pulled && far) e.currentTarget.setPointerCapture(e.pointerId);
            if (pulled || far) setPulled([from.current, at]);
          }
          if (mode === "outline") return;
          if (!e.buttons || look.k === 1 || Math.abs(e.movementX) + Math.abs(e.movementY) < 2) return;
          dragging.current = true;
          setMoved({ ...look, x: look.x + e.movementX, y: look.y + e.movementY });
        }}
        onPointerUp={(e) => (pulled ? letGo() : press(e))}
        onDoubleClick={() => mode === null && setMoved(null)}
      >
        <img
          alt=""
          draggable={false}
          src={picture}
          className="pointer-events-none absolute max-w-none select-none"
          style={{
            width: turn % 180 ? tall : big,
            height: turn % 180 ? big : tall,
            left: turn % 180 ? (big - tall) / 2 : 0,
            top: turn % 180 ? (tall - big) / 2 : 0,
            // a layer of its own: moved, it need not be drawn again
            transform: `translate(${look.x}px, ${look.y}px) rotate(${turn}deg)`,
            willChange: "transform",
            opacity: lining ? 1 - blend * 0.85 : 1,
          }}
        />
        {lining && <PartLines onScreen={onScreen} />}
        <Marks marks={marks} />
        {pulled && <Window corners={pulled.map(onScreen) as [XY, XY]} />}
        {said?.sizes.map((one) => (
          <ReadText key={readName(one)} one={one} turn={turn} onScreen={onScreen} />
        ))}
        {mode === "outline" &&
          pageReading()?.views.map((view, k) => (
            <View key={`${view}`} box={view} turn={turn} onScreen={onScreen} onPress={() => takeView(k)} />
          ))}
        {here.map((c) => (
          <Placed
            key={c.id}
            callout={c}
            at={onScreen(c.at as XY)}
            size={Math.min(24, 12 * Math.sqrt((look.k * size[0]) / 270))}
            spoken={spoken.has(c.id)}
            onPage={onPage}
            onScreen={onScreen}
          />
        ))}
      </div>
      <PageTools page={page} turn={turn} scale={scale} fits={moved === null} onFit={() => setMoved(null)} />
      {mode === "scale" && <KnownLength page={page} ends={ends} onDone={() => setMode(null)} />}
      {mode === "measure" && (
        <Measured ends={ends} size={points} turn={turn} scale={scale || (pageReading()?.mm ?? 0)} />
      )}
    </div>
  );
}

function Window({ corners: [[ax, ay], [bx, by]] }: { corners: [XY, XY] }) {
  return (
    <div
      className="pointer-events-none absolute border border-dashed border-red bg-redwash/30"
      style={{
        left: Math.min(ax, bx),
        top: Math.min(ay, by),
        width: Math.abs(ax - bx),
        height: Math.abs(ay - by),
      }}
    />
  );
}

/** The box round places of a page that is turned: left, top, right, bottom. */
function around(points: XY[], turn: number): number[] {
  const at = points.map((p) => turned(turn, p));
  const [xs, ys] = [at.map((p) => p[0]), at.map((p) => p[1])];
  return [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)];
}

function Marks({ marks }: { marks: XY[] }) {
  if (!marks.length) return null;
  return (
    <svg className="pointer-events-none absolute inset-0 h-full w-full" aria-hidden="true">
      {marks.map(([x, y]) => (
        <path
          key={`${x} ${y}`}
          d={`M${x - 5} ${y}h10M${x} ${y - 5}v10`}
          className="stroke-red"
          strokeWidth={1.2}
        />
      ))}
      {marks.length === 2 && <path d={`M${marks[0]}L${marks[1]}`} className="stroke-red" />}
    </svg>
  );
}

/** A view of the sheet, to be chosen. */
function View({
  box,
  turn,
  onScreen,
  onPress,
}: {
  box: number[];
  turn: number;
  onScreen: (at: XY) => XY;
  onPress: () => void;
}) {
  const [[u, v], [w, t]] = turnedBox(turn, box);
  const [a, b] = [onScreen(unturned(turn, [u, v])), onScreen(unturned(turn, [w, t]))];
  return (
    <button
      type="button"
      aria-label="Take the outline of this view"
      className="absolute border-2 border-dashed border-red bg-redwash/30 hover:bg-redwash/70"
      style={{ left: a[0] - 4, top: a[1] - 4, width: b[0] - a[0] + 8, height: b[1] - a[1] + 8 }}
      onClick={onPress}
    />
  );
}

/** A balloon on the drawing: pressed, or dragged to another place with its leader following. */
function Placed({
  callout: c,
  at,
  size,
  spoken,
  onPage,
  onScreen,
}: {
  callout: Callout;
  at: XY;
  size: number;
  spoken: boolean; // it speaks of what is chosen in the middle
  onPage: (e: { clientX: number; clientY: number }) => XY | null;
  onScreen: (at: XY) => XY;
}) {
  const lit = useBoard((s) => s.callout === c.id || s.several.includes(c.id));
  const state = useBoard((s) => s.build?.callouts?.find((v) => v.callout === c.id)?.state);
  const [dragged, setDragged] = useState<XY | null>(null);
  const from = useRef<XY | null>(null);
  const [left, top] = dragged ? onScreen(dragged) : at;
  const text = pageReading()?.sizes.find((t) => t.callout === c.id);
  const foot = text && nearestOn(text.box, onScreen, [left, top]);
  const away = foot ? Math.hypot(foot[0] - left, foot[1] - top) : 0;
  return (
    <>
      {foot && away > size * 0.9 && (
        <svg className="pointer-events-none absolute inset-0 h-full w-full" aria-hidden="true">
          <path
            d={`M${left} ${top}L${foot}`}
            className={lit ? "stroke-red" : "stroke-pencil"}
            strokeWidth={0.8}
          />
        </svg>
      )}
      <button
        type="button"
        aria-label={`Balloon ${c.number}: ${c.text}`}
        className={`absolute flex -translate-x-1/2 -translate-y-1/2 rounded-full bg-white/85 ${spoken ? "ring-4 ring-proof/40" : ""} ${state === "proven" ? "outline outline-1 outline-proof" : state === "out" ? "outline outline-2 outline-red" : ""}`}
        style={{ left, top, touchAction: "none" }}
        onPointerDown={(e) => {
          e.stopPropagation();
          from.current = [e.clientX, e.clientY];
          e.currentTarget.setPointerCapture(e.pointerId);
        }}
        onPointerMove={(e) => {
          if (!from.current || !e.buttons || !editable()) return;
          const far = Math.hypot(e.clientX - from.current[0], e.clientY - from.current[1]) > 4;
          const to = onPage(e);
          if (to && (far || dragged)) setDragged(to);
        }}
        onPointerUp={(e) => {
          e.stopPropagation();
          from.current = null;
          if (!dragged) return;
          const placed = board().part?.document.callouts?.find((o) => o.id === c.id);
          if (placed)
            run({ do: "set_callout", callout: { ...placed, at: dragged } }).then(() => setDragged(null));
        }}
        onClick={(e) => !dragged && pressCallout(c, e.ctrlKey || e.metaKey)}
      >
        <Balloon number={c.number} tone={lit ? "red" : "ink"} size={size} />
      </button>
    </>
  );
}

/** The place on a text's box that is nearest to a place on the screen. */
function nearestOn(box: number[], onScreen: (at: XY) => XY, [x, y]: XY): XY {
  const [a, b] = [onScreen([box[0], box[1]]), onScreen([box[2], box[3]])];
  const within = (v: number, p: number, q: number) => Math.min(Math.max(v, Math.min(p, q)), Math.max(p, q));
  return [within(x, a[0], b[0]), within(y, a[1], b[1])];
}
