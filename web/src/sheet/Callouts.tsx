/** The list of callouts read from the sheet. */
import { useEffect, useState } from "react";
import type { Callout, Verdict, XY } from "../api/types";
import { run } from "../document/commands";
import { board, editable, useBoard } from "../state/store";
import { NotationText } from "../ui/NotationText";
import { Balloon } from "../ui/ui";
import { pressCallout } from "./pressCallout";
import type { SheetMode } from "./SheetDrawing";

const TONE: Record<string, string> = {
  proven: "text-proof",
  out: "text-red",
  used: "text-ink font-semibold",
  open: "text-pencil",
  note: "text-pencil",
  reference: "text-ochre",
};

export function Callouts({
  page,
  adding,
  setAdding,
}: {
  page: number;
  adding: SheetMode;
  setAdding: (a: SheetMode) => void;
}) {
  const part = useBoard((s) => s.part)!;
  const build = useBoard((s) => s.build);
  const lit = useBoard((s) => s.callout);
  const callouts = [...(part.document.callouts ?? [])].sort((a, b) => a.number - b.number);
  const verdicts = new Map<string, Verdict>((build?.callouts ?? []).map((v) => [v.callout, v]));
  const [correcting, setCorrecting] = useState<string | null>(null);
  const ballooning = adding === "aim" || Array.isArray(adding);
  useEffect(() => {
    if (!ballooning) return;
    const leave = (e: KeyboardEvent) => {
      if (e.key !== "Escape") return;
      setAdding(null);
      e.stopPropagation();
    };
    window.addEventListener("keydown", leave, true);
    return () => window.removeEventListener("keydown", leave, true);
  }, [ballooning, setAdding]);
  const count = (state: string) => [...verdicts.values()].filter((v) => v.state === state).length;
  return (
    <>
      <div className="flex h-9 shrink-0 items-center gap-2 px-3.5">
        <h2 className="head">Callouts</h2>
        <span className="grow" />
        {callouts.length > 0 && (
          <span className="font-cond text-[12px] text-pencil">
            {count("proven")} proven · {count("used") + count("out")} used · {count("open")} open
          </span>
        )}
        {editable() && (
          <button
            type="button"
            className="font-cond text-[12.5px] text-pencil underline"
            onClick={() => setAdding(adding ? null : part.document.sheet ? "aim" : [0, 0])}
            aria-pressed={ballooning}
          >
            balloon
          </button>
        )}
      </div>
      {(adding === "aim" || Array.isArray(adding)) && (
        <NewCallout
          page={page}
          at={adding}
          onKept={() => setAdding(part.document.sheet ? "aim" : [0, 0])}
          onDone={() => setAdding(null)}
        />
      )}
      <ol className="min-h-0 grow overflow-auto" aria-label="Callouts">
        {callouts.map((c) => {
          const v = verdicts.get(c.id);
          return (
            <li
              key={c.id}
              className={`group flex items-center border-t border-hair ${lit === c.id ? "bg-redwash" : ""}`}
            >
              {correcting === c.id ? (
                <Correcting callout={c} onDone={() => setCorrecting(null)} />
              ) : (
                <button
                  type="button"
                  className="flex min-w-0 grow items-center gap-2.5 px-3.5 py-1.5 text-left"
                  title={part.callouts[c.id]?.said}
                  onClick={() => pressCallout(c)}
                  onDoubleClick={() => editable() && setCorrecting(c.id)}
                >
                  <Balloon number={c.number} tone={v?.state === "open" ? "faint" : "ink"} />
                  <span className="min-w-0 grow break-words font-mono text-[13px]">
                    <NotationText text={c.text} />
                  </span>
                  <span
                    className={`shrink-0 max-w-[46%] truncate font-cond text-[12.5px] ${TONE[v?.state ?? "open"]}`}
                    title={v?.said}
                  >
                    {v?.said.split(";")[0] ?? "…"}
                  </span>
                </button>
              )}
              {editable() && correcting !== c.id && (
                <button
                  type="button"
                  aria-label={`Correct callout ${c.number}`}
                  title="Correct its text"
                  className="pr-2 text-faint opacity-0 focus:opacity-100 group-hover:opacity-100"
                  onClick={() => setCorrecting(c.id)}
                >
                  ✎
                </button>
              )}
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
            No callouts yet. Press “balloon”, then a size on the drawing, and type it as it stands there: 3X
            Ø3.4 THRU, 48 ±0.1, R6.
          </li>
        )}
      </ol>
    </>
  );
}

/** A callout's text corrected where it stands. */
function Correcting({ callout, onDone }: { callout: Callout; onDone: () => void }) {
  const [text, setText] = useState(callout.text);
  async function keep() {
    if (
      text.trim() === callout.text ||
      (await run({ do: "set_callout", callout: { ...callout, text: text.trim() } }))
    )
      onDone();
  }
  return (
    <div className="flex min-w-0 grow items-center gap-2.5 px-3.5 py-1">
      <Balloon number={callout.number} tone="red" />
      <input
        className="field font-mono"
        aria-label={`Text of callout ${callout.number}`}
        autoFocus
        value={text}
        onFocus={(e) => e.currentTarget.select()}
        onChange={(e) => setText(e.target.value)}
        onBlur={keep}
        onKeyDown={(e) => {
          if (e.key === "Enter") e.currentTarget.blur();
          if (e.key === "Escape") onDone();
          e.stopPropagation();
        }}
      />
    </div>
  );
}

function NewCallout({
  page,
  at,
  onKept,
  onDone,
}: {
  page: number;
  at: XY | "aim";
  onKept: () => void;
  onDone: () => void;
}) {
  const [text, setText] = useState("");
  if (at === "aim")
    return (
      <p className="flex border-t border-hair bg-redwash px-3.5 py-1.5 text-red">
        <span className="grow">Press a size on the drawing; Esc when all are ballooned.</span>
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
    if (!(await run({ do: "set_callout", callout }))) return;
    setText("");
    onKept();
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
