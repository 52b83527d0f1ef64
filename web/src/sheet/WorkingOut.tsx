/** A size worked out from others: balloons pressed between operators, and what it comes to in figures. */
import { useEffect, useRef } from "react";
import { run } from "../document/commands";
import { board, useBoard } from "../state/store";
import { Balloon } from "../ui/ui";

const BETWEEN = [
  ["+", "+"],
  ["−", "-"],
  ["×", "*"],
  ["÷", "/"],
] as const;

/** The arithmetic with balloons' numbers in brackets, over the callouts' ids; null where a number is nobody's. */
export function overIds(text: string): string | null {
  let known = true;
  const made = text.replace(/\[(\d+)\]/g, (_, number) => {
    const found = board().part?.document.callouts?.find((c) => c.number === Number(number));
    if (!found) known = false;
    return found?.id ?? "";
  });
  return known ? made.replace(/−/g, "-").replace(/×/g, "*").replace(/÷/g, "/") : null;
}

/** And with the sizes themselves in their places. */
function inFigures(text: string): string {
  const { part } = board();
  return text
    .replace(/\[(\d+)\]/g, (whole, number) => {
      const found = part?.document.callouts?.find((c) => c.number === Number(number));
      return (found && part?.callouts[found.id]?.typed.replace(" mm", "")) || whole;
    })
    .replace(/-/g, "−")
    .replace(/\*/g, "×");
}

export function WorkingOut() {
  const text = useBoard((s) => s.workingOut)!;
  const callouts = useBoard((s) => s.part!.document.callouts ?? []);
  const field = useRef<HTMLInputElement>(null);
  const top = Math.max(0, ...callouts.map((c) => c.number));
  const set = (workingOut: string | null) => useBoard.setState({ workingOut });
  // biome-ignore lint/correctness/useExhaustiveDependencies: after a balloon was pressed the next thing is typed
  useEffect(() => field.current?.focus(), [text]);
  async function keep() {
    const worked = overIds(text);
    const id = Math.max(0, ...callouts.map((c) => Number(c.id.slice(1))));
    const callout = {
      id: `b${id + 1}`,
      number: top + 1,
      text: "",
      worked: worked ?? text,
      page: board().sheetPage,
    };
    if ((await run({ do: "set_callout", callout })) && board().workingOut === text) set(""); // not if left meanwhile
  }
  return (
    <section aria-label="A size worked out" className="border-t border-hair bg-redwash px-3.5 py-1.5">
      <div className="flex items-center gap-2">
        <Balloon number={top + 1} tone="red" />
        <input
          ref={field}
          className="field font-mono"
          aria-label="Arithmetic"
          placeholder="press balloons: [1] - [2]"
          value={text}
          onChange={(e) => set(e.target.value)}
          onKeyDown={(e) => {
            if (e.key === "Enter" && text.trim()) keep();
            if (e.key === "Escape") set(null);
            e.stopPropagation();
          }}
        />
      </div>
      <div className="mt-1 flex items-center gap-2.5 font-mono text-[13px]">
        {BETWEEN.map(([shown, sign]) => (
          <button
            key={sign}
            type="button"
            aria-label={{ "+": "plus", "-": "minus", "*": "times", "/": "divided by" }[sign]}
            className="border border-hair bg-panel px-2"
            onClick={() => set(`${text.trimEnd()} ${sign} `)}
          >
            {shown}
          </button>
        ))}
        <span role="status" className="grow truncate text-pencil">
          {inFigures(text)}
        </span>
        <button type="button" className="font-cond text-[12.5px] underline" onClick={() => set(null)}>
          leave
        </button>
      </div>
    </section>
  );
}
