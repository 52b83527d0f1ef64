/** The value field of a dimension being made or changed, where its text stands. A press on a callout feeds it. */
import { useEffect, useRef, useState } from "react";
import { apply } from "../geometry/affine";
import { affine, useBoard } from "../state/store";
import { keepValue, spelled } from "./valueField";

export function ValueEditor() {
  const field = useBoard((s) => s.field);
  useBoard((s) => s.view);
  const m = affine();
  if (!field || !m) return null;
  const [x, y] = apply(m, field.at);
  return <Field key={`${field.dimension}${field.at}`} x={x} y={y} />;
}

function Field({ x, y }: { x: number; y: number }) {
  const field = useBoard((s) => s.field)!;
  const part = useBoard((s) => s.part)!;
  const view = useBoard((s) => s.view);
  const foot = useBoard((s) => s.foot);
  const message = useBoard((s) => s.message);
  // the text lives in the store: a callout pressed while the field is open replaces it at once
  const text = field.text;
  const setText = (text: string) => useBoard.setState({ field: { ...field, text } });
  const [name, setName] = useState("");
  const input = useRef<HTMLInputElement>(null);
  useEffect(() => {
    input.current?.focus({ preventScroll: true });
    input.current?.select();
  }, []);
  useEffect(() => {
    if (field.callout) input.current?.focus({ preventScroll: true });
  }, [field.callout]);
  const { named } = spelled(field);
  async function keep() {
    if (!(await keepValue(name))) input.current?.focus({ preventScroll: true });
  }
  const left = Math.min(Math.max(x - 60, 8), view.width - 250);
  const top = Math.max(8, Math.min(y - 34, view.height - foot - 84)); // clear of the deck
  return (
    <div
      className="absolute z-10 border border-red bg-panel p-1.5"
      style={{ left, top }}
      onPointerDown={(e) => e.stopPropagation()}
    >
      <div className="flex items-center gap-1.5">
        <input
          ref={input}
          aria-label={`Value of the ${field.kind}`}
          className="w-[120px] border-b border-red bg-white px-1.5 py-0.5 font-mono text-[14px]"
          value={text}
          onChange={(e) => setText(e.target.value)}
          onKeyDown={(e) => {
            if (e.key === "Enter") keep();
            if (e.key === "Escape") useBoard.setState({ field: null, chosen: [] });
            e.stopPropagation();
          }}
        />
        <span className="font-cond text-[12px] text-pencil">
          {field.kind === "angle"
            ? "°"
            : field.kind === "text" || field.kind === "count"
              ? ""
              : part.document.unit}
        </span>
        {!field.dimension && !field.nameless && (
          <input
            aria-label="Name of the dimension"
            placeholder="name"
            title="Or typed before the value: grip = 12"
            className="w-[70px] border-b border-hair bg-white px-1 py-0.5 font-mono text-[13px]"
            value={named || name}
            readOnly={named !== ""}
            onChange={(e) => setName(e.target.value)}
            onKeyDown={(e) => {
              if (e.key === "Enter") keep();
              e.stopPropagation();
            }}
          />
        )}
      </div>
      {field.hint && <p className="mt-1 max-w-[260px] font-cond text-[12px] text-pencil">{field.hint}</p>}
      {field.callout && (
        <p className="mt-1 font-cond text-[12px] text-proof">fed by a callout; Enter keeps the link</p>
      )}
      {message?.tone === "red" && (
        <div role="alert" className="mt-1 max-w-[260px] text-[12px] text-red">
          <p>{message.text}</p>
          {message.offers.map((o) => (
            <button
              key={o.label}
              type="button"
              className="btn mt-1 text-ink"
              onClick={() => {
                useBoard.setState({ field: null, chosen: [] });
                o.act();
              }}
            >
              {o.label}
            </button>
          ))}
        </div>
      )}
    </div>
  );
}
