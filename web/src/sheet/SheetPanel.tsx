/** The drawing being worked from, its balloons, and the list of callouts. */
import { useRef, useState } from "react";
import { type Refused, upload } from "../api/client";
import type { Part } from "../api/types";
import { board, editable, showMessage, useBoard } from "../state/store";
import { Callouts } from "./Callouts";
import { SheetDrawing, type SheetMode } from "./SheetDrawing";

export function SheetPanel({ folded, onFold }: { folded: boolean; onFold: () => void }) {
  const part = useBoard((s) => s.part)!;
  const [page, setPage] = useState(0);
  const [adding, setAdding] = useState<SheetMode>(null);
  if (folded)
    return (
      <aside aria-label="Sheet" className="bg-panel">
        <button type="button" className="head h-full w-full [writing-mode:vertical-rl]" onClick={onFold}>
          Sheet · unfold
        </button>
      </aside>
    );
  const sheet = part.document.sheet;
  const pages = sheet?.pages.length ?? 0;
  return (
    <aside aria-label="Sheet" className="flex min-h-0 flex-col bg-panel">
      <div className="flex h-9 shrink-0 items-center gap-2 px-3.5">
        <h2 className="head">Sheet</h2>
        <span className="grow" />
        {pages > 1 && (
          <span className="font-cond text-[12px] text-pencil">
            <button
              type="button"
              aria-label="Page before"
              disabled={page === 0}
              onClick={() => setPage(page - 1)}
            >
              ‹
            </button>{" "}
            {page + 1} of {pages}{" "}
            <button
              type="button"
              aria-label="Next page"
              disabled={page === pages - 1}
              onClick={() => setPage(page + 1)}
            >
              ›
            </button>
          </span>
        )}
        {editable() && <Upload has={Boolean(sheet)} />}
        <button type="button" className="text-pencil" aria-label="Fold the sheet away" onClick={onFold}>
          ‹‹
        </button>
      </div>
      {sheet ? (
        <SheetDrawing sheet={sheet} page={page} mode={adding} setMode={setAdding} />
      ) : (
        <p className="mx-3.5 border border-dashed border-hair p-4 text-pencil">
          No sheet yet. Put the drawing here (SVG, PNG, JPG or PDF), then balloon its sizes.
        </p>
      )}
      <Callouts page={page} adding={adding} setAdding={setAdding} />
    </aside>
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
      useBoard.setState({ part: after });
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
        accept=".svg,.png,.jpg,.jpeg,.pdf"
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
