/** One page of the sheet: moved, zoomed and turned; ballooned, scaled and measured on. */
import { useEffect, useRef, useState } from "react";
import type { Doc, XY } from "../api/types";
import { run } from "../document/commands";
import { board, editable, useBoard } from "../state/store";
import { Balloon } from "../ui/ui";
import { pressCallout } from "./pressCallout";

type SheetFile = NonNullable<Doc["sheet"]>;

/** What the next press on the drawing is for: a balloon, a known length, a measurement; or a balloon's place. */
export type SheetMode = XY | "aim" | "scale" | "measure" | null;

/** A place on the page, as shares of its width and height, on the page as it is turned; and back. */
function turned(turn: number, [x, y]: XY): XY {
  return turn === 90 ? [1 - y, x] : turn === 180 ? [1 - x, 1 - y] : turn === 270 ? [y, 1 - x] : [x, y];
}
const unturned = (turn: number, at: XY) => turned((360 - turn) % 360, at);

export function SheetDrawing({
  sheet,
  page,
  mode,
  setMode,
}: {
  sheet: SheetFile;
  page: number;
  mode: SheetMode;
  setMode: (m: SheetMode) => void;
}) {
  const part = useBoard((s) => s.part)!;
  const lit = useBoard((s) => s.callout);
  const [look, setLook] = useState({ k: 1, x: 0, y: 0 });
  const [width, setWidth] = useState(270);
  const [ends, setEnds] = useState<XY[]>([]);
  const frame = useRef<HTMLDivElement>(null);
  const moved = useRef(false);
  const { turn = 0, scale = 0 } = sheet.looks?.[String(page)] ?? {};
  const [pw, ph] = sheet.pages[page];
  const size = { w: width, h: (width * (turn % 180 ? pw : ph)) / (turn % 180 ? ph : pw) };
  const [big, tall] = [size.w * look.k, size.h * look.k];
  const [iw, ih] = turn % 180 ? [tall, big] : [big, tall];
  useEffect(() => {
    const watch = new ResizeObserver(() => setWidth(frame.current!.clientWidth));
    watch.observe(frame.current!);
    return () => watch.disconnect();
  }, []);
  useEffect(() => {
    const el = frame.current!;
    const wheel = (e: WheelEvent) => {
      e.preventDefault();
      const box = el.getBoundingClientRect();
      const [px, py] = [e.clientX - box.left, e.clientY - box.top];
      setLook((l) => {
        const k = Math.min(12, Math.max(1, l.k * Math.exp(-e.deltaY * 0.002)));
        if (k === 1) return { k: 1, x: 0, y: 0 };
        return { k, x: px - ((px - l.x) * k) / l.k, y: py - ((py - l.y) * k) / l.k };
      });
    };
    el.addEventListener("wheel", wheel, { passive: false });
    return () => el.removeEventListener("wheel", wheel);
  }, []);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another purpose or page begins afresh
  useEffect(() => setEnds([]), [mode, page]);

  const onScreen = (at: XY): XY => {
    const [u, v] = turned(turn, at);
    return [look.x + u * big, look.y + v * tall];
  };
  function press(e: React.PointerEvent) {
    if (moved.current || !(mode === "aim" || mode === "scale" || mode === "measure")) return;
    const box = frame.current!.getBoundingClientRect();
    const at = unturned(turn, [(e.clientX - box.left - look.x) / big, (e.clientY - box.top - look.y) / tall]);
    if (!at.every((v) => v >= 0 && v <= 1)) return;
    if (mode === "aim") setMode(at);
    else setEnds(ends.length === 1 ? [ends[0], at] : [at]);
  }
  const callouts = (part.document.callouts ?? []).filter((c) => c.page === page && c.at);
  const marks = ends.map(onScreen);
  return (
    <>
      <div
        ref={frame}
        role="group"
        aria-label="Drawing"
        className="relative mx-3.5 shrink-0 overflow-hidden border border-hair bg-white"
        style={{
          height: size.h,
          maxHeight: "46vh",
          cursor: mode && !Array.isArray(mode) ? "crosshair" : "grab",
        }}
        onPointerDown={(e) => {
          moved.current = false;
          e.currentTarget.setPointerCapture(e.pointerId);
        }}
        onPointerMove={(e) => {
          if (!e.buttons || look.k === 1 || Math.abs(e.movementX) + Math.abs(e.movementY) < 2) return;
          moved.current = true;
          setLook({ ...look, x: look.x + e.movementX, y: look.y + e.movementY });
        }}
        onPointerUp={press}
        onDoubleClick={() => mode === null && setLook({ k: 1, x: 0, y: 0 })}
      >
        <img
          alt=""
          draggable={false}
          src={`/api/parts/${part.id}/sheet/${page}?${sheet.sha256.slice(0, 12)}`}
          className="pointer-events-none absolute max-w-none select-none"
          style={{
            width: iw,
            height: ih,
            left: look.x + (big - iw) / 2,
            top: look.y + (tall - ih) / 2,
            transform: `rotate(${turn}deg)`,
          }}
        />
        {marks.length > 0 && (
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
        )}
        {callouts.map((c) => {
          const [left, top] = onScreen(c.at as XY);
          return (
            <button
              key={c.id}
              type="button"
              aria-label={`Balloon ${c.number}: ${c.text}`}
              className="absolute -translate-x-1/2 -translate-y-1/2 rounded-full bg-white/80"
              style={{ left, top }}
              onPointerDown={(e) => e.stopPropagation()}
              onClick={() => pressCallout(c)}
            >
              <Balloon
                number={c.number}
                tone={lit === c.id ? "red" : "ink"}
                size={Math.min(24, 12 * Math.sqrt((look.k * size.w) / 270))}
              />
            </button>
          );
        })}
      </div>
      <PageTools page={page} turn={turn} scale={scale} mode={mode} setMode={setMode} />
      {mode === "scale" && <KnownLength page={page} ends={ends} onDone={() => setMode(null)} />}
      {mode === "measure" && <Measured ends={ends} size={[pw, ph]} turn={turn} scale={scale} />}
    </>
  );
}

function PageTools({
  page,
  turn,
  scale,
  mode,
  setMode,
}: {
  page: number;
  turn: number;
  scale: number;
  mode: SheetMode;
  setMode: (m: SheetMode) => void;
}) {
  const tool = (name: "scale" | "measure", words: string) => (
    <button
      type="button"
      aria-pressed={mode === name}
      className={`underline ${mode === name ? "text-red" : ""}`}
      onClick={() => setMode(mode === name ? null : name)}
    >
      {words}
    </button>
  );
  return (
    <div className="flex h-7 shrink-0 items-center gap-3 px-3.5 font-cond text-[12.5px] text-pencil">
      {editable() && (
        <button
          type="button"
          className="underline"
          onClick={() => run({ do: "set_page", page, turn: (turn + 90) % 360 })}
        >
          turn
        </button>
      )}
      {editable() && tool("scale", scale ? "scale again" : "set scale")}
      {scale > 0 && tool("measure", "measure")}
    </div>
  );
}

function KnownLength({ page, ends, onDone }: { page: number; ends: XY[]; onDone: () => void }) {
  const [text, setText] = useState("");
  async function keep() {
    if (await run({ do: "set_page", page, known: { ends, length: text } })) onDone();
  }
  return (
    <div className="flex items-center gap-2 border-t border-hair bg-redwash px-3.5 py-1.5 text-red">
      {ends.length < 2 ? (
        <span className="grow">
          {ends.length ? "Press its other end." : "Press one end of a length that the drawing gives."}
        </span>
      ) : (
        <input
          className="field font-mono"
          aria-label="Known length"
          placeholder="how long that is"
          autoFocus
          value={text}
          onChange={(e) => setText(e.target.value)}
          onKeyDown={(e) => {
            if (e.key === "Enter" && text.trim()) keep();
            if (e.key === "Escape") onDone();
            e.stopPropagation();
          }}
        />
      )}
      <button type="button" className="underline" onClick={onDone}>
        leave
      </button>
    </div>
  );
}

function Measured({
  ends,
  size,
  turn,
  scale,
}: {
  ends: XY[];
  size: [number, number];
  turn: number;
  scale: number;
}) {
  const inch = board().part!.document.unit === "in";
  const said = (mm: number) => (inch ? `${(mm / 25.4).toFixed(3)} in` : `${mm.toFixed(2)} mm`);
  let words = ends.length ? "Press the other place." : "Press two places on the drawing.";
  if (ends.length === 2) {
    const [dx, dy] = [0, 1].map((i) => Math.abs(ends[1][i] - ends[0][i]) * size[i] * scale);
    const [across, down] = turn % 180 ? [dy, dx] : [dx, dy];
    words = `${said(Math.hypot(dx, dy))} apart: ${said(across)} across, ${said(down)} down`;
  }
  return (
    <p role="status" className="border-t border-hair px-3.5 py-1.5 font-mono text-[12.5px]">
      {words}
    </p>
  );
}
