/** The drawing being worked from, its balloons, and the list of callouts. */
import { useEffect, useRef, useState } from "react";
import { type Refused, upload } from "../api/client";
import type { Callout, Part, Verdict, XY } from "../api/types";
import { Balloon } from "../ui/ui";
import { run } from "./change";
import { board, editable, tell, useBoard } from "./store";

export function SheetPanel({ folded, onFold }: { folded: boolean; onFold: () => void }) {
  const part = useBoard((s) => s.part)!;
  const [page, setPage] = useState(0);
  const [adding, setAdding] = useState<XY | "aim" | null>(null);
  if (folded)
    return (
      <aside aria-label="Sheet" className="bg-panel">
        <button type="button" className="head h-full w-full [writing-mode:vertical-rl]" onClick={onFold}>
          Sheet · unfold
        </button>
      </aside>
    );
  const sheet = part.document.sheet;
  const pages = sheet?.pages.length ?? 0;
  return (
    <aside aria-label="Sheet" className="flex min-h-0 flex-col bg-panel">
      <div className="flex h-9 shrink-0 items-center gap-2 px-3.5">
        <h2 className="head">Sheet</h2>
        <span className="grow" />
        {pages > 1 && (
          <span className="font-cond text-[12px] text-pencil">
            <button
              type="button"
              aria-label="Page before"
              disabled={page === 0}
              onClick={() => setPage(page - 1)}
            >
              ‹
            </button>{" "}
            {page + 1} of {pages}{" "}
            <button
              type="button"
              aria-label="Next page"
              disabled={page === pages - 1}
              onClick={() => setPage(page + 1)}
            >
              ›
            </button>
          </span>
        )}
        {editable() && <Upload has={Boolean(sheet)} />}
        <button type="button" className="text-pencil" aria-label="Fold the sheet away" onClick={onFold}>
          ‹‹
        </button>
      </div>
      {sheet ? (
        <Drawing
          page={page}
          ratio={sheet.pages[page][1] / sheet.pages[page][0]}
          adding={adding}
          setAdding={setAdding}
        />
      ) : (
        <p className="mx-3.5 border border-dashed border-hair p-4 text-pencil">
          No sheet yet. Put the drawing here (SVG, PNG, JPG or PDF), then balloon its sizes.
        </p>
      )}
      <Callouts page={page} adding={adding} setAdding={setAdding} />
    </aside>
  );
}

function Upload({ has }: { has: boolean }) {
  const input = useRef<HTMLInputElement>(null);
  const [busy, setBusy] = useState(false);
  async function send(file: File) {
    const part = board().part!;
    setBusy(true);
    try {
      const after = await upload<Part>(`/api/parts/${part.id}/sheet`, {
        version: String(part.version),
        file,
      });
      useBoard.setState({ part: after });
    } catch (error) {
      tell((error as Refused).sentence, "red");
    } finally {
      setBusy(false);
    }
  }
  return (
    <>
      <input
        ref={input}
        type="file"
        className="hidden"
        aria-label="Drawing file"
        accept=".svg,.png,.jpg,.jpeg,.pdf"
        onChange={(e) => e.target.files?.[0] && send(e.target.files[0])}
      />
      <button
        type="button"
        className="font-cond text-[12.5px] text-pencil underline"
        disabled={busy}
        onClick={() => input.current?.click()}
      >
        {busy ? "reading …" : has ? "other sheet" : "add a sheet"}
      </button>
    </>
  );
}

function Drawing({
  page,
  ratio,
  adding,
  setAdding,
}: {
  page: number;
  ratio: number;
  adding: XY | "aim" | null;
  setAdding: (a: XY | "aim" | null) => void;
}) {
  const part = useBoard((s) => s.part)!;
  const lit = useBoard((s) => s.callout);
  const [look, setLook] = useState({ k: 1, x: 0, y: 0 });
  const frame = useRef<HTMLDivElement>(null);
  const moved = useRef(false);
  const [size, setSize] = useState({ w: 270, h: 190 });
  useEffect(() => {
    const watch = new ResizeObserver(() => {
      const w = frame.current!.clientWidth;
      setSize({ w, h: w * ratio });
    });
    watch.observe(frame.current!);
    return () => watch.disconnect();
  }, [ratio]);
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
  const callouts = (part.document.callouts ?? []).filter((c) => c.page === page && c.at);
  return (
    <div
      ref={frame}
      role="img"
      aria-label="Drawing"
      className="relative mx-3.5 shrink-0 overflow-hidden border border-hair bg-white"
      style={{ height: size.h, cursor: adding === "aim" ? "crosshair" : "grab" }}
      onPointerDown={(e) => {
        moved.current = false;
        e.currentTarget.setPointerCapture(e.pointerId);
      }}
      onPointerMove={(e) => {
        if (!e.buttons || look.k === 1) return;
        moved.current = true;
        setLook({ ...look, x: look.x + e.movementX, y: look.y + e.movementY });
      }}
      onPointerUp={(e) => {
        if (moved.current || adding !== "aim") return;
        const box = frame.current!.getBoundingClientRect();
        const at: XY = [
          (e.clientX - box.left - look.x) / (size.w * look.k),
          (e.clientY - box.top - look.y) / (size.h * look.k),
        ];
        if (at.every((v) => v >= 0 && v <= 1)) setAdding(at);
      }}
      onDoubleClick={() => setLook({ k: 1, x: 0, y: 0 })}
    >
      <img
        alt=""
        draggable={false}
        src={`/api/parts/${part.id}/sheet/${page}?${part.document.sheet!.sha256.slice(0, 12)}`}
        className="pointer-events-none absolute max-w-none select-none"
        style={{ width: size.w * look.k, height: size.h * look.k, left: look.x, top: look.y }}
      />
      {callouts.map((c) => (
        <button
          key={c.id}
          type="button"
          aria-label={`Balloon ${c.number}: ${c.text}`}
          className="absolute -translate-x-1/2 -translate-y-1/2 rounded-full bg-white/80"
          style={{ left: look.x + c.at![0] * size.w * look.k, top: look.y + c.at![1] * size.h * look.k }}
          onPointerDown={(e) => e.stopPropagation()}
          onClick={() => pressCallout(c)}
        >
          <Balloon
            number={c.number}
            tone={lit === c.id ? "red" : "ink"}
            size={Math.min(24, 12 * Math.sqrt((look.k * size.w) / 270))}
          />
        </button>
      ))}
    </div>
  );
}

/** A callout pressed: it feeds an open value field or the chosen dimension, else it lights what uses it. */
export function pressCallout(c: Callout) {
  const s = board();
  if (s.field) {
    const typed = s.part?.callouts[c.id]?.typed || s.field.text;
    useBoard.setState({ field: { ...s.field, callout: c.id, text: typed } });
  } else if (s.draft) window.dispatchEvent(new CustomEvent("sulvak-feed", { detail: c.id }));
  else if (s.sketch && s.chosen.length === 1 && /^d\d+$/.test(s.chosen[0]) && editable())
    run({ do: "link_callout", callout: c.id, step: s.sketch, field: s.chosen[0] });
  else {
    useBoard.setState({ callout: s.callout === c.id ? null : c.id });
    if (c.link && !s.sketch) useBoard.setState({ openStep: c.link.step });
  }
}

const TONE: Record<string, string> = {
  proven: "text-proof",
  out: "text-red",
  used: "text-ink font-semibold",
  open: "text-pencil",
  note: "text-pencil",
  reference: "text-ochre",
};

function Callouts({
  page,
  adding,
  setAdding,
}: {
  page: number;
  adding: XY | "aim" | null;
  setAdding: (a: XY | "aim" | null) => void;
}) {
  const part = useBoard((s) => s.part)!;
  const build = useBoard((s) => s.build);
  const lit = useBoard((s) => s.callout);
  const callouts = [...(part.document.callouts ?? [])].sort((a, b) => a.number - b.number);
  const verdicts = new Map<string, Verdict>((build?.callouts ?? []).map((v) => [v.callout, v]));
  const count = (state: string) => [...verdicts.values()].filter((v) => v.state === state).length;
  return (
    <>
      <div className="flex h-9 shrink-0 items-center gap-2 px-3.5">
        <h2 className="head">Callouts</h2>
        <span className="grow" />
        <span className="font-cond text-[12px] text-pencil">
          {count("proven")} proven · {count("used") + count("out")} used · {count("open")} open
        </span>
        {editable() && (
          <button
            type="button"
            className="font-cond text-[12.5px] text-pencil underline"
            onClick={() => setAdding(part.document.sheet ? "aim" : [0, 0])}
          >
            balloon
          </button>
        )}
      </div>
      {adding && <NewCallout page={page} at={adding} onDone={() => setAdding(null)} />}
      <ol className="min-h-0 grow overflow-auto" aria-label="Callouts">
        {callouts.map((c) => {
          const v = verdicts.get(c.id);
          return (
            <li
              key={c.id}
              className={`group flex items-center border-t border-hair ${lit === c.id ? "bg-redwash" : ""}`}
            >
              <button
                type="button"
                className="flex min-w-0 grow items-center gap-2.5 px-3.5 py-1.5 text-left"
                title={part.callouts[c.id]?.said}
                onClick={() => pressCallout(c)}
              >
                <Balloon number={c.number} tone={v?.state === "open" ? "faint" : "ink"} />
                <span className="min-w-0 grow truncate font-mono text-[13px]">{c.text}</span>
                <span
                  className={`shrink-0 max-w-[46%] truncate font-cond text-[12.5px] ${TONE[v?.state ?? "open"]}`}
                  title={v?.said}
                >
                  {v?.said.split(";")[0] ?? "…"}
                </span>
              </button>
              {editable() && (
                <button
                  type="button"
                  aria-label={`Delete callout ${c.number}`}
                  className="pr-2 text-faint opacity-0 focus:opacity-100 group-hover:opacity-100"
                  onClick={() => run({ do: "delete_callout", callout: c.id })}
                >
                  ×
                </button>
              )}
            </li>
          );
        })}
        {!callouts.length && !adding && (
          <li className="border-t border-hair px-3.5 py-2 text-pencil">
            No callouts yet. Press “balloon”, then a size on the drawing, and type it as it stands there: 4X
            Ø4 THRU, 35 ±0.1, R5.
          </li>
        )}
      </ol>
    </>
  );
}

function NewCallout({ page, at, onDone }: { page: number; at: XY | "aim"; onDone: () => void }) {
  const [text, setText] = useState("");
  if (at === "aim")
    return (
      <p className="flex border-t border-hair bg-redwash px-3.5 py-1.5 text-red">
        <span className="grow">Press the size on the drawing.</span>
        <button type="button" className="underline" onClick={onDone}>
          leave
        </button>
      </p>
    );
  const callouts = board().part!.document.callouts ?? [];
  const top = Math.max(0, ...callouts.map((c) => c.number));
  const id = Math.max(0, ...callouts.map((c) => Number(c.id.slice(1))));
  async function keep() {
    const place = at === "aim" || !board().part!.document.sheet ? null : at;
    const callout = { id: `b${id + 1}`, number: top + 1, text, page, at: place };
    if (await run({ do: "set_callout", callout })) onDone();
  }
  return (
    <div className="flex items-center gap-2 border-t border-hair bg-redwash px-3.5 py-1.5">
      <Balloon number={top + 1} tone="red" />
      <input
        className="field font-mono"
        aria-label="Callout text"
        placeholder="as it stands on the sheet"
        autoFocus
        value={text}
        onChange={(e) => setText(e.target.value)}
        onKeyDown={(e) => {
          if (e.key === "Enter") keep();
          if (e.key === "Escape") onDone();
          e.stopPropagation();
        }}
      />
    </div>
  );
}
