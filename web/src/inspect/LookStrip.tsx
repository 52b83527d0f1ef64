/** In the board's upper right corner: how the part is drawn, where it is cut open, what measures what. */
import type { XY, XYZ } from "../api/types";
import { useView } from "../camera/EachView";
import { fourViews } from "../camera/viewControl";
import { editable, useBoard, useResting } from "../state/store";
import { toScreen } from "../view/camera";
import { DRAWN, type Drawn } from "../view/drawn";
import {
  calloutOf,
  chosenFlat,
  cutAcross,
  cutAt,
  drawAs,
  hide,
  measureBody,
  onDrawing,
  proveBy,
  span,
  startMeasuring,
  stopMeasuring,
} from "./measure";
import { hiddenGuides, showGuides } from "./visibleGuides";

export function LookStrip() {
  const s = useResting();
  if (s.sketch || !s.build?.bodies?.length) return null;
  const toggle = (on: boolean) => `px-1.5 py-0.5 hover:bg-redwash ${on ? "font-semibold text-red" : ""}`;
  return (
    <div
      className="absolute right-3 top-2 flex w-[248px] flex-col items-end font-cond text-[13px]"
      onPointerDown={(e) => e.stopPropagation()}
    >
      <div role="toolbar" aria-label="Looking" className="flex items-center border border-hair bg-panel">
        <select
          aria-label="How the part is drawn"
          className="bg-panel px-1.5 py-0.5"
          value={s.drawn}
          onChange={(e) => drawAs(e.target.value as Drawn)}
        >
          {Object.entries(DRAWN).map(([how, words]) => (
            <option key={how} value={how}>
              {words}
            </option>
          ))}
        </select>
        <button
          type="button"
          aria-pressed={s.cut !== null}
          className={toggle(s.cut !== null)}
          onClick={() => (s.cut ? cutAt(null) : cutAcross(chosenFlat() ? "face" : "front"))}
        >
          section
        </button>
        <button
          type="button"
          aria-label="Four views at once"
          aria-pressed={s.panes !== null}
          className={toggle(s.panes !== null)}
          onClick={fourViews}
        >
          four
        </button>
        {!s.draft && (
          <button
            type="button"
            aria-pressed={s.measuring}
            className={toggle(s.measuring)}
            onClick={() => (s.measuring ? stopMeasuring() : startMeasuring())}
          >
            measure
          </button>
        )}
      </div>
      {s.hidden.length > 0 && (
        <button type="button" className="mt-1 text-red underline" onClick={() => hide([])}>
          {s.hidden.length} {s.hidden.length === 1 ? "body" : "bodies"} hidden: show all
        </button>
      )}
      {hiddenGuides() > 0 && (
        <button type="button" className="mt-1 text-red underline" onClick={showGuides}>
          {hiddenGuides()} {hiddenGuides() === 1 ? "sketch or datum" : "sketches and datums"} hidden: show
        </button>
      )}
      {s.cut && <CutRow />}
      {s.measuring && <Slip />}
    </div>
  );
}

const CUTS: [string, string][] = [
  ["front", "along the front"],
  ["top", "along the top"],
  ["right", "along the right"],
];

function CutRow() {
  const cut = useBoard((s) => s.cut)!;
  const unit = useBoard((s) => s.part!.document.unit);
  useBoard((s) => s.picks);
  const k = unit === "in" ? 25.4 : 1;
  const [low, high] = span(cut.normal);
  const flat = chosenFlat() !== null || cut.named === "face";
  return (
    <section aria-label="Section" className="mt-1 w-full border border-hair bg-panel px-2 py-1.5">
      <div className="flex items-baseline gap-1.5">
        <select
          aria-label="Where the part is cut open"
          className="slot"
          value={cut.named}
          onChange={(e) => cutAcross(e.target.value)}
        >
          {CUTS.map(([name, words]) => (
            <option key={name} value={name}>
              {words}
            </option>
          ))}
          {flat && <option value="face">at the chosen face</option>}
        </select>
        <span className="text-pencil">at</span>
        <input
          aria-label="Place of the section"
          className="slot w-16 font-mono"
          value={Number((cut.at / k).toFixed(3))}
          onFocus={(e) => e.currentTarget.select()}
          onKeyDown={(e) => e.stopPropagation()}
          onChange={(e) => {
            const at = Number(e.target.value.replace(",", ".")) * k;
            if (Number.isFinite(at)) cutAt({ ...cut, at });
          }}
        />
        <span className="text-pencil">{unit}</span>
      </div>
      <div className="flex items-center gap-2">
        <input
          type="range"
          aria-label="Move the section"
          className="min-w-0 grow accent-red"
          min={low}
          max={high}
          step={(high - low) / 500 || 1}
          value={cut.at}
          onChange={(e) => cutAt({ ...cut, at: Number(e.target.value) })}
        />
        <button
          type="button"
          className="underline"
          aria-pressed={cut.turned}
          onClick={() => cutAt({ ...cut, turned: !cut.turned })}
        >
          other half
        </button>
      </div>
    </section>
  );
}

/** What was measured, as a slip of paper. */
function Slip() {
  const measured = useBoard((s) => s.measured);
  const picks = useBoard((s) => s.picks);
  const asked = useBoard((s) => (s.part?.document.callouts ?? []).find((c) => c.id === s.callout && !c.link));
  return (
    <section aria-label="Measured" className="mt-1 w-full border border-hair bg-panel px-2 py-1.5">
      {measured ? (
        <>
          <p className="font-semibold">{measured.said}</p>
          <dl>
            {measured.figures.map((f) => (
              <div key={f.name} className="flex items-baseline justify-between gap-2 border-t border-hair">
                <dt className="text-pencil">{f.name}</dt>
                <dd className="flex items-baseline gap-2 font-mono text-[12.5px]">
                  <span>{f.text}</span>
                  {f.callout && editable() && (
                    <button
                      type="button"
                      className="font-cond text-pencil underline"
                      title="Keep it as a callout that is measured with every build"
                      aria-label={`Callout of ${f.name}`}
                      onClick={() => calloutOf(f)}
                    >
                      callout
                    </button>
                  )}
                  {f.callout && editable() && (
                    <button
                      type="button"
                      className="font-cond text-pencil underline"
                      title="Put it on the drawing, where it follows the part"
                      aria-label={`${f.name} on the drawing`}
                      onClick={() => onDrawing(f)}
                    >
                      drawing
                    </button>
                  )}
                  {f.callout && asked && editable() && (
                    <button
                      type="button"
                      className="font-cond text-red underline"
                      title={`Callout ${asked.number} is measured here from now on`}
                      aria-label={`Proves callout ${asked.number} by ${f.name}`}
                      onClick={() => proveBy(asked, f)}
                    >
                      proves {asked.number}
                    </button>
                  )}
                </dd>
              </div>
            ))}
          </dl>
        </>
      ) : (
        <p className="text-pencil">
          Press a face, an edge or a corner; press a second one to measure between them.
        </p>
      )}
      {picks.length === 1 && (
        <button type="button" className="underline" onClick={measureBody}>
          its whole body
        </button>
      )}
    </section>
  );
}

/** The lines of what was measured, drawn on the part as dimensions are. */
const HEAD = 9; // pixels

/** A filled arrowhead at ``tip``, coming from ``from``. */
function arrow(from: XY, tip: XY): string {
  const way = Math.atan2(tip[1] - from[1], tip[0] - from[0]);
  const side = (turn: number) =>
    `${tip[0] - HEAD * Math.cos(way + turn)} ${tip[1] - HEAD * Math.sin(way + turn)}`;
  return `M${tip[0]} ${tip[1]}L${side(0.26)}L${side(-0.26)}Z`;
}

export function MeasuredLines() {
  const measured = useBoard((s) => s.measured);
  const view = useView();
  return (
    <g role="group" aria-label="Measured lines" className="pointer-events-none">
      {(measured?.figures ?? []).map((f) => {
        if (!f.line) return null;
        const [a, b] = f.line.map((p) => toScreen(view, p as XYZ));
        const long = Math.hypot(b[0] - a[0], b[1] - a[1]);
        return (
          <g key={f.name} stroke="#B83720" fill="#B83720">
            <line x1={a[0]} y1={a[1]} x2={b[0]} y2={b[1]} strokeWidth="1.3" />
            {long > 14 && <path d={arrow(a, b) + arrow(b, a)} stroke="none" />}
            <text
              x={(a[0] + b[0]) / 2 + 6}
              y={(a[1] + b[1]) / 2 - 6}
              className="font-mono text-[12px]"
              stroke="#F4F1E8"
              strokeWidth="3"
              paintOrder="stroke"
            >
              {f.text}
            </text>
          </g>
        );
      })}
    </g>
  );
}
