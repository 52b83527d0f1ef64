/** What the order adviser says of a step, with a look at the part as it would be, and one press to do it. */

import type { Advice, Step } from "../api/types";
import { type CommandDraft, editable, numberOf, useBoard } from "../state/store";
import { grams, volumeSaid } from "../ui/measures";
import { Waiting } from "../ui/Waiting";
import { findPlaces, follow, leavePlaces, lookAt, stopLooking } from "./advice";

export function AdviceLine({ advice }: { advice: Advice }) {
  const looking = useBoard((s) => s.looking);
  const command = advice.command as CommandDraft | null;
  const seen = command !== null && looking === JSON.stringify(command);
  return (
    <div
      role="note"
      aria-label="Order adviser"
      className="ml-[34px] mt-1 border-l-2 border-ochre pl-2 text-ochre"
    >
      {advice.said}
      {advice.grams !== null && Math.abs(advice.grams) > 0.0005 && ` That is ${change(advice.grams)}.`}
      {command && (
        <span className="mt-1 flex flex-wrap gap-2">
          <button
            type="button"
            className="btn text-ink"
            aria-pressed={seen}
            onClick={() => (seen ? stopLooking() : lookAt(command))}
          >
            {seen ? "Stop looking" : "Look"}
          </button>
          {editable() && (
            <button type="button" className="btn text-ink" onClick={() => follow(command)}>
              {advice.label}
            </button>
          )}
        </span>
      )}
    </div>
  );
}

const change = (g: number) => `${g > 0 ? "+" : "−"}${grams(Math.abs(g))}`;

/** Where a step could stand, and what would differ there. */
export function Places({ step }: { step: Step }) {
  const places = useBoard((s) => (s.places?.step === step.id ? s.places : null));
  const looking = useBoard((s) => s.looking);
  const part = useBoard((s) => s.part!);
  if (!places)
    return (
      <button type="button" className="btn" onClick={() => findPlaces(step.id)}>
        Where could it stand?
      </button>
    );
  if (!places.list)
    return (
      <p className="text-pencil" aria-live="polite">
        <Waiting words="Trying every place" stop={leavePlaces} />
      </p>
    );
  const others = places.list.filter((p) => !p.now);
  if (!others.length) return <p className="w-full text-pencil">It can stand nowhere else.</p>;
  return (
    <ul aria-label="Places on the route" className="w-full border-l-2 border-hair pl-2">
      {others.map((p) => {
        const command: CommandDraft = { do: "move_step", step: step.id, before: p.before, bring: true };
        const seen = looking === JSON.stringify(command);
        const where = p.before ? `before step ${numberOf(part, p.before)}` : "at the end";
        const what = p.failing.length
          ? `step ${p.failing.map((f) => numberOf(part, f)).join(", ")} would fail`
          : Math.abs(p.volume) < 5e-3
            ? "the same volume"
            : p.grams !== null
              ? change(p.grams)
              : `${p.volume > 0 ? "+" : "−"}${volumeSaid(Math.abs(p.volume), part.document.unit)}`;
        return (
          <li key={p.before ?? "end"} className="flex flex-wrap items-center gap-2 py-0.5">
            <span>
              {where}: <span className={p.failing.length ? "text-red" : "text-pencil"}>{what}</span>
            </span>
            <button type="button" className="btn" onClick={() => (seen ? stopLooking() : lookAt(command))}>
              {seen ? "Stop looking" : "Look"}
            </button>
            <button type="button" className="btn" onClick={() => follow(command)}>
              Move
            </button>
          </li>
        );
      })}
    </ul>
  );
}
