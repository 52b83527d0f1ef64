/** The drawing being worked from, its balloons, and the list of callouts. */
import { useRef, useState } from "react";
import { type Refused, upload } from "../api/client";
import type { Part } from "../api/types";
import { board, editable, showMessage, useBoard } from "../state/store";
import { Callouts } from "./Callouts";
import { LineList } from "./LineList";
import { ReadList } from "./ReadList";
import { SheetDrawing } from "./SheetDrawing";

export function SheetPanel({ folded, onFold }: { folded: boolean; onFold: () => void }) {
  const part = useBoard((s) => s.part)!;
  const room = useBoard((s) => s.sheetSize);
  const reading = useBoard((s) => s.reading);
  const lining = useBoard((s) => s.lining);
  const sheet = part.document.sheet;
  const pages = sheet?.pages.length ?? 0;
  const page = Math.min(
    useBoard((s) => s.sheetPage),
    Math.max(0, pages - 1),
  );
  if (folded)
    return (
      <aside aria-label="Sheet" className="bg-panel" style={{ gridColumn: 1, gridRow: 1 }}>
        <button type="button" className="head h-full w-full [writing-mode:vertical-rl]" onClick={onFold}>
          Sheet · unfold
        </button>
      </aside>
    );
  const beside = room === "whole" && sheet; // the list stands beside the drawing
  return (
    <aside
      aria-label="Sheet"
      className={`flex min-h-0 min-w-0 flex-col bg-panel ${beside ? "z-20" : ""}`}
      style={{ gridColumn: beside ? "1 / 4" : 1, gridRow: 1 }}
    >
      <div className="flex h-9 shrink-0 items-center gap-2 px-3.5">
        <h2 className="head">Sheet</h2>
        <span className="grow truncate font-cond text-[12px] text-pencil" title={sheet?.name}>
          {sheet?.name}
        </span>
        {editable() && <Upload has={Boolean(sheet)} />}
        <button type="button" className="text-pencil" aria-label="Fold the sheet away" onClick={onFold}>
          ‹‹
        </button>
      </div>
      <div className={`flex min-h-0 grow ${beside ? "flex-row" : "flex-col"}`}>
        {pages > 1 && <Pages count={pages} page={page} tall={Boolean(beside)} />}
        {sheet ? (
          <SheetDrawing sheet={sheet} page={page} />
        ) : (
          <p className="mx-3.5 border border-dashed border-hair p-4 text-pencil">
            No sheet yet. Put the drawing here (PDF, SVG, DXF, PNG or JPG), then read or balloon its sizes.
          </p>
        )}
        <div
          className={`flex min-h-0 flex-col ${beside ? "w-[290px] shrink-0 border-l border-hair" : room === "half" ? "max-h-[42%] shrink-0" : "grow"}`}
        >
          {reading && sheet && <ReadList />}
          {lining && sheet && <LineList />}
          <Callouts page={page} />
        </div>
      </div>
    </aside>
  );
}

/** Small pictures of the sheet's pages. */
function Pages({ count, page, tall }: { count: number; page: number; tall: boolean }) {
  const id = useBoard((s) => s.part!.id);
  const sha = useBoard((s) => s.part!.document.sheet!.sha256);
  const go = (to: number) => useBoard.setState({ sheetPage: to, sheetMode: null });
  return (
    <ol
      aria-label="Pages"
      className={`flex shrink-0 gap-1.5 overflow-auto ${tall ? "w-24 flex-col px-2" : "px-3.5 pb-1.5"}`}
    >
      {Array.from({ length: count }, (_, k) => (
        <li key={k} className="shrink-0">
          <button
            type="button"
            aria-label={`Page ${k + 1}`}
            aria-current={k === page}
            className={`block border bg-white p-0.5 ${k === page ? "border-red" : "border-hair"}`}
            onClick={() => go(k)}
          >
            <img
              alt=""
              loading="lazy"
              className="h-10 w-14 object-contain"
              src={`/api/parts/${id}/sheet/${k}?${sha.slice(0, 12)}&longest=300`}
            />
          </button>
        </li>
      ))}
    </ol>
  );
}

function Upload({ has }: { has: boolean }) {
  const input = useRef<HTMLInputElement>(null);
  const [busy, setBusy] = useState(false);
  async function send(file: File) {
    const part = board().part!;
    setBusy(true);
    try {
      const after = await upload<Part>(`/api/parts/${part.id}/sheet`, {
        version: String(part.version),
        file,
      });
      useBoard.setState({ part: after, sheetPage: 0, sheetMode: null, sheetRead: null });
    } catch (error) {
      showMessage((error as Refused).sentence, "red");
    } finally {
      setBusy(false);
    }
  }
  return (
    <>
      <input
        ref={input}
        type="file"
        className="hidden"
        aria-label="Drawing file"
        accept=".pdf,.svg,.dxf,.png,.jpg,.jpeg"
        onChange={(e) => e.target.files?.[0] && send(e.target.files[0])}
      />
      <button
        type="button"
        className="font-cond text-[12.5px] text-pencil underline"
        disabled={busy}
        onClick={() => input.current?.click()}
      >
        {busy ? "reading …" : has ? "other sheet" : "add a sheet"}
      </button>
    </>
  );
}
