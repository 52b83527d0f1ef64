/** What stands on the drawing, as lists: sizes with where they stand, views, what is not on it. */
import type { DrawingSheet, DrawnSheet } from "../api/types";
import { NotationText } from "../ui/NotationText";
import { Balloon } from "../ui/ui";
import { type SizePlace, viewWords } from "./moved";

interface OnDrawingProps {
  sheet: DrawnSheet;
  settings: DrawingSheet;
  may: boolean;
  chosen: string | null;
  onChoose: (key: string | null) => void;
  onPlace: (sizes: Record<string, SizePlace | null>) => void;
  onTakeOff: (key: string) => void;
  onRemove: (key: string) => void;
  onFreeView: (name: string) => void;
  placeOf: (key: string) => SizePlace;
}

export function OnDrawing(props: OnDrawingProps) {
  const { sheet, settings, may, chosen, onChoose, onPlace, onTakeOff, onRemove, onFreeView, placeOf } = props;
  const byHand = (key: string) => settings.sizes?.[key] !== undefined;
  const shows = sheet.views.filter((v) => v.name !== "iso" && !v.name.startsWith("detail"));
  const wrong = sheet.sizes.filter((s) => !s.proven).length;
  return (
    <div className="px-4 py-3 text-[13px]">
      <p className={wrong || sheet.overlaps ? "text-red" : "text-proof"}>
        {sheet.sizes.length} sizes, {wrong ? `${wrong} not as the part is` : "all as the part is"};{" "}
        {sheet.overlaps ? `${sheet.overlaps} lie on something` : "none lies on anything"}
      </p>
      {(sheet.lost.length > 0 || sheet.left_out.length > 0) && (
        <ul className="mt-2 border-l-2 border-red pl-2" aria-label="Not on the drawing any more">
          {sheet.lost.map((l) => (
            <li key={l.key} className="flex gap-2">
              <span className="grow text-red">A size that was added: {l.said}</span>
              {may && (
                <button type="button" className="underline" onClick={() => onRemove(l.key)}>
                  let go
                </button>
              )}
            </li>
          ))}
          {sheet.left_out.map((text, i) => (
            <li key={`${text}${i}`} className="text-red">
              No view shows <NotationText text={text} />
            </li>
          ))}
        </ul>
      )}
      {sheet.unmeasured.length > 0 && (
        <ul
          className="mt-2 border-l-2 border-ochre pl-2 text-[12.5px]"
          aria-label="Sizes that the part does not show"
        >
          {sheet.unmeasured.map((words, i) => (
            <li key={`${words}${i}`} className="text-ochre">
              Not stated: {words}
            </li>
          ))}
        </ul>
      )}
      <h2 className="head mt-3">Sizes</h2>
      <ul aria-label="Sizes on the drawing">
        {sheet.sizes.map((s) => (
          <li key={s.key} className={`border-b border-hair py-0.5 ${chosen === s.key ? "bg-redwash" : ""}`}>
            <button
              type="button"
              className="flex w-full items-baseline gap-2 text-left"
              aria-pressed={chosen === s.key}
              onClick={() => onChoose(chosen === s.key ? null : s.key)}
              ref={chosen === s.key ? (el) => el?.scrollIntoView?.({ block: "nearest" }) : undefined}
            >
              <span className="w-6 shrink-0">
                {s.number !== null && <Balloon number={s.number} size={18} />}
              </span>
              <span className="min-w-0 grow truncate font-mono">
                <NotationText text={s.text} />
              </span>
              <span className="shrink-0 text-[12px] text-pencil">
                {viewWords(s.view)}
                {byHand(s.key) && " ✎"}
              </span>
            </button>
            {chosen === s.key && (
              <div className="flex flex-wrap items-center gap-x-3 gap-y-1 py-1 pl-8">
                <span className={s.proven ? "text-proof" : "text-red"}>{s.said}</span>
                {may && (
                  <>
                    <select
                      aria-label="Shown in"
                      className="field"
                      value={s.view}
                      onChange={(e) =>
                        onPlace({
                          [s.key]: { ...placeOf(s.key), at: null, view: e.target.value as SizePlace["view"] },
                        })
                      }
                    >
                      {shows.map((v) => (
                        <option key={v.name} value={v.name}>
                          {viewWords(v.name)}
                        </option>
                      ))}
                    </select>
                    <button type="button" className="underline" onClick={() => onTakeOff(s.key)}>
                      take off
                    </button>
                    {byHand(s.key) && (
                      <button type="button" className="underline" onClick={() => onPlace({ [s.key]: null })}>
                        back by itself
                      </button>
                    )}
                  </>
                )}
              </div>
            )}
          </li>
        ))}
      </ul>
      {sheet.hidden.length > 0 && (
        <>
          <h2 className="head mt-3">Taken off</h2>
          <ul aria-label="Sizes taken off">
            {sheet.hidden.map((h) => (
              <li key={h.key} className="flex gap-2 py-0.5">
                <span className="grow font-mono text-pencil">
                  <NotationText text={h.text} />
                </span>
                {may && (
                  <button type="button" className="underline" onClick={() => onPlace({ [h.key]: null })}>
                    put back
                  </button>
                )}
              </li>
            ))}
          </ul>
        </>
      )}
      {may && Object.keys(settings.places ?? {}).length > 0 && (
        <>
          <h2 className="head mt-3">Views put by hand</h2>
          <ul aria-label="Views put by hand">
            {Object.keys(settings.places ?? {}).map((name) => (
              <li key={name} className="flex gap-2 py-0.5">
                <span className="grow">{viewWords(name)}</span>
                <button type="button" className="underline" onClick={() => onFreeView(name)}>
                  back by itself
                </button>
              </li>
            ))}
          </ul>
        </>
      )}
    </div>
  );
}
