/** What can be done with a page of the sheet: turned, fitted, scaled, measured on, given more room. */
import { useState } from "react";
import type { XY } from "../api/types";
import { run } from "../document/commands";
import { board, type CommandDraft, editable, useBoard } from "../state/store";
import { resize } from "./sheetActions";
import { chooseView } from "./takeOutline";

export function PageTools({
  page,
  turn,
  scale,
  fits,
  onFit,
}: {
  page: number;
  turn: number;
  scale: number;
  fits: boolean;
  onFit: () => void;
}) {
  const mode = useBoard((s) => s.sheetMode);
  const room = useBoard((s) => s.sheetSize);
  const sketching = useBoard((s) => s.sketch !== null);
  const lining = useBoard((s) => s.lining);
  const following = useBoard((s) => s.following);
  const bodies = useBoard((s) => s.build?.bodies?.length ?? 0);
  const known = useBoard((s) => s.sheetRead?.said?.mm ?? 0);
  const tool = (name: "scale" | "measure", words: string) => (
    <button
      type="button"
      aria-pressed={mode === name}
      className={`underline ${mode === name ? "text-red" : ""}`}
      onClick={() => useBoard.setState({ sheetMode: mode === name ? null : name, workingOut: null })}
    >
      {words}
    </button>
  );
  return (
    <>
      {mode === "outline" && <OutlineWith />}
      <div className="flex h-7 shrink-0 items-center gap-3 whitespace-nowrap px-3.5 font-cond text-[12.5px] text-pencil">
        {editable() && (
          <button
            type="button"
            className="underline"
            onClick={() => run({ do: "set_page", page, turn: ((turn + 90) % 360) as Turn })}
          >
            turn
          </button>
        )}
        {!fits && (
          <button type="button" className="underline" onClick={onFit}>
            fit
          </button>
        )}
        {editable() && tool("scale", scale ? "scale again" : "set scale")}
        {(scale > 0 || known > 0) && tool("measure", "measure")}
        {sketching && editable() && (
          <button
            type="button"
            aria-pressed={mode === "outline"}
            className={`underline ${mode === "outline" ? "text-red" : ""}`}
            title="The outline of a view into the sketch (s v)"
            onClick={chooseView}
          >
            outline
          </button>
        )}
        {sketching && room !== "side" && (
          <button
            type="button"
            aria-pressed={following}
            className={`underline ${following ? "text-ink" : ""}`}
            title="Whether the sheet goes to the view of a sketch that is opened"
            onClick={() => useBoard.setState({ following: !following })}
          >
            {following ? "follows" : "stays"}
          </button>
        )}
        {bodies > 0 && !sketching && (
          <button
            type="button"
            aria-pressed={lining}
            className={`underline ${lining ? "text-red" : ""}`}
            title="Hold its lines against the part (s l)"
            onClick={() => useBoard.setState({ lining: !lining, reading: false, linePiece: null })}
          >
            lines
          </button>
        )}
        <span className="grow" />
        {room !== "side" && (
          <button
            type="button"
            className="underline"
            title="Less room for the sheet (n)"
            onClick={() => resize(-1)}
          >
            less room
          </button>
        )}
        {room !== "whole" && (
          <button
            type="button"
            className="underline"
            title="More room for the sheet (w)"
            onClick={() => resize(1)}
          >
            more room
          </button>
        )}
      </div>
    </>
  );
}

const ALONG = [
  ["centres", "centre lines"],
  ["hidden", "hidden lines"],
  ["others", "all others"],
] as const;

/** What comes along with the outline of a view that is pressed next. */
function OutlineWith() {
  const along = useBoard((s) => s.outlineWith);
  return (
    <fieldset
      aria-label="Along with the outline"
      className="flex shrink-0 flex-wrap gap-x-3 bg-redwash px-3.5 py-0.5 font-cond text-[12.5px]"
    >
      <span>Press a view, or pull a window; with its</span>
      {ALONG.map(([name, words]) => (
        <label key={name} className="flex items-center gap-1">
          <input
            type="checkbox"
            checked={along[name]}
            onChange={(e) => useBoard.setState({ outlineWith: { ...along, [name]: e.target.checked } })}
          />
          {words}
        </label>
      ))}
    </fieldset>
  );
}

type Turn = NonNullable<Extract<CommandDraft, { do: "set_page" }>["turn"]>;

export function KnownLength({ page, ends, onDone }: { page: number; ends: XY[]; onDone: () => void }) {
  const [text, setText] = useState("");
  async function keep() {
    if (await run({ do: "set_page", page, known: { ends: [ends[0], ends[1]], length: text } })) onDone();
  }
  return (
    <div className="flex items-center gap-2 border-t border-hair bg-redwash px-3.5 py-1.5 text-red">
      {ends.length < 2 ? (
        <span className="grow">
          {ends.length ? "Press its other end." : "Press one end of a length that the drawing gives."}
        </span>
      ) : (
        <input
          className="field font-mono"
          aria-label="Known length"
          placeholder="how long that is"
          autoFocus
          value={text}
          onChange={(e) => setText(e.target.value)}
          onKeyDown={(e) => {
            if (e.key === "Enter" && text.trim()) keep();
            if (e.key === "Escape") onDone();
            e.stopPropagation();
          }}
        />
      )}
      <button type="button" className="underline" onClick={onDone}>
        leave
      </button>
    </div>
  );
}

export function Measured({
  ends,
  size,
  turn,
  scale,
}: {
  ends: XY[];
  size: [number, number];
  turn: number;
  scale: number;
}) {
  const inch = board().part!.document.unit === "in";
  const said = (mm: number) => (inch ? `${(mm / 25.4).toFixed(3)} in` : `${mm.toFixed(2)} mm`);
  let words = ends.length ? "Press the other place." : "Press two places on the drawing.";
  if (ends.length === 2) {
    const [dx, dy] = [0, 1].map((i) => Math.abs(ends[1][i] - ends[0][i]) * size[i] * scale);
    const [across, down] = turn % 180 ? [dy, dx] : [dx, dy];
    words = `${said(Math.hypot(dx, dy))} apart: ${said(across)} across, ${said(down)} down`;
  }
  return (
    <p role="status" className="border-t border-hair px-3.5 py-1.5 font-mono text-[12.5px]">
      {words}
    </p>
  );
}
