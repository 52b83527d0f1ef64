/** What would finish the open sketch: each suggestion in words, lit on the board, taken with one press. */
import { useQuery } from "@tanstack/react-query";
import { get, type Refused } from "../api/client";
import type { components } from "../api/schema.gen";
import { editable, useBoard } from "../state/store";
import { lengthSaid } from "../ui/measures";
import { Balloon } from "../ui/ui";
import { Waiting } from "../ui/Waiting";
import { takeSuggestions } from "./takeSuggestions";

type Answer = components["schemas"]["SuggestionsOut"];

export function Suggestions({ step }: { step: string }) {
  const part = useBoard((s) => s.part)!;
  const on = useBoard((s) => s.suggesting);
  const unit = part.document.unit;
  const answer = useQuery({
    queryKey: ["suggestions", part.id, part.version, step],
    queryFn: ({ signal }) => get<Answer>(`/api/parts/${part.id}/sketches/${step}/suggestions`, signal),
    enabled: on,
    placeholderData: (before) => before,
  });
  if (!editable()) return null;
  if (!on)
    return (
      <button
        type="button"
        className="btn mt-1.5"
        onClick={() => useBoard.setState({ suggesting: true, fitting: false, fitted: null })}
      >
        Suggest how to finish
      </button>
    );
  const list = answer.data?.suggestions ?? [];
  return (
    <section aria-label="Suggestions" className="mt-2">
      <h3 className="head mb-1 text-[11.5px]">What would finish it</h3>
      {answer.isPending && (
        <Waiting words="Looking at what is nearly so" stop={() => useBoard.setState({ suggesting: false })} />
      )}
      {answer.error && <p className="text-red">{(answer.error as Refused).sentence}</p>}
      {list.length > 0 && (
        <button type="button" className="btn btn-main mb-1" onClick={() => takeSuggestions(step, list)}>
          Take all {list.length}
        </button>
      )}
      {list.length > 0 && (answer.data?.left ?? 0) > 0 && (
        <p className="text-pencil">
          They leave {answer.data!.left} free; once they are taken the rest is looked at.
        </p>
      )}
      <ol>
        {list.map((s) => (
          <li key={[...s.constraints, ...s.dimensions][0].id}>
            <button
              type="button"
              className="flex w-full items-center gap-2 py-0.5 text-left hover:text-red focus:text-red"
              title={
                s.moves < 1e-6
                  ? "Nothing moves for it"
                  : `The geometry moves by up to ${lengthSaid(s.moves, unit, 4)}`
              }
              onPointerEnter={() => useBoard.setState({ shown: s.refs })}
              onPointerLeave={() => useBoard.setState({ shown: [] })}
              onFocus={() => useBoard.setState({ shown: s.refs })}
              onBlur={() => useBoard.setState({ shown: [] })}
              onClick={() => takeSuggestions(step, [s])}
            >
              {s.callout && (
                <Balloon
                  number={part.document.callouts?.find((c) => c.id === s.callout)?.number ?? 0}
                  size={17}
                />
              )}
              <span className="min-w-0 grow">{s.said[0].toUpperCase() + s.said.slice(1)}</span>
              <span className="shrink-0 font-mono text-[12px] text-pencil">
                {s.takes ? `−${s.takes}` : "ref"}
              </span>
            </button>
          </li>
        ))}
      </ol>
    </section>
  );
}
