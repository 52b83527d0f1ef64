/** The strip at the foot of the board: what makes sense now, as words. Above it, what was just said. */
import { useEffect, useRef, useState } from "react";
import { said } from "../geometry/geometry";
import { guides } from "../inspect/visibleGuides";
import { sketchOnDatum, sketchOnPlane } from "../sketch/newSketch";
import { SYMBOL } from "../sketch/Ties";
import type { Action } from "../state/action";
import { working } from "../state/mode";
import { clearMessage, useBoard, useResting } from "../state/store";
import { SizesHere } from "../steps/SizesHere";
import { activeSlot } from "../steps/slots";
import { allActions } from "./actions";

/** The drawing row, the most used first; the others unfold. */
const DRAW = ["line", "rectangle", "circle", "arc", "slot", "point", "edges"];
const MORE = [
  "centre-rectangle",
  "turned-rectangle",
  "two-point-circle",
  "three-point-circle",
  "touching-circle",
  "three-point-arc",
  "tangent-arc",
  "polygon",
  "polygon-flats",
  "ellipse",
  "ellipse-arc",
  "spline",
  "text",
  "outline",
  "drawing",
  "place",
  "put-in",
];
/** What is done with what is drawn. */
const WORK = ["dimension", "trim", "extend", "split", "check", "suggest", "motions", "finish"];

export function ActionBar() {
  const s = useResting();
  const [more, setMore] = useState(false);
  const strip = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const el = strip.current!;
    const watch = new ResizeObserver(() => useBoard.setState({ foot: el.offsetHeight }));
    watch.observe(el);
    return () => watch.disconnect();
  }, []);
  const live = allActions().filter((a) => a.when());
  const answering = live.filter((a) =>
    s.draft
      ? false
      : s.sketch
        ? s.chosen.length > 0 &&
          ["constrain", "edit"].includes(a.group) &&
          !["finish", "undo", "redo", "trim", "extend", "split"].includes(a.id)
        : a.group === "pick",
  );
  if (s.sketch && s.chosen.length) answering.push(...live.filter((a) => a.id === "dimension"));
  const several = (s.build?.bodies?.length ?? 0) > 1;
  const planes =
    !s.sketch && (s.choosingPlane || !s.part!.document.steps?.length) && s.part!.role !== "viewer";
  const listed = (ids: string[]) => ids.flatMap((id) => live.filter((a) => a.id === id));
  const building = live.filter((a) => a.group === "build" || (a.id === "delete" && s.openStep));
  const refining = live.filter(
    (a) => a.group === "refine" || (a.group === "bodies" && (a.id !== "step combine" || several)),
  );
  const inHand = MORE.filter((id) => id === s.tool?.id);
  return (
    <div ref={strip} className="absolute inset-x-0 bottom-0 px-3 pb-2">
      <Said />
      <div role="toolbar" aria-label="Deck" className="border border-hair bg-panel">
        <Row label={selectionWords()} actions={answering} empty={emptyWords()}>
          {planes &&
            (["front", "top", "right"] as const).map((p) => (
              <button
                key={p}
                type="button"
                className="px-2 py-1 font-medium hover:bg-redwash"
                onClick={() => sketchOnDatum(p)}
              >
                {p[0].toUpperCase() + p.slice(1)} plane
              </button>
            ))}
          {planes &&
            guides()
              .filter((g) => g.form === "plane")
              .map((g) => (
                <button
                  key={g.step.id}
                  type="button"
                  className="px-2 py-1 font-medium hover:bg-redwash"
                  onClick={() => sketchOnPlane(g.step.id)}
                >
                  Datum {g.number}
                </button>
              ))}
          <span className="grow" />
          {!s.chosen.length && !s.picks.length && !s.draft && !planes && (
            <button
              type="button"
              aria-pressed={s.windowTouches}
              className="px-2 py-1 text-pencil hover:bg-redwash"
              title="Whether a window pulled open takes all it touches or only what lies inside it"
              onClick={() => useBoard.setState({ windowTouches: !s.windowTouches })}
            >
              window: {s.windowTouches ? "touched" : "inside"}
            </button>
          )}
          <button
            type="button"
            className="sticky right-0 bg-panel px-2 py-1 hover:bg-redwash"
            onClick={() => useBoard.setState({ dialog: "actions" })}
          >
            All actions <Keys keys="/" />
          </button>
        </Row>
        {!working(s) && !s.measuring && <SizesHere />}
        {s.sketch ? (
          <>
            <Row label="Draw" actions={listed([...DRAW, ...(more ? MORE : inHand)])} active={s.tool?.id}>
              <button
                type="button"
                aria-expanded={more}
                className="px-1.5 py-1 text-pencil hover:bg-redwash"
                onClick={() => setMore(!more)}
              >
                {more ? "fewer" : "more shapes"}
              </button>
            </Row>
            <Row label="Finish" actions={listed(WORK)} active={s.tool?.id} />
          </>
        ) : (
          <>
            {!s.draft && <Row label="Build" actions={building} />}
            {!s.draft && (s.build?.bodies?.length ?? 0) > 0 && <Row label="Refine" actions={refining} />}
          </>
        )}
      </div>
    </div>
  );

  function selectionWords(): string {
    if (planes) return "Sketch on";
    if (s.sketch) {
      if (!s.chosen.length) return "Nothing chosen";
      const words = s.part!.sketches[s.sketch]?.words ?? {};
      if (s.chosen.length === 1) return words[s.chosen[0]] ?? said(s.chosen[0]);
      return `${s.chosen.length} chosen`;
    }
    if (s.draft) return s.draft.slot ? "Pointing at" : "Trying";
    const pick = s.picks[0];
    if (!pick) return "Nothing chosen";
    const body = s.scene?.bodies()[pick.body];
    if (!body) return "";
    const count = (kind: string) => s.picks.filter((p) => p.kind === kind).length;
    return [plural(count("face"), "face"), plural(count("edge"), "edge")].filter(Boolean).join(" · ");
  }

  function emptyWords(): string {
    if (planes) return "";
    if (s.draft) return draftWords();
    if (s.sketch) return s.chosen.length ? "" : "press things, or pull a window; Shift takes more";
    if (s.picks.length) return "choose a flat face to sketch on it";
    return "press a face to sketch on it, or pull a window";
  }
}

/** What a press on the board does while a step is worked on. */
function draftWords(): string {
  const active = activeSlot();
  if (!active) return "press a slot of the sentence to fill it by pointing at the part";
  const label = active.slot.label.toLowerCase();
  switch (active.slot.kind) {
    case "edges":
      return `${label}: press edges, or a face for all edges around it; press again to take out`;
    case "faces":
      return `${label}: press faces; press again to take out`;
    case "axis":
      return `${label}: press an edge, a round face for its axis, or a flat face for the direction square to it`;
    case "plane":
      return `${label}: press a flat face or a datum plane`;
    case "body":
    case "bodies":
      return `${label}: press any face of the body`;
    case "steps":
      return `${label}: press what a step made`;
    default:
      return `${label}: press ${/^(two|three) /.test(label) ? "them" : "it"} on the part`;
  }
}

const plural = (n: number, of: string) => (n ? `${n} ${of}${n === 1 ? "" : "s"}` : "");

function Row({
  label,
  actions,
  active,
  empty,
  children,
}: {
  label: string;
  actions: Action[];
  active?: string;
  empty?: string;
  children?: React.ReactNode;
}) {
  return (
    <div className="flex min-h-[34px] items-baseline whitespace-nowrap border-b border-hair px-2 last:border-b-0">
      <span className="mr-2 min-w-[40px] shrink-0 font-cond text-[12px] text-pencil">{label}</span>
      <div className="flex min-h-[33px] min-w-0 grow flex-wrap items-center gap-x-1">
        {actions.map((a) => (
          <button
            key={a.id}
            type="button"
            aria-pressed={active === a.id}
            className={`flex items-center gap-1 px-1.5 py-1 hover:bg-redwash ${active === a.id ? "bg-redwash text-red" : ""}`}
            onClick={a.run}
          >
            {a.glyph && (
              <svg width="14" height="14" viewBox="-8 -8 16 16" aria-hidden="true">
                <path d={SYMBOL[a.glyph]} fill="none" stroke="currentColor" strokeWidth="1.4" />
              </svg>
            )}
            {a.words} <Keys keys={a.keys} />
          </button>
        ))}
        {!actions.length && empty && (
          <span className="min-w-0 truncate font-cond text-[12.5px] text-faint">{empty}</span>
        )}
        {children}
      </div>
    </div>
  );
}

function Keys({ keys }: { keys: string }) {
  return <span className="font-mono text-[11px] text-faint">{keys}</span>;
}

/** The last answer, with its ways out. */
function Said() {
  const message = useBoard((s) => s.message);
  const field = useBoard((s) => s.field);
  if (!message || (field && message.tone === "red")) return null;
  const tone = {
    red: "border-red bg-redwash text-red",
    proof: "border-proof bg-proofwash text-proof",
    ink: "border-hair bg-panel",
  }[message.tone];
  return (
    <div
      role={message.tone === "red" ? "alert" : "status"}
      className={`mb-1.5 flex items-center gap-3 border px-3 py-1.5 ${tone}`}
    >
      <p className="grow">{message.text}</p>
      {message.offers.map((o) => (
        <button key={o.label} type="button" className="btn text-ink" onClick={o.act}>
          {o.label}
        </button>
      ))}
      <button type="button" aria-label="Close the message" className="px-1" onClick={clearMessage}>
        ×
      </button>
    </div>
  );
}
