/** Several steps of the route taken at once: what can be done with all of them. */
import { useState } from "react";
import { run } from "../document/commands";
import { board, editable, numberOf, steps, useBoard } from "../state/store";

/** Take another step of the route too: all from the open one on to it (``onto``), or just that one. */
export function chooseAlso(id: string, onto: boolean) {
  const { part, also, openStep } = board();
  const list = steps(part).map((s) => s.id);
  const from = openStep ?? also[also.length - 1] ?? id;
  const [a, b] = [list.indexOf(from), list.indexOf(id)].sort((x, y) => x - y);
  const chosen = new Set(also.length || !openStep ? also : [openStep]);
  if (onto) for (const s of list.slice(a, b + 1)) chosen.add(s);
  else if (!chosen.delete(id)) chosen.add(id);
  useBoard.setState({ also: list.filter((s) => chosen.has(s)), openStep: onto ? openStep : null });
}

/** Take out several steps, the last first. */
export function deleteSteps(ids: string[]) {
  const commands = [...ids].reverse().map((step) => ({ do: "delete_step" as const, step }));
  run({ do: "together", commands }).then((ok) => ok && useBoard.setState({ also: [], openStep: null }));
}

export function SeveralSteps() {
  const part = useBoard((s) => s.part)!;
  const also = useBoard((s) => s.also);
  const [name, setName] = useState<string | null>(null);
  const taken = steps(part).filter((s) => also.includes(s.id));
  if (taken.length < 1 || !editable()) return null;
  const ids = taken.map((s) => s.id);
  const out = taken.every((s) => s.suppressed);
  const done = (ok: boolean) => ok && useBoard.setState({ also: [] });
  const numbers = ids.map((id) => numberOf(part, id));
  const inRow = numbers.every((n, i) => i === 0 || n === numbers[i - 1] + 10);
  return (
    <section aria-label="Several steps" className="border-y border-hair bg-vellum px-3.5 py-2">
      <p className="mb-1">
        {taken.length} step{taken.length === 1 ? "" : "s"} taken:{" "}
        <span className="font-mono">{numbers.join(", ")}</span>
      </p>
      <div className="flex flex-wrap gap-2">
        <button
          type="button"
          className="btn"
          onClick={() => run({ do: "suppress_steps", steps: ids, suppressed: !out }).then(done)}
        >
          {out ? "Take back in" : "Suppress"}
        </button>
        {name === null ? (
          <button type="button" className="btn" disabled={!inRow} onClick={() => setName("")}>
            Group
          </button>
        ) : (
          <input
            className="field w-[130px]"
            aria-label="Name of the group"
            placeholder="name of the group"
            autoFocus
            value={name}
            onChange={(e) => setName(e.target.value)}
            onKeyDown={(e) => {
              if (e.key === "Enter" && name.trim())
                run({ do: "group_steps", first: ids[0], last: ids[ids.length - 1], name }).then((ok) => {
                  done(ok);
                  if (ok) setName(null);
                });
              if (e.key === "Escape") setName(null);
              e.stopPropagation();
            }}
          />
        )}
        <button type="button" className="btn" onClick={() => deleteSteps(ids)}>
          Delete
        </button>
        <button type="button" className="btn" onClick={() => useBoard.setState({ also: [] })}>
          Let go
        </button>
      </div>
    </section>
  );
}
