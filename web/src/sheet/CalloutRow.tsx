/** One callout of the list: what it says, how it stands, corrected where it stands. */
import { useState } from "react";
import type { Callout, Verdict } from "../api/types";
import { run } from "../document/commands";
import { board, editable, useBoard } from "../state/store";
import { NotationText } from "../ui/NotationText";
import { Balloon } from "../ui/ui";
import { Likely } from "./Likely";
import { pressCallout } from "./pressCallout";
import { overIds } from "./WorkingOut";

const TONE: Record<string, string> = {
  proven: "text-proof",
  out: "text-red",
  used: "text-ink font-semibold",
  open: "text-pencil",
  note: "text-pencil",
  reference: "text-ochre",
  changed: "text-red font-semibold",
};

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
  through: (c: Callout) => void; // chosen with all between it and the one chosen last
  verdict: Verdict | undefined;
  spoken: boolean; // it speaks of what is chosen in the middle
}

export function CalloutRow({ callout: c, through, verdict: v, spoken }: RowProps) {
  const read = useBoard((s) => s.part?.callouts[c.id]);
  const lit = useBoard((s) => s.callout === c.id);
  const among = useBoard((s) => s.several.includes(c.id));
  const [correcting, setCorrecting] = useState(false);
  return (
    <li className="border-t border-hair" data-spoken={spoken || undefined}>
      <div
        className={`group flex items-center ${lit || among ? "bg-redwash" : spoken ? "bg-proofwash" : ""}`}
      >
        {correcting ? (
          <Correcting callout={c} onDone={() => setCorrecting(false)} />
        ) : (
          <button
            type="button"
            className="flex min-w-0 grow items-center gap-2.5 px-3.5 py-1.5 text-left"
            title={read?.said}
            aria-pressed={lit || among}
            onClick={(e) => (e.shiftKey ? through(c) : pressCallout(c, e.ctrlKey || e.metaKey))}
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
