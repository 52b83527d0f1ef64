/** What stands on the page: every size as it was understood, taken all at once or one by one; its notes apart. */
import { useState } from "react";
import type { Proposed } from "../api/types";
import { run } from "../document/commands";
import { useBoard } from "../state/store";
import { NotationText } from "../ui/NotationText";
import { light } from "./ReadText";
import { ownerOf, pageReading, takeTexts } from "./readSheet";

const close = () => useBoard.setState({ reading: false });

export function ReadList() {
  const read = useBoard((s) => s.sheetRead);
  const general = useBoard((s) => s.part!.document.general_tolerance ?? "");
  useBoard((s) => s.part!.document.callouts);
  const [notes, setNotes] = useState(false);
  const said = pageReading();
  if (!said)
    return (
      <Box>
        <p role="status" className="px-3.5 py-2 text-pencil">
          {read?.trouble || "Reading the sheet …"}
        </p>
      </Box>
    );
  const open = said.sizes.filter((one) => !ownerOf(one));
  const others = said.notes.filter((one) => !ownerOf(one));
  return (
    <Box>
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1 px-3.5 py-1.5">
        <button
          type="button"
          className="btn"
          disabled={!open.length}
          onClick={() => takeTexts(open).then((ok) => ok && close())}
        >
          {open.length ? `Take all ${open.length}` : "All taken"}
        </button>
        <span className="text-pencil">
          {said.sizes.length} sizes read
          {said.sizes.length > open.length ? `, ${said.sizes.length - open.length} have a balloon` : ""}
        </span>
      </div>
      {said.guessed && (
        <p className="border-t border-hair px-3.5 py-1 text-[12.5px] text-ochre">
          Recognised by the shapes of its letters: hold each against the drawing before it is taken. Letters
          that a line runs through are where it errs.
        </p>
      )}
      {said.general && said.general !== general && (
        <p className="flex gap-3 border-t border-hair px-3.5 py-1">
          <span className="grow font-mono text-[12.5px]">{said.general}</span>
          <button
            type="button"
            className="font-cond text-[12.5px] underline"
            onClick={() => run({ do: "set_part", changes: { general_tolerance: said.general } })}
          >
            as general tolerance
          </button>
        </p>
      )}
      <ol className="min-h-0 overflow-auto" aria-label="Sizes read">
        {open.map((one) => (
          <Row key={`${one.text} ${one.box}`} one={one} />
        ))}
        {others.length > 0 && (
          <li className="border-t border-hair px-3.5 py-1">
            <button
              type="button"
              aria-expanded={notes}
              className="font-cond text-[12.5px] text-pencil underline"
              onClick={() => setNotes(!notes)}
            >
              {others.length} notes {notes ? "‹" : "›"}
            </button>
          </li>
        )}
        {notes && others.map((one) => <Row key={`${one.text} ${one.box}`} one={one} />)}
      </ol>
    </Box>
  );
}

function Box({ children }: { children: React.ReactNode }) {
  return (
    <section
      aria-label="What stands on the sheet"
      className="flex max-h-[55%] min-h-24 shrink-0 flex-col border-y border-ink bg-redwash/40"
    >
      <div className="flex items-center px-3.5 pt-1">
        <h3 className="head">On the sheet</h3>
        <span className="grow" />
        <button type="button" className="font-cond text-[12.5px] text-pencil underline" onClick={close}>
          close
        </button>
      </div>
      {children}
    </section>
  );
}

function Row({ one }: { one: Proposed }) {
  return (
    <li
      className="flex items-baseline gap-2.5 border-t border-hair px-3.5 py-1 hover:bg-redwash/60"
      onPointerEnter={() => light(one)}
      onPointerLeave={() => light(null)}
      onFocus={() => light(one)}
      onBlur={() => light(null)}
    >
      <span className="min-w-0 grow">
        <span className="break-words font-mono text-[13px]">
          <NotationText text={one.text} />
        </span>
        {one.kind !== "note" && one.said !== `${one.text} mm` && (
          <span className="block text-[12px] text-pencil">{one.said}</span>
        )}
      </span>
      <button
        type="button"
        aria-label={`Take ${one.text} as a callout`}
        className="font-cond text-[12.5px] underline"
        onClick={() => takeTexts([one])}
      >
        take
      </button>
    </li>
  );
}
