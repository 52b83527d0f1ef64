/** Callouts that are chosen together. */
import { run } from "../document/commands";
import { type CommandDraft, editable, useBoard } from "../state/store";
import { useEscape } from "../ui/useEscape";

const letGo = () => useBoard.setState({ several: [] });

/** What can be done with callouts that are chosen together. */
export function SeveralCallouts() {
  const several = useBoard((s) => s.several);
  const known = useBoard((s) => s.part?.document.callouts) ?? [];
  const chosen = several.filter((id) => known.some((c) => c.id === id)); // others may be gone meanwhile
  const any = chosen.length > 0;
  useEscape(any, letGo);
  if (!any) return null;
  const act = (command: CommandDraft) => run(command).then((done) => done && letGo());
  return (
    <div
      role="group"
      aria-label="Chosen callouts"
      className="flex shrink-0 flex-wrap gap-x-2.5 border-t border-hair bg-redwash px-3.5 py-0.5 font-cond text-[12px]"
    >
      <span className="grow">{chosen.length} chosen</span>
      {editable() && (
        <button
          type="button"
          className="underline"
          title="In the order they were pressed; the others behind them"
          onClick={() => act({ do: "number_callouts", by: "hand", order: chosen })}
        >
          number them first
        </button>
      )}
      {editable() && (
        <button
          type="button"
          className="underline"
          onClick={() =>
            act({ do: "together", commands: chosen.map((callout) => ({ do: "delete_callout", callout })) })
          }
        >
          delete
        </button>
      )}
      <button type="button" className="underline" onClick={letGo}>
        let go
      </button>
    </div>
  );
}
