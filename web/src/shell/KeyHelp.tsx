import { useBoard } from "../state/store";
import { Sheet } from "../ui/ui";
import { allActions } from "./actions";

const POINTER = [
  ["Press", "choose; Shift takes more than one"],
  ["Drag a loose point or rim", "moves it as far as its constraints allow"],
  ["Right drag", "turns the part"],
  ["Middle drag, or Space + drag", "moves the view"],
  ["Wheel", "zooms at the pointer"],
  ["Tab", "steps on to what else lies under the pointer; between values while drawing"],
  ["Alt while drawing", "holds off inference"],
  ["Esc", "steps back one level"],
];

/** All keys, and what the pointer does. */
export function KeyHelp() {
  const open = useBoard((s) => s.dialog === "keys");
  return (
    <Sheet
      title="Keys and pointer"
      open={open}
      onOpenChange={(is) => useBoard.setState({ dialog: is ? "keys" : null })}
    >
      <dl className="grid grid-cols-[170px_1fr] gap-y-0.5">
        {POINTER.map(([k, v]) => (
          <div key={k} className="contents">
            <dt className="font-medium">{k}</dt>
            <dd className="text-pencil">{v}</dd>
          </div>
        ))}
      </dl>
      <ul
        tabIndex={0}
        aria-label="Keys"
        className="mt-3 max-h-[430px] columns-2 overflow-auto border-t border-hair pt-3"
      >
        {allActions().map((a) => (
          <li key={a.id} className="flex justify-between pr-4">
            {a.words} <span className="font-mono text-[12px] text-pencil">{a.keys}</span>
          </li>
        ))}
      </ul>
    </Sheet>
  );
}
