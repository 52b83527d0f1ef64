/** A part in the library: its picture, its figures, what can be done with it. */
import { Link } from "react-router";
import type { Card } from "../api/types";
import { grams } from "../ui/measures";

export function PartCard({
  card,
  may,
  onCopy,
  onArchive,
}: {
  card: Card;
  may: boolean;
  onCopy: () => void;
  onArchive: () => void;
}) {
  return (
    <li className="relative border border-hair bg-panel hover:border-ink">
      <div>
        <div className="flex h-[168px] items-center justify-center border-b border-hair bg-vellum">
          {card.picture !== null ? (
            <img src={`/api/parts/${card.id}/picture?v=${card.picture}`} alt="" className="h-[160px]" />
          ) : (
            <Blank card={card} />
          )}
        </div>
        <div className="px-3 pt-2">
          <div className="flex items-baseline justify-between">
            <h2 className="text-[15px] font-semibold">
              {/* all of the card is a press on its name */}
              <Link
                to={`/parts/${card.id}`}
                className="after:absolute after:inset-0"
                aria-label={`Open ${card.name}`}
              >
                {card.name}
              </Link>
            </h2>
            <span className="font-mono text-[12.5px]">{grams(card.mass)}</span>
          </div>
          <p className="font-mono text-[12px] text-pencil">
            {card.number || "no number"} · rev {card.revision}
          </p>
        </div>
      </div>
      <div className="flex items-center gap-2 px-3 pb-2 pt-1 font-cond text-[12.5px]">
        <Marks card={card} />
        <span className="grow" />
        {may && (
          <>
            <button
              type="button"
              className="relative text-pencil hover:text-ink"
              onClick={onCopy}
              aria-label={`Copy ${card.name}`}
            >
              Copy
            </button>
            <button
              type="button"
              className="relative text-pencil hover:text-ink"
              onClick={onArchive}
              aria-label={`${card.archived ? "Bring back" : "Archive"} ${card.name}`}
            >
              {card.archived ? "Bring back" : "Archive"}
            </button>
          </>
        )}
      </div>
    </li>
  );
}

/** A card without a solid: its sheet, if it has one. */
function Blank({ card }: { card: Card }) {
  if (!card.steps && card.has_sheet)
    return (
      <span className="flex h-full flex-col items-center justify-center gap-1.5">
        <img src={`/api/parts/${card.id}/sheet/0`} alt="" className="h-[128px] border border-hair" />
        <span className="font-cond text-[12.5px] text-pencil">only a sheet so far, ready to be modelled</span>
      </span>
    );
  return (
    <span className="text-pencil">
      {card.building ? "Being built …" : card.steps ? "No solid yet" : "Nothing drawn yet"}
    </span>
  );
}

function Marks({ card }: { card: Card }) {
  const sketches =
    card.freedom === null
      ? ["no sketch", "text-pencil"]
      : card.freedom === 0
        ? ["inked in", "text-proof"]
        : [`${card.freedom} free`, "text-red"];
  const all = card.callouts > 0 && card.proven === card.callouts;
  const mass =
    card.within === null ? null : card.within ? ["on mass", "text-proof"] : ["off mass", "text-red"];
  return (
    <>
      <span className={`whitespace-nowrap ${sketches[1]}`}>{sketches[0]}</span>
      <span className={`whitespace-nowrap ${all ? "text-proof" : "text-pencil"}`}>
        {card.proven}/{card.callouts} proven
      </span>
      {mass && <span className={`whitespace-nowrap ${mass[1]}`}>{mass[0]}</span>}
      {card.failed > 0 && <span className="whitespace-nowrap text-red">{card.failed} failing</span>}
    </>
  );
}
