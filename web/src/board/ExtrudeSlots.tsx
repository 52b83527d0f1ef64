/** An extrusion as a sentence with slots, tried live while its values are typed. */
import { useEffect, useRef, useState } from "react";
import type { ExtrudeStep } from "../api/types";
import { acceptDraft, changeDraft, dropDraft } from "./drafting";
import { numberOf, useBoard } from "./store";

type Extent = ExtrudeStep["extent"];

export function ExtrudeSlots() {
  const draft = useBoard((s) => s.draft)!;
  const part = useBoard((s) => s.part)!;
  const preview = useBoard((s) => s.preview);
  const message = useBoard((s) => s.message);
  const { step } = draft;
  const depth = step.extent.kind === "through_all" ? "" : step.extent.depth;
  const [last, setLast] = useState(depth || "10");
  const [feeds, setFeeds] = useState<string | undefined>();
  const input = useRef<HTMLInputElement>(null);
  useEffect(() => {
    input.current?.focus();
    input.current?.select();
  }, []);
  useEffect(() => {
    const feed = (e: Event) => {
      const id = (e as CustomEvent<string>).detail;
      const typed = part.callouts[id]?.typed;
      if (!typed) return;
      setFeeds(id);
      setLast(typed);
      changeDraft({
        extent: { kind: step.extent.kind === "symmetric" ? "symmetric" : "depth", depth: typed } as Extent,
      });
      input.current?.focus();
    };
    window.addEventListener("sulvak-feed", feed);
    return () => window.removeEventListener("sulvak-feed", feed);
  }, [part.callouts, step.extent.kind]);
  const report = preview?.steps?.find((r) => r.id === step.id);
  const offer = report?.offers?.offer as { label: string; changes: Partial<ExtrudeStep> } | undefined;
  const bad = preview?.sentence || (report?.state === "failed" ? report.said : "");
  const callout = (part.document.callouts ?? []).find(
    (c) => c.id === feeds || (!draft.fresh && c.link?.step === step.id && c.link.field === "depth"),
  );
  const setExtent = (kind: string) => {
    const extent = kind === "through_all" ? { kind } : { kind, depth: depth || last };
    changeDraft({ extent: extent as Extent });
  };
  const accept = () => acceptDraft(step.extent.kind !== "through_all" && feeds ? feeds : undefined);
  return (
    <fieldset
      className="mt-1 leading-[2.1]"
      aria-label="Extrusion"
      onKeyDown={(e) => {
        if (e.key === "Enter" && (e.target as HTMLElement).tagName !== "BUTTON") accept();
        if (e.key === "Escape") dropDraft();
        e.stopPropagation();
      }}
    >
      <select
        className="slot"
        aria-label="Operation"
        value={step.operation}
        onChange={(e) => {
          const operation = e.target.value as ExtrudeStep["operation"];
          if (operation !== "cut" && step.extent.kind === "through_all") setExtent("depth");
          changeDraft({ operation });
        }}
      >
        <option value="add">Extrude</option>
        <option value="cut">Cut</option>
        <option value="new">Extrude as a new body</option>
      </select>{" "}
      <span className="slot">
        {step.regions ? `${step.regions.length} region${step.regions.length > 1 ? "s" : ""} of ` : ""}sketch{" "}
        {numberOf(part, step.sketch)}
      </span>{" "}
      <select
        className="slot"
        aria-label="Extent"
        value={step.extent.kind}
        onChange={(e) => setExtent(e.target.value)}
      >
        <option value="depth">by</option>
        <option value="symmetric">symmetric by</option>
        {step.operation === "cut" && <option value="through_all">through all</option>}
      </select>{" "}
      {step.extent.kind !== "through_all" && (
        <span className="whitespace-nowrap">
          <input
            ref={input}
            className="slot font-mono font-medium"
            aria-label="Depth"
            value={depth}
            onChange={(e) => {
              setFeeds(undefined);
              changeDraft({ extent: { kind: step.extent.kind, depth: e.target.value || " " } as Extent });
            }}
          />{" "}
          <span className="font-cond text-pencil">{part.document.unit}</span>
          {callout && (
            <span className="ml-1 rounded-full border border-ink px-1.5 font-cond text-[11px]">
              {callout.number}
            </span>
          )}
        </span>
      )}{" "}
      {step.extent.kind !== "symmetric" && (
        <button
          type="button"
          className="slot"
          aria-pressed={step.reverse}
          onClick={() => changeDraft({ reverse: !step.reverse })}
        >
          {step.reverse ? "turned round" : "straight on"} ⇄
        </button>
      )}
      <div className="leading-normal">
        {bad ? (
          <p role="alert" className="mt-1 text-red">
            {bad}
            {offer && (
              <button type="button" className="btn ml-2 text-ink" onClick={() => changeDraft(offer.changes)}>
                {offer.label}
              </button>
            )}
          </p>
        ) : (
          <p className="mt-1 text-proof" aria-live="polite">
            {report ? report.said : "Trying …"}
          </p>
        )}
        {message?.tone === "red" && <p className="mt-1 text-red">{message.text}</p>}
        <div className="mt-2 flex gap-2">
          <button type="button" className="btn btn-main" disabled={Boolean(bad)} onClick={accept}>
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
