/** A step as its sentence with slots, tried live while it is filled in. */
import { useEffect, useRef } from "react";
import type { Step, StepOffers } from "../api/types";
import {
  catalogue,
  type Data,
  firstLength,
  type Group,
  isEmpty,
  look,
  type Part,
  put,
  type Slot,
  shows,
} from "../state/catalogue";
import { useBoard } from "../state/store";
import { NotationText } from "../ui/NotationText";
import { Waiting } from "../ui/Waiting";
import { acceptDraft, changeDraft, dropDraft, previewNow, stopTrying } from "./draft";
import { useFieldsNoted } from "./feeds";
import { PointedSlot } from "./PointedSlot";
import { activate, missing, POINTED } from "./slots";
import { ChoiceSlot, LeftOut, SizeSlot, SketchSlot, ValueSlot } from "./ValueSlots";

const NAMES: Record<string, string> = { extrude: "Extrusion", fillet: "Round", hole: "Hole" };

export function StepSlots() {
  const draft = useBoard((s) => s.draft)!;
  const preview = useBoard(previewNow);
  const holder = useRef<HTMLFieldSetElement>(null);
  const { step } = draft;
  useEffect(() => {
    const wanted = draft.start?.first ?? "extent.depth";
    const el = holder.current;
    const input =
      el?.querySelector<HTMLInputElement>(`[data-path="${wanted}"]`) ??
      el?.querySelector<HTMLInputElement>("input[data-path]");
    input?.focus();
    input?.select();
  }, [draft.start]);
  useFieldsNoted();
  const tried = JSON.stringify(step); // other values, another wait
  const report = preview?.steps?.find((r) => r.id === step.id);
  const offer = report?.offers.offer;
  const fitting = report?.offers.largest;
  const bad = preview?.sentence || (report?.state === "failed" ? report.said : "");
  return (
    <fieldset
      ref={holder}
      className="mt-1 leading-[2.1]"
      aria-label={NAMES[step.kind] ?? step.kind[0].toUpperCase() + step.kind.slice(1)}
      onKeyDown={(e) => {
        // in the sentence Enter keeps the step, also on a slot that was just pressed; Space is for the slots
        const at = e.target as HTMLElement;
        if (e.key === "Enter" && (at.tagName !== "BUTTON" || at.closest("[data-sentence]"))) {
          e.preventDefault();
          acceptDraft(e.shiftKey);
        }
        if (e.key === "Escape") dropDraft();
        if (e.key !== "Tab") e.stopPropagation();
      }}
    >
      <span data-sentence>
        <Parts parts={catalogue().sentences[step.kind] ?? []} before="" />
      </span>
      <div className="leading-normal">
        {preview?.open ? (
          <p className="mt-1 text-ochre" aria-live="polite">
            {preview.open}
          </p>
        ) : bad ? (
          <p role="alert" className="mt-1 text-red">
            {bad}
            {offer && (
              <button
                type="button"
                className="btn ml-2 text-ink"
                onClick={() => changeDraft({ ...step, ...offer.changes } as Step)}
              >
                {offer.label}
              </button>
            )}
            {fitting && (
              <button
                type="button"
                className="btn ml-2 text-ink"
                onClick={() => takeLargest(step, report!.offers)}
              >
                Take {fitting}
              </button>
            )}
          </p>
        ) : (
          <p className={`mt-1 ${report ? tone(report) : "text-pencil"}`} aria-live="polite">
            {report ? (
              <NotationText text={report.said} />
            ) : (
              <Waiting key={tried} words="Trying" stop={stopTrying} />
            )}
          </p>
        )}
        <div className="mt-2 flex gap-2">
          <button
            type="button"
            className="btn btn-main"
            disabled={Boolean(bad) || missing(step) !== null}
            onClick={() => acceptDraft()}
          >
            Keep <span className="font-mono text-[11px] text-faint">Enter</span>
          </button>
          <button type="button" className="btn" onClick={dropDraft}>
            Drop <span className="font-mono text-[11px] text-faint">Esc</span>
          </button>
        </div>
      </div>
    </fieldset>
  );
}

/** What a step did is good, unless it says itself that something is to be looked at. */
export const tone = (report: { extra?: Data }) => (report.extra?.caution ? "text-ochre" : "text-proof");

/** Put the largest size that fits into the field that was too large. */
function takeLargest(step: Step, { largest, field = "" }: StepOffers) {
  const value = String(largest);
  const groups = (step as unknown as Data).groups as Data[] | undefined;
  if (field === "radius" && groups?.length === 1) changeDraft(put(step, "groups.0.radius", value));
  else if (look(step, field) !== undefined) changeDraft(put(step, field, value));
}

function Parts({ parts, before }: { parts: Part[]; before: string }) {
  const step = useBoard((s) => s.draft!.step);
  const data = before ? look(step, before.slice(0, -1)) : step;
  return (
    <>
      {parts.map((p, i) => {
        if (p.is === "group") return <Groups key={p.field} group={p} />;
        if (!shows(p, data)) return null;
        if (p.is === "words")
          return (
            <span key={i}>
              <NotationText text={p.text} />{" "}
            </span>
          );
        return <OneSlot key={before + p.field} slot={p} path={before + p.field} />;
      })}
    </>
  );
}

function Groups({ group }: { group: Group }) {
  const step = useBoard((s) => s.draft!.step);
  const unit = useBoard((s) => s.part!.document.unit);
  const items = (look(step, group.field) as Data[]) ?? [];
  const pointed = group.parts.find((p): p is Slot => p.is === "slot" && POINTED.has(p.kind));
  const value = group.parts.find((p): p is Slot => p.is === "slot" && !POINTED.has(p.kind));
  const fresh = () => {
    const last = items[items.length - 1];
    const first = value!.kind === "length" ? firstLength("2", unit) : "2";
    return { [pointed!.field]: [], [value!.field]: (last?.[value!.field] as string) ?? first };
  };
  return (
    <>
      {items.map((_, i) => (
        <span key={i}>
          {i > 0 && <span className="text-pencil">; </span>}
          <Parts parts={group.parts} before={`${group.field}.${i}.`} />
          {(i > 0 || group.field === "own") && (
            <button
              type="button"
              aria-label="Leave this out"
              className="px-1 text-pencil hover:text-red"
              onClick={() =>
                changeDraft(
                  put(
                    step,
                    group.field,
                    items.filter((_x, k) => k !== i),
                  ),
                )
              }
            >
              ×
            </button>
          )}
        </span>
      ))}
      <button
        type="button"
        className="px-1 font-cond text-[12.5px] text-pencil underline"
        onClick={() => {
          changeDraft(put(step, group.field, [...items, fresh()]));
          activate(`${group.field}.${items.length}.${pointed!.field}`);
        }}
      >
        + {group.add}
      </button>{" "}
    </>
  );
}

function OneSlot({ slot, path }: { slot: Slot; path: string }) {
  const step = useBoard((s) => s.draft!.step);
  const value = look(step, path);
  const bodies = useBoard((s) => s.build?.bodies?.length ?? 0);
  if (slot.kind === "bodies" && slot.optional && bodies < 2 && isEmpty(value)) return null;
  if (POINTED.has(slot.kind)) return <PointedSlot slot={slot} path={path} value={value} />;
  if (slot.kind === "choice" || slot.kind === "flag")
    return <ChoiceSlot slot={slot} path={path} value={value} />;
  if (slot.kind === "sketch") return <SketchSlot path={path} value={value as string} label={slot.label} />;
  if (slot.kind === "size") return <SizeSlot path={path} value={value as string} label={slot.label} />;
  if (slot.kind === "regions") {
    const regions = value as unknown[] | null;
    return regions ? (
      <span className="slot">{`${regions.length} region${regions.length > 1 ? "s" : ""} of`} </span>
    ) : null;
  }
  if (slot.kind === "grid") return <LeftOut path={path} value={(value as [number, number][]) ?? []} />;
  return <ValueSlot slot={slot} path={path} value={(value as string) ?? ""} />;
}
