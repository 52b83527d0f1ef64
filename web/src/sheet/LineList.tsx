/** What of the sheet's lines the part explains: the figure, each view, and every piece that differs. */
import { useState } from "react";
import type { LinePiece, SheetViewLines } from "../api/types";
import { percent, SEEN_FROM, viewSaid } from "../inspect/lineWords";
import { editable, useBoard } from "../state/store";
import { lengthSaid } from "../ui/measures";
import { pieceName, useLines } from "./lines";
import { pageNow } from "./pages";
import { changeView, SIDES, type Side } from "./placedViews";

const close = () => useBoard.setState({ lining: false, linePiece: null });

export function LineList() {
  const lines = useLines();
  const ready = useBoard((s) => s.build?.version === s.part?.version);
  const blend = useBoard((s) => s.blend);
  const picture = /png|jpeg/.test(pageNow()?.sheet.media_type ?? "");
  const said = lines?.said;
  const placing = useBoard((s) => s.sheetMode === "place");
  const compared = said?.views.filter((v) => !v.by_hand) ?? [];
  const first = compared.length; // those placed by hand come after them
  return (
    <section
      aria-label="Lines of the sheet"
      className="flex max-h-[60%] min-h-24 shrink-0 flex-col border-y border-ink bg-proofwash/40"
    >
      <div className="flex items-center gap-3 px-3.5 pt-1">
        <h3 className="head">Lines</h3>
        <span className="grow" />
        {editable() && (
          <button
            type="button"
            aria-pressed={placing}
            className={`font-cond text-[12.5px] underline ${placing ? "text-red" : "text-pencil"}`}
            title="Press two opposite corners of a view's outline; the part is laid over it"
            onClick={() => useBoard.setState({ sheetMode: placing ? null : "place", workingOut: null })}
          >
            place a view
          </button>
        )}
        <button type="button" className="font-cond text-[12.5px] text-pencil underline" onClick={close}>
          close
        </button>
      </div>
      <p role="status" className="px-3.5 py-1">
        {said && !compared.length ? (
          <span className="text-pencil">
            {said.views.length
              ? "Laid over by hand; a picture's own lines are not compared."
              : "Place a view by hand: press “place a view”, then two opposite corners of its outline."}
          </span>
        ) : said ? (
          <>
            <b className={`font-mono ${said.share > 0.9995 ? "text-proof" : "text-red"}`}>
              {percent(said.share)}
            </b>{" "}
            of the sheet's lines explained
          </>
        ) : (
          <span className="text-pencil">
            {lines?.trouble || (ready ? "Comparing the lines …" : "The part is being built …")}
          </span>
        )}
      </p>
      <div className="flex items-center gap-3 px-3.5 pb-1 font-cond text-[12.5px] text-pencil">
        sheet
        <input
          type="range"
          aria-label="Between sheet and part"
          className="min-w-0 grow"
          min={0}
          max={1}
          step={0.05}
          value={blend}
          onChange={(e) => useBoard.setState({ blend: Number(e.target.value) })}
        />
        part
        <Tolerance />
      </div>
      <ol className="min-h-0 overflow-auto" aria-label="Views of the sheet">
        {said?.views.map((v, i) =>
          v.by_hand ? (
            <PlacedByHand key={`${v.box}`} view={v} index={i - first} />
          ) : (
            <View key={`${v.box}`} view={v} index={i} />
          ),
        )}
        {said && !said.views.length && !picture && (
          <li className="border-t border-hair px-3.5 py-1.5 text-pencil">
            No view was found on this page: no outlines of a width of their own.
          </li>
        )}
      </ol>
    </section>
  );
}

/** A view placed by hand: from which side, at which scale. */
function PlacedByHand({ view: v, index }: { view: SheetViewLines; index: number }) {
  return (
    <li className="flex items-baseline gap-2 border-t border-hair px-3.5 py-1">
      <select
        aria-label={`From which side view ${index + 1} is seen`}
        className="bg-transparent"
        disabled={!editable()}
        value={v.side ?? "front"}
        onChange={(e) => changeView(index, e.target.value as Side)}
      >
        {SIDES.map((side) => (
          <option key={side} value={side}>
            {SEEN_FROM[side]}
          </option>
        ))}
      </select>
      <span className="grow text-[12px] text-pencil">
        placed by hand{v.turn ? `, turned ${v.turn}°` : ""}
      </span>
      {editable() && (
        <button
          type="button"
          className="font-cond text-[12px] underline"
          onClick={() => changeView(index, null)}
        >
          let it go
        </button>
      )}
    </li>
  );
}

function Tolerance() {
  const kept = useBoard((s) => s.lineTolerance);
  const [text, setText] = useState(String(kept));
  const keep = () => {
    const value = Number(text.replace(",", "."));
    if (value >= 0.001 && value <= 10) useBoard.setState({ lineTolerance: value });
    else setText(String(kept));
  };
  return (
    <label className="flex items-center gap-1 whitespace-nowrap">
      within
      <input
        className="field font-mono"
        style={{ width: 52, padding: "0 4px" }}
        aria-label="Tolerance of lines, mm"
        value={text}
        onChange={(e) => setText(e.target.value)}
        onBlur={keep}
        onKeyDown={(e) => {
          if (e.key === "Enter") keep();
          e.stopPropagation();
        }}
      />
      mm
    </label>
  );
}

function View({ view: v, index }: { view: SheetViewLines; index: number }) {
  const unit = useBoard((s) => s.part!.document.unit ?? "mm");
  const drawn = v.drawn.seen + v.drawn.hidden;
  const explained = v.explained.seen + v.explained.hidden;
  const angle = useBoard((s) => s.part!.document.projection);
  return (
    <li className="border-t border-hair px-3.5 py-1">
      <div className="flex gap-2">
        <span className="grow">{viewSaid(v, unit)}</span>
        {drawn > 0 && <span className="font-mono text-[12.5px]">{percent(explained / drawn)}</span>}
      </div>
      {!v.side && !v.name && (
        <p className="text-[12px] text-pencil">
          The part is not as wide and high as this view from any side, or the page's scale is another: set it
          with “set scale”.
        </p>
      )}
      {v.side && !v.projected && (
        <p className="text-[12px] text-red">
          Beside the other views it shows another part than they do in {angle} angle: mirrored, or drawn in
          the other angle of projection.
        </p>
      )}
      <Pieces view={index} list="unexplained" pieces={v.unexplained} words="no edge explains" unit={unit} />
      <Pieces view={index} list="missing" pieces={v.missing} words="edge not on the sheet" unit={unit} />
    </li>
  );
}

const FIRST = 6; // told at once

function Pieces({
  view,
  list,
  pieces,
  words,
  unit,
}: {
  view: number;
  list: "unexplained" | "missing";
  pieces: LinePiece[];
  words: string;
  unit: "mm" | "in";
}) {
  const chosen = useBoard((s) => s.linePiece);
  const [all, setAll] = useState(false);
  if (!pieces.length) return null;
  return (
    <ul>
      {pieces.slice(0, all ? undefined : FIRST).map((p, k) => {
        const name = pieceName(view, list, k);
        return (
          <li key={name}>
            <button
              type="button"
              aria-pressed={chosen === name}
              className={`flex w-full items-baseline gap-2 text-left text-[12.5px] hover:bg-redwash ${chosen === name ? "bg-redwash" : ""}`}
              onClick={() => useBoard.setState({ linePiece: chosen === name ? null : name })}
            >
              <svg width="18" height="8" aria-hidden="true">
                <path
                  d="M0 4H18"
                  strokeWidth="2.2"
                  className={list === "unexplained" ? "stroke-red" : "stroke-ochre"}
                  strokeDasharray={list === "unexplained" ? undefined : "2 3"}
                />
              </svg>
              <span className="grow">
                {p.kind === "hidden" ? "hidden line, " : ""}
                {words}
              </span>
              <span className="font-mono">{lengthSaid(p.length, unit, 2)}</span>
            </button>
          </li>
        );
      })}
      {pieces.length > FIRST && (
        <li>
          <button
            type="button"
            className="font-cond text-[12px] text-pencil underline"
            onClick={() => setAll(!all)}
          >
            {all ? "fewer" : `${pieces.length - FIRST} more`}
          </button>
        </li>
      )}
    </ul>
  );
}
