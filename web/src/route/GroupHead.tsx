/** Steps of one group on the route: its heading, under which they fold away. */
import type { Step, StepReport } from "../api/types";
import { run } from "../document/commands";
import { editable, useBoard } from "../state/store";
import { changeSaid } from "../ui/measures";

/** Whether a group starts with this step: it has one, and the step before does not have the same. */
export const begins = (list: Step[], i: number) => !!list[i].group && list[i - 1]?.group !== list[i].group;

/** The steps of the group that starts here. */
export function membersFrom(list: Step[], first: number): Step[] {
  let end = first;
  while (end < list.length && list[end].group === list[first].group) end++;
  return list.slice(first, end);
}

/** The id of the step that heads a step's group; empty for one of no group. */
export function headOf(list: Step[], i: number): string {
  if (!list[i].group) return "";
  let first = i;
  while (first > 0 && list[first - 1].group === list[i].group) first--;
  return list[first].id;
}

export function flipped(all: ReadonlySet<string>, id: string): ReadonlySet<string> {
  const next = new Set(all);
  if (!next.delete(id)) next.add(id);
  return next;
}

export function GroupHead({
  members,
  first,
  reports,
  folded,
  onFold,
}: {
  members: Step[];
  first: number;
  reports: Map<string, StepReport>;
  folded: boolean;
  onFold: () => void;
}) {
  const unit = useBoard((s) => s.part!.document.unit);
  const massUnit = useBoard((s) => s.part!.document.mass_unit);
  const sum = (key: "mass_change" | "volume_change") => {
    const known = members.map((m) => reports.get(m.id)?.[key] ?? null).filter((v) => v !== null);
    return known.length ? known.reduce((a, b) => a + b, 0) : null;
  };
  const failing = members.filter((m) => reports.get(m.id)?.state === "failed").length;
  const all = members.every((m) => m.suppressed);
  const name = members[0].group!;
  const ids = members.map((m) => m.id);
  return (
    <div className="group flex items-baseline gap-2 bg-vellum px-3.5 py-1.5">
      <button
        type="button"
        aria-expanded={!folded}
        aria-label={`Group ${name}`}
        className="flex min-w-0 grow items-baseline gap-2 text-left"
        onClick={onFold}
      >
        <span className="w-[18px] text-pencil" aria-hidden="true">
          {folded ? "▸" : "▾"}
        </span>
        <b className="min-w-0 truncate font-semibold">{name}</b>
        <span className="shrink-0 font-mono text-[12px] text-pencil group-hover:hidden">
          {10 * (first + 1)}
          {members.length > 1 && `–${10 * (first + members.length)}`}
        </span>
        {failing > 0 && <span className="shrink-0 text-red">{failing} failing</span>}
      </button>
      {editable() && (
        <span className="hidden gap-2 font-cond text-[12px] text-pencil focus-within:flex group-focus-within:flex group-hover:flex">
          <button
            type="button"
            className="underline"
            onClick={() => run({ do: "suppress_steps", steps: ids, suppressed: !all })}
          >
            {all ? "take back in" : "suppress"}
          </button>
          <button
            type="button"
            className="underline"
            onClick={() => run({ do: "group_steps", first: ids[0], last: ids[ids.length - 1], name: "" })}
          >
            ungroup
          </button>
        </span>
      )}
      <span className="shrink-0 font-mono text-[12px] text-pencil group-hover:hidden">
        {changeSaid(sum("mass_change"), sum("volume_change"), massUnit, unit)}
      </span>
    </div>
  );
}
