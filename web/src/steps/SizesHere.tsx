/** The sizes of the face or edge that is chosen, to be read and changed where it stands. */
import { useEffect, useMemo, useState } from "react";
import { editable, useBoard } from "../state/store";
import { originsOf, type Size, setSize, sizesFor } from "./sizesOf";

const MOST = 8; // in one row; the route has them all

export function SizesHere() {
  const picks = useBoard((s) => s.picks);
  const part = useBoard((s) => s.part!);
  // what it came from is told when it is chosen: after a change the same number may be another face's
  const origins = useMemo(() => (picks.length === 1 ? originsOf(picks[0]) : []), [picks]);
  const sizes = useMemo(() => (part ? sizesFor(origins) : []), [origins, part]);
  if (!sizes.length) return null;
  return (
    <fieldset
      aria-label="Sizes of what is chosen"
      className="flex min-h-[34px] flex-wrap items-center gap-x-3 gap-y-0.5 border-b border-hair px-2 py-1"
    >
      <span className="mr-2 min-w-[40px] font-cond text-[12px] text-pencil">Its sizes</span>
      {sizes.slice(0, MOST).map((size) => (
        <Field key={size.key} size={size} />
      ))}
      {sizes.length > MOST && (
        <span className="font-cond text-[12px] text-pencil">and {sizes.length - MOST} more on the route</span>
      )}
    </fieldset>
  );
}

function Field({ size }: { size: Size }) {
  const [text, setText] = useState(size.text);
  useEffect(() => setText(size.text), [size.text]);
  const keep = async () => {
    if (text.trim() === size.text || !text.trim()) {
      setText(size.text);
      return;
    }
    if (!(await setSize(size, text.trim()))) setText(size.text);
  };
  return (
    <label className="flex items-baseline gap-1 whitespace-nowrap font-cond text-[12.5px]">
      {size.label}
      <input
        className="slot font-mono text-[13px]"
        style={{ width: `${Math.max(4, text.length + 2)}ch` }}
        value={text}
        readOnly={!editable()}
        onFocus={(e) => e.target.select()}
        onChange={(e) => setText(e.target.value)}
        onBlur={keep}
        onKeyDown={(e) => {
          if (e.key === "Enter") e.currentTarget.blur(); // which keeps it
          if (e.key === "Escape") setText(size.text);
          e.stopPropagation();
        }}
      />
    </label>
  );
}
