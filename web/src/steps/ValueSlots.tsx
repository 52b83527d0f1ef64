/** Slots of a sentence that are typed or chosen from a list. */
import { useRef } from "react";
import type { Step } from "../api/types";
import {
  catalogue,
  type Data,
  firstLength,
  isEmpty,
  lengthFields,
  linkName,
  look,
  put,
  type Slot,
} from "../state/catalogue";
import { numberOf, steps, useBoard } from "../state/store";
import { changeDraft } from "./draft";
import { fewer } from "./picks";
import { activate, pointOn } from "./slots";

/** Optional sizes stay out of the sentence until they are asked for. */
export function ValueSlot({ slot, path, value }: { slot: Slot; path: string; value: string }) {
  const part = useBoard((s) => s.part!);
  const draft = useBoard((s) => s.draft!);
  const step = draft.step;
  const unset = slot.optional && isEmpty(value);
  const empty = slot.label === "Thin wall" || slot.label === "Thread depth" ? "" : "0";
  if (unset && !(path in draft.feeds))
    return (
      <button
        type="button"
        className="px-1 font-cond text-[12.5px] text-pencil underline"
        onClick={() =>
          changeDraft(put(step, path, slot.kind === "angle" ? "2" : firstLength("1", part.document.unit)))
        }
      >
        + {slot.label.toLowerCase()}
      </button>
    );
  const fed = draft.feeds[path];
  const callout = (part.document.callouts ?? []).find(
    (c) =>
      c.id === fed || (!draft.fresh && !fed && c.link?.step === step.id && c.link.field === linkName(path)),
  );
  const before =
    { "Short of it by": "short of it by", Taper: "tapering by", "Thin wall": "as a wall of" }[slot.label] ??
    "";
  return (
    <span className="whitespace-nowrap">
      {before}{" "}
      <input
        className="slot font-mono font-medium"
        aria-label={slot.label}
        data-path={path}
        value={value}
        style={{ width: `${Math.max(4, value.length + 2)}ch` }}
        onFocus={(e) => e.target.select()}
        onChange={(e) => {
          const { [path]: _gone, ...feeds } = draft.feeds;
          useBoard.setState({ draft: { ...draft, feeds } });
          changeDraft(put(step, path, e.target.value || (slot.optional ? empty : " ")));
        }}
      />{" "}
      <span className="font-cond text-pencil">
        {slot.kind === "length" ? part.document.unit : slot.kind === "angle" ? "°" : ""}
      </span>
      {callout && (
        <span className="ml-1 rounded-full border border-ink px-1.5 font-cond text-[11px]">
          {callout.number}
        </span>
      )}{" "}
      {slot.optional && (
        <button
          type="button"
          aria-label={`Without ${slot.label.toLowerCase()}`}
          className="px-0.5 text-pencil hover:text-red"
          onClick={() => changeDraft(put(step, path, empty))}
        >
          ×
        </button>
      )}
    </span>
  );
}

export function ChoiceSlot({ slot, path, value }: { slot: Slot; path: string; value: unknown }) {
  const step = useBoard((s) => s.draft!.step);
  const unit = useBoard((s) => s.part!.document.unit);
  const was = useRef<Data>({}); // what was typed for other answers: it is there again when one comes back to them
  const choose = (text: string) => {
    const option = slot.options.find((o) => o.value === text);
    const names = path.split(".");
    if (option && names.length > 1 && names[names.length - 1] === "kind") {
      // another kind of thing: it keeps what both have, and starts with what is its own
      const parent = names.slice(0, -1).join(".");
      const now = look(step, parent) as Data;
      const lengths = lengthFields(step.kind);
      const first = (k: string, v: string) => (lengths.includes(`${parent}.${k}`) ? firstLength(v, unit) : v);
      was.current = { ...was.current, ...now };
      const fields = option.gives.map(([k, v]) => [k, was.current[k] ?? (v === "" ? null : first(k, v))]);
      changeDraft(put(step, parent, { kind: text, ...Object.fromEntries(fields) }));
      const asks = option.gives.find(([, v]) => v === "");
      if (asks) activate(`${parent}.${asks[0]}`);
      return;
    }
    changeDraft(fewer(put(step, path, slot.kind === "flag" ? text === "true" : text)));
    pointOn();
  };
  if (slot.kind === "flag") {
    const on = value === true;
    return (
      <button
        type="button"
        className="slot"
        title={slot.label}
        aria-pressed={on}
        onClick={() => choose(on ? "false" : "true")}
      >
        {slot.options.find((o) => o.value === String(on))?.words} ⇄
      </button>
    );
  }
  return (
    <>
      <select
        className="slot"
        aria-label={slot.label}
        value={String(value)}
        onChange={(e) => choose(e.target.value)}
      >
        {slot.options.map((o) => (
          <option key={o.value} value={o.value} label={o.on ? `${o.words} ${o.on}` : undefined}>
            {o.words}
          </option>
        ))}
      </select>{" "}
    </>
  );
}

export function SketchSlot({ path, value, label }: { path: string; value: string; label: string }) {
  const part = useBoard((s) => s.part!);
  const draft = useBoard((s) => s.draft!);
  const all = steps(part);
  const at = draft.fresh ? all.length : all.findIndex((x) => x.id === draft.step.id);
  return (
    <>
      <select
        className="slot"
        aria-label={label}
        value={value ?? ""}
        onChange={(e) =>
          changeDraft({
            ...put(draft.step, path, e.target.value),
            ...("regions" in draft.step && { regions: null }), // those were of the other sketch
          } as unknown as Step)
        }
      >
        {!value && <option value="">a sketch …</option>}
        {all.slice(0, at).flatMap((s) =>
          s.kind === "sketch" && !s.stencil
            ? [
                <option key={s.id} value={s.id}>
                  sketch {numberOf(part, s.id)}
                  {s.name ? ` (${s.name})` : ""}
                </option>,
              ]
            : [],
        )}
      </select>{" "}
    </>
  );
}

/** The sizes of the part's own system first. */
const inOrder = (sizes: string[], unit: string) =>
  unit === "in" ? [...sizes.filter((s) => s[0] !== "M"), ...sizes.filter((s) => s[0] === "M")] : sizes;

export function SizeSlot({ path, value, label }: { path: string; value: string; label: string }) {
  const step = useBoard((s) => s.draft!.step);
  const unit = useBoard((s) => s.part!.document.unit ?? "mm");
  return (
    <>
      <select
        className="slot"
        aria-label={label}
        value={value}
        onChange={(e) => changeDraft(put(step, path, e.target.value))}
      >
        <option value="">any size</option>
        {inOrder(catalogue().sizes, unit).map((s) => (
          <option key={s} value={s}>
            {s.replace("x", "×")}
          </option>
        ))}
      </select>{" "}
    </>
  );
}

export function LeftOut({ path, value }: { path: string; value: [number, number][] }) {
  const step = useBoard((s) => s.draft!.step);
  if (!value.length) return null;
  return (
    <span>
      leaving out{" "}
      {value.map(([i, j]) => (
        <button
          key={`${i} ${j}`}
          type="button"
          className="slot"
          title="Put it back"
          onClick={() =>
            changeDraft(
              put(
                step,
                path,
                value.filter((p) => p[0] !== i || p[1] !== j),
              ),
            )
          }
        >
          {i}
          {j ? ` × ${j}` : ""} ×
        </button>
      ))}{" "}
    </span>
  );
}
