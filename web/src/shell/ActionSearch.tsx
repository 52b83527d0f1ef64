import { useEffect, useState } from "react";
import { useBoard } from "../state/store";
import { Sheet } from "../ui/ui";
import { answering } from "./answering";

/** Search over all actions, bodies and part data; those that make no sense now say so. */
export function ActionSearch() {
  const open = useBoard((s) => s.dialog === "actions");
  const setOpen = (is: boolean) => useBoard.setState({ dialog: is ? "actions" : null });
  const [text, setText] = useState("");
  const [at, setAt] = useState(0);
  useEffect(() => {
    if (!open) return;
    setText("");
    setAt(0);
  }, [open]);
  const found = answering(text);
  const choose = (i: number) => {
    const a = found[i];
    if (!a?.when()) return;
    setOpen(false);
    setTimeout(a.run);
  };
  return (
    <Sheet title="All actions" open={open} onOpenChange={setOpen}>
      <input
        className="field mb-2"
        aria-label="Search actions"
        placeholder="What do you want to do?"
        autoFocus
        value={text}
        onChange={(e) => {
          setText(e.target.value);
          setAt(0);
        }}
        onKeyDown={(e) => {
          if (e.key === "ArrowDown") setAt(Math.min(at + 1, found.length - 1));
          if (e.key === "ArrowUp") setAt(Math.max(at - 1, 0));
          if (e.key === "Enter") choose(at);
        }}
      />
      <ul className="max-h-[340px] overflow-auto">
        {found.map((a, i) => (
          <li key={`${a.group} ${a.id}`}>
            <button
              type="button"
              disabled={!a.when()}
              onClick={() => choose(i)}
              className={`flex w-full items-baseline justify-between px-2 py-1 text-left disabled:text-faint ${i === at ? "bg-redwash" : ""}`}
            >
              <span>
                {a.words} <span className="text-[12px] text-pencil">{a.group}</span>
              </span>
              <span className="font-mono text-[12px] text-pencil">{a.when() ? a.keys : "not now"}</span>
            </button>
          </li>
        ))}
        {!found.length && <li className="px-2 py-1 text-pencil">No action answers to that.</li>}
      </ul>
    </Sheet>
  );
}
