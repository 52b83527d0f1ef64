/** The list of callouts read from the sheet. */
import { useState } from "react";
import type { Callout, Verdict, XY } from "../api/types";
import { run } from "../document/commands";
import { board, editable, type SheetMode, useBoard } from "../state/store";
import { Balloon } from "../ui/ui";
import { useEscape } from "../ui/useEscape";
import { CalloutRow } from "./CalloutRow";
import { useSpokenOf } from "./lit";
import { type NumberedBy, numberBy } from "./numberBy";
import { openReading } from "./readSheet";
import { SeveralCallouts } from "./SeveralCallouts";
import { balloon, workOut } from "./sheetActions";
import { WorkingOut } from "./WorkingOut";

type Sorted = "number" | "state";
const SHOWN = ["all", "open", "used", "proven", "out", "changed"] as const;
type Shown = (typeof SHOWN)[number];
const URGENT = ["changed", "out", "open", "used", "proven", "reference", "note"];

const setMode = (sheetMode: SheetMode) => useBoard.setState({ sheetMode });
const endBallooning = () => setMode(null);

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
  useEscape(ballooning, endBallooning);
  const count = (state: string) => [...verdicts.values()].filter((v) => v.state === state).length;
  const spoken = useSpokenOf();
  const listed = callouts
    .filter((c) => shown === "all" || stateOf(c) === shown)
    .sort(
      (a, b) =>
        (sorted === "state" ? URGENT.indexOf(stateOf(a)) - URGENT.indexOf(stateOf(b)) : 0) ||
        a.number - b.number,
    );
  function through(c: Callout) {
    const { several, callout } = board();
    const from = listed.findIndex((o) => o.id === (several.at(-1) ?? callout ?? c.id));
    const to = listed.indexOf(c);
    const between = listed.slice(Math.min(from, to), Math.max(from, to) + 1).map((o) => o.id);
    if (to < from) between.reverse();
    const before = several.length ? several : callout ? [callout] : [];
    useBoard.setState({ callout: null, several: [...new Set([...before, ...between])] });
  }
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
      <SeveralCallouts />
      <ol className="min-h-0 grow overflow-auto" aria-label="Callouts">
        {listed.map((c) => (
          <CalloutRow
            key={c.id}
            callout={c}
            through={through}
            verdict={verdicts.get(c.id)}
            spoken={spoken.has(c.id)}
          />
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
      onChange={(e) => e.target.value && numberBy(e.target.value as NumberedBy)}
    >
      <option value="">number …</option>
      <option value="views">view by view</option>
      <option value="around">round the page</option>
      <option value="size">by size</option>
    </select>
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
