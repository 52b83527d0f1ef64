/** The profile check in the route: what was found, each lit on the board, mended one by one or all at once. */
import { useState } from "react";
import type { Refused } from "../api/client";
import type { Check, Finding } from "../api/types";
import { editable, useBoard } from "../state/store";
import { mend, stopTrying, tryMending, useCheck } from "./findings";

const KIND: Record<string, [string, string]> = {
  "off plane": ["off the plane", "lay flat"],
  "no length": ["without length", "take out"],
  tiny: ["leftover", "take out"],
  duplicate: ["drawn twice", "keep one"],
  overlap: ["on each other", "make one"],
  gap: ["gap", "join"],
  "near miss": ["near miss", "join"],
  tail: ["stray tail", "cut off"],
  crossing: ["crossing", ""],
  branching: ["branching", ""],
  "open chain": ["open chain", ""],
  "part edges": ["along an edge of the part", ""],
};
const MANY: Record<string, string> = {
  tiny: "leftovers",
  gap: "gaps",
  "near miss": "near misses",
  tail: "stray tails",
  crossing: "crossings",
  branching: "branchings",
  "open chain": "open chains",
};
const SHOWN = 60;

export function ProfileCheck() {
  const open = useBoard((s) => s.checking);
  if (!open)
    return (
      <button type="button" className="btn mt-1.5" onClick={() => useBoard.setState({ checking: true })}>
        Check the profile
      </button>
    );
  return <Found />;
}

function Found() {
  const answer = useCheck();
  const mending = useBoard((s) => s.mending);
  const found = answer.data;
  if (answer.error) return <p className="text-red">{(answer.error as Refused).sentence}</p>;
  if (!found) return <p className="mt-2 text-pencil">Looking at every line …</p>;
  const mendable = found.findings.filter((f) => f.mends);
  return (
    <section aria-label="Profile check" className="mt-2">
      <div className="flex items-baseline">
        <h3 className="head mb-1 text-[11.5px]">Profile check</h3>
        <span className="grow" />
        <button
          type="button"
          className="font-cond text-[12.5px] text-pencil underline"
          onClick={() => useBoard.setState({ checking: false, mending: null, shown: [] })}
        >
          close
        </button>
      </div>
      <p className={found.findings.length ? "" : "text-proof"}>{summary(found)}</p>
      <Tolerance found={found} />
      {mendable.length > 0 && editable() && (
        <button
          type="button"
          className="btn btn-main mb-1 mt-1"
          onClick={() => mend(found.tolerance)}
          onPointerEnter={() => tryMending(found.tolerance)}
          onPointerLeave={stopTrying}
          onFocus={() => tryMending(found.tolerance)}
          onBlur={stopTrying}
        >
          Mend all {mendable.length}
        </button>
      )}
      {mendable.length > 0 && editable() && (
        // the room is kept, so that the rows do not move away from under the pointer
        <p
          role="status"
          className={`mb-1 h-[2.9em] overflow-hidden ${mending ? "text-proof" : "text-pencil"}`}
        >
          {mending
            ? `Would give: ${mending.said.join(" ")}`
            : "Rest the pointer on a mend to see what it would give."}
        </p>
      )}
      <ol aria-label="Findings">
        {found.findings.slice(0, SHOWN).map((f) => (
          <Row key={f.key + f.at} finding={f} tolerance={found.tolerance} />
        ))}
      </ol>
      {found.findings.length > SHOWN && (
        <p className="text-pencil">and {found.findings.length - SHOWN} more</p>
      )}
    </section>
  );
}

function summary(found: Check): string {
  const regions = `${found.regions} closed region${found.regions === 1 ? "" : "s"}`;
  const curves = `${found.curves} curve${found.curves === 1 ? "" : "s"}`;
  if (!found.findings.length) return `${curves}, ${regions}: nothing to mend.`;
  const counts = Object.entries(found.counts).map(
    ([kind, n]) => `${n} ${n > 1 ? (MANY[kind] ?? KIND[kind][0]) : KIND[kind][0]}`,
  );
  return `${curves}, ${regions}; ${counts.join(", ")}.`;
}

function Tolerance({ found }: { found: Check }) {
  const [text, setText] = useState<string | null>(null);
  const set = () => {
    const mm = Number((text ?? "").replace(",", "."));
    if (mm > 0 && mm <= 100) useBoard.setState({ tolerance: mm, mending: null });
    setText(null);
  };
  return (
    <label className="flex items-baseline gap-2 text-pencil">
      meant as one within
      <input
        className="slot font-mono text-ink"
        aria-label="Tolerance of the profile check, mm"
        value={text ?? String(Number(found.tolerance.toPrecision(3)))}
        onFocus={(e) => e.currentTarget.select()}
        onChange={(e) => setText(e.target.value)}
        onBlur={set}
        onKeyDown={(e) => {
          if (e.key === "Enter") set();
          e.stopPropagation();
        }}
      />
      mm
    </label>
  );
}

function Row({ finding, tolerance }: { finding: Finding; tolerance: number }) {
  const refs = finding.refs;
  return (
    <li className="flex items-baseline gap-2 border-b border-hair py-0.5">
      <button
        type="button"
        className="min-w-0 grow text-left hover:text-red focus:text-red"
        onPointerEnter={() => useBoard.setState({ shown: refs })}
        onPointerLeave={() => useBoard.setState({ shown: [] })}
        onFocus={() => useBoard.setState({ shown: refs })}
        onBlur={() => useBoard.setState({ shown: [] })}
        onClick={() => useBoard.setState({ chosen: refs })}
      >
        {finding.said}
      </button>
      {finding.mends && editable() && (
        <button
          type="button"
          aria-label={`${KIND[finding.kind][1]}: ${finding.said}`}
          className="shrink-0 font-cond text-[12.5px] text-red underline"
          onClick={() => mend(tolerance, [finding])}
          onPointerEnter={() => tryMending(tolerance, [finding])}
          onPointerLeave={stopTrying}
        >
          {KIND[finding.kind][1]}
        </button>
      )}
    </li>
  );
}
