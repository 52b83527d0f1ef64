/** The list of callouts read from the sheet. */
import { useEffect, useState } from "react";
import type { Callout, Verdict, XY } from "../api/types";
import { run } from "../document/commands";
import { board, editable, type SheetMode, useBoard } from "../state/store";
import { NotationText } from "../ui/NotationText";
import { Balloon } from "../ui/ui";
import { Likely } from "./Likely";
import { useSpokenOf } from "./lit";
import { pressCallout } from "./pressCallout";
import { openReading } from "./readSheet";
import { balloon, workOut } from "./sheetActions";
import { overIds, WorkingOut } from "./WorkingOut";

const TONE: Record<string, string> = {
  proven: "text-proof",
  out: "text-red",
  used: "text-ink font-semibold",
  open: "text-pencil",
  note: "text-pencil",
  reference: "text-ochre",
  changed: "text-red font-semibold",
};

type Sorted = "number" | "state";
const SHOWN = ["all", "open", "used", "proven", "out", "changed"] as const;
type Shown = (typeof SHOWN)[number];
const URGENT = ["changed", "out", "open", "used", "proven", "reference", "note"];

const setMode = (sheetMode: SheetMode) => useBoard.setState({ sheetMode });

export function Callouts({ page }: { page: number }) {
  const part = useBoard((s) => s.part)!;
  const build = useBoard((s) => s.build);
  const adding = useBoard((s) => s.sheetMode);
  const working = useBoard((s) => s.workingOut !== null);
  const [shown, setShown] = useState<Shown>("all");
  const [sorted, setSorted] = useState<Sorted>("number");
  const callouts = part.document.callouts ?? [];
  const verdicts = new Map<string, Verdict>((build?.callouts ?? []).map((v) => [v.callout, v]));
  const stateOf = (c: Callout) => verdicts.get(c.id)?.state ?? "open";
  const ballooning = adding === "aim" || Array.isArray(adding);
  useEffect(() => {
    if (!ballooning) return;
    const leave = (e: KeyboardEvent) => {
      if (e.key !== "Escape") return;
      setMode(null);
      e.stopPropagation();
    };
    window.addEventListener("keydown", leave, true);
    return () => window.removeEventListener("keydown", leave, true);
  }, [ballooning]);
  const count = (state: string) => [...verdicts.values()].filter((v) => v.state === state).length;
  const spoken = useSpokenOf();
  const listed = callouts
    .filter((c) => shown === "all" || stateOf(c) === shown)
    .sort(
      (a, b) =>
        (sorted === "state" ? URGENT.indexOf(stateOf(a)) - URGENT.indexOf(stateOf(b)) : 0) ||
        a.number - b.number,
    );
  return (
    <>
      <div className="flex h-9 shrink-0 items-center gap-2.5 px-3.5 font-cond text-[12.5px] text-pencil">
        <h2 className="head">Callouts</h2>
        <span className="grow" />
        {editable() && part.document.sheet && (
          <button type="button" className="underline" onClick={openReading} title="Read the sheet (s r)">
            read
          </button>
        )}
        {editable() && (
          <button type="button" className="underline" aria-pressed={ballooning} onClick={balloon}>
            balloon
          </button>
        )}
        {editable() && callouts.length > 0 && (
          <button
            type="button"
            className="underline"
            aria-pressed={working}
            title="A size worked out from others (s w)"
            onClick={workOut}
          >
            work out
          </button>
        )}
      </div>
      {ballooning && (
        <NewCallout
          page={page}
          at={adding as XY | "aim"}
          onKept={() => setMode(part.document.sheet ? "aim" : [0, 0])}
          onDone={() => setMode(null)}
        />
      )}
      {working && <WorkingOut />}
      {callouts.length > 0 && (
        <div className="flex shrink-0 flex-wrap items-center gap-x-2 border-t border-hair px-3.5 py-0.5 font-cond text-[12px] text-pencil">
          <span className="grow whitespace-nowrap">
            {count("proven")} proven · {count("used") + count("out")} used · {count("open")} open
          </span>
          <Order count={callouts.length} />
          <select
            aria-label="Sort callouts"
            className="bg-transparent"
            value={sorted}
            onChange={(e) => setSorted(e.target.value as Sorted)}
          >
            <option value="number">by number</option>
            <option value="state">by state</option>
          </select>
          <select
            aria-label="Show callouts"
            className="bg-transparent"
            value={shown}
            onChange={(e) => setShown(e.target.value as Shown)}
          >
            {SHOWN.map((name) => (
              <option key={name}>{name}</option>
            ))}
          </select>
        </div>
      )}
      <ol className="min-h-0 grow overflow-auto" aria-label="Callouts">
        {listed.map((c) => (
          <Row key={c.id} callout={c} verdict={verdicts.get(c.id)} spoken={spoken.has(c.id)} />
        ))}
        {!callouts.length && !adding && (
          <li className="border-t border-hair px-3.5 py-2 text-pencil">
            {part.document.sheet
              ? "No callouts yet. “read” takes every size the sheet has; “balloon” takes the one you press, or what you type: 3X Ø3.4 THRU, 48 ±0.1, R6."
              : "No callouts yet. Press “balloon” and type a size as it stands on the drawing: 3X Ø3.4 THRU, 48 ±0.1, R6."}
          </li>
        )}
        {callouts.length > 0 && !listed.length && (
          <li className="border-t border-hair px-3.5 py-2 text-pencil">None of the callouts is {shown}.</li>
        )}
      </ol>
    </>
  );
}

/** Numbers put in order. */
function Order({ count }: { count: number }) {
  if (!editable() || count < 2) return null;
  return (
    <select
      aria-label="Number the balloons anew"
      className="bg-transparent"
      value=""
      onChange={(e) => e.target.value && run({ do: "number_callouts", by: e.target.value })}
    >
      <option value="">number …</option>
      <option value="around">round the page</option>
      <option value="size">by size</option>
    </select>
  );
}

/** What a newer issue of the sheet says instead: taken, which what it feeds follows, or left as it is. */
function Changed({ callout: c }: { callout: Callout }) {
  const gone = c.newer === "—";
  const take = () =>
    gone
      ? run({ do: "delete_callout", callout: c.id })
      : run({ do: "set_callout", callout: { ...c, text: c.newer, newer: "" } });
  return (
    <p className="flex items-baseline gap-2.5 border-l-2 border-red bg-panel px-3.5 pb-1 text-[12.5px]">
      <span className="grow text-pencil">
        {gone ? "Not on the newer sheet." : "The newer sheet says "}
        {!gone && (
          <span className="font-mono text-ink">
            <NotationText text={c.newer ?? ""} />
          </span>
        )}
      </span>
      <button type="button" className="text-red underline" onClick={take}>
        {gone ? "delete it" : "take it"}
      </button>
      <button
        type="button"
        className="underline"
        onClick={() => run({ do: "set_callout", callout: { ...c, newer: "" } })}
      >
        leave it
      </button>
    </p>
  );
}

/** What nothing uses yet can be proven by pointing at faces; what is so proven can be let go. */
function Below({ callout: c, verdict: v }: { callout: Callout; verdict: Verdict | undefined }) {
  const whole = useBoard((s) => !s.sketch && !s.draft && (s.build?.bodies?.length ?? 0) > 0);
  if (!editable() || !whole || c.link || v?.state === "note") return null;
  if (!c.gauged) return <Likely callout={c} />;
  return (
    <p className="border-l-2 border-proof bg-panel px-3.5 pb-1 text-[12.5px] text-pencil">
      Measured where it was pointed at.{" "}
      <button
        type="button"
        className="underline"
        onClick={() => run({ do: "gauge_callout", callout: c.id, gauged: null })}
      >
        Let it go
      </button>
    </p>
  );
}

interface RowProps {
  callout: Callout;
  verdict: Verdict | undefined;
  spoken: boolean; // it speaks of what is chosen in the middle
}

function Row({ callout: c, verdict: v, spoken }: RowProps) {
  const read = useBoard((s) => s.part?.callouts[c.id]);
  const lit = useBoard((s) => s.callout === c.id);
  const [correcting, setCorrecting] = useState(false);
  return (
    <li className="border-t border-hair" data-spoken={spoken || undefined}>
      <div className={`group flex items-center ${lit ? "bg-redwash" : spoken ? "bg-proofwash" : ""}`}>
        {correcting ? (
          <Correcting callout={c} onDone={() => setCorrecting(false)} />
        ) : (
          <button
            type="button"
            className="flex min-w-0 grow items-center gap-2.5 px-3.5 py-1.5 text-left"
            title={read?.said}
            onClick={() => pressCallout(c)}
            onDoubleClick={() => editable() && setCorrecting(true)}
          >
            <Balloon number={c.number} tone={v?.state === "open" ? "faint" : "ink"} />
            <span className="min-w-0 grow break-words font-mono text-[13px]">
              {c.worked ? (
                <>
                  {read?.typed.replace(" mm", "")}
                  <span className="text-pencil"> = {read?.came}</span>
                </>
              ) : (
                <NotationText text={c.text} />
              )}
            </span>
            <span
              className={`shrink-0 max-w-[46%] truncate font-cond text-[12.5px] ${TONE[v?.state ?? "open"]}`}
              title={v?.said}
            >
              {v?.said.split(";")[0] ?? "…"}
            </span>
          </button>
        )}
        {editable() && !correcting && (
          <button
            type="button"
            aria-label={`Correct callout ${c.number}`}
            title="Correct its text"
            className="pr-2 text-faint opacity-0 focus:opacity-100 group-hover:opacity-100"
            onClick={() => setCorrecting(true)}
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
      </div>
      {c.newer && editable() && !correcting && <Changed callout={c} />}
      {lit && !correcting && <Below callout={c} verdict={v} />}
    </li>
  );
}

/** A callout's text corrected where it stands. */
function Correcting({ callout, onDone }: { callout: Callout; onDone: () => void }) {
  const numbered = (worked: string) =>
    worked.replace(/b\d+/g, (id) => {
      const other = board().part?.document.callouts?.find((c) => c.id === id);
      return `[${other?.number ?? "?"}]`;
    });
  const [text, setText] = useState(callout.worked ? numbered(callout.worked) : callout.text);
  async function keep() {
    const plain = text.trim();
    const changed = callout.worked ? { worked: overIds(plain) ?? plain } : { text: plain };
    const same = callout.worked ? changed.worked === callout.worked : plain === callout.text;
    if (same || (await run({ do: "set_callout", callout: { ...callout, ...changed } }))) onDone();
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
