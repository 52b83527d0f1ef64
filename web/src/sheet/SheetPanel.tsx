/** The drawing being worked from, its balloons, and the list of callouts. */
import { editable, useBoard } from "../state/store";
import { BringSheet } from "./BringSheet";
import { Callouts } from "./Callouts";
import { LineList } from "./LineList";
import { pagesOf, type SheetPage } from "./pages";
import { ReadList } from "./ReadList";
import { SheetDrawing } from "./SheetDrawing";

export function SheetPanel({ folded, onFold }: { folded: boolean; onFold: () => void }) {
  const part = useBoard((s) => s.part)!;
  const room = useBoard((s) => s.sheetSize);
  const reading = useBoard((s) => s.reading);
  const lining = useBoard((s) => s.lining);
  const pages = pagesOf(part.document);
  const page = Math.min(
    useBoard((s) => s.sheetPage),
    Math.max(0, pages.length - 1),
  );
  const sheet = pages[page]?.sheet;
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
        {editable() && (
          <BringSheet number={pages[page]?.number ?? null} of={part.document.further?.length ?? 0} />
        )}
        <button type="button" className="text-pencil" aria-label="Fold the sheet away" onClick={onFold}>
          ‹‹
        </button>
      </div>
      <div className={`flex min-h-0 grow ${beside ? "flex-row" : "flex-col"}`}>
        {pages.length > 1 && <Pages pages={pages} page={page} tall={Boolean(beside)} />}
        {sheet ? (
          <SheetDrawing key={page} shown={pages[page]} page={page} />
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

/** Small pictures of the pages of all sheets. */
function Pages({ pages, page, tall }: { pages: SheetPage[]; page: number; tall: boolean }) {
  const id = useBoard((s) => s.part!.id);
  const go = (to: number) => useBoard.setState({ sheetPage: to, sheetMode: null });
  return (
    <ol
      aria-label="Pages"
      className={`flex shrink-0 gap-1.5 overflow-auto ${tall ? "w-24 flex-col px-2" : "px-3.5 pb-1.5"}`}
    >
      {pages.map((p, k) => (
        <li
          key={`${p.number} ${p.own}`}
          className={`shrink-0 ${p.own === 0 && k > 0 ? "border-l border-ink pl-1.5" : ""}`}
        >
          <button
            type="button"
            aria-label={`Page ${k + 1}`}
            title={p.sheet.name}
            aria-current={k === page}
            className={`block border bg-white p-0.5 ${k === page ? "border-red" : "border-hair"}`}
            onClick={() => go(k)}
          >
            <img
              alt=""
              loading="lazy"
              className="h-10 w-14 object-contain"
              src={`/api/parts/${id}/sheet/${k}?${p.sheet.sha256.slice(0, 12)}&longest=300`}
            />
          </button>
        </li>
      ))}
    </ol>
  );
}
