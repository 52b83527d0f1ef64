/** Values typed while drawing, beside the pointer: what was typed becomes a dimension. */
import { useEffect, useLayoutEffect, useRef, useState } from "react";
import { flushSync } from "react-dom";
import { apply } from "../geometry/affine";
import { affine, board, useBoard } from "../state/store";
import { placesOf, stripPlace } from "./stripPlace";
import { entitiesNow } from "./tools/tool";

export function TypedFields() {
  const s = useBoard();
  const box = useRef<HTMLDivElement>(null);
  const tool = s.tool;
  const m = affine(s);
  const [size, setSize] = useState({ width: 240, height: 34 });
  const snap = tool?.snap;
  useEffect(() => {
    const typing = (e: KeyboardEvent) => {
      const target = e.target as HTMLElement;
      if (target.tagName === "INPUT" || e.ctrlKey || e.metaKey || e.altKey) return;
      if (!/^[\d.,(R⌀Ø-]$/.test(e.key) && e.key !== "Tab") return;
      const input = box.current?.querySelector("input");
      const { tool } = board();
      if (!input) {
        // nothing to be typed yet: where the next point stands
        if (document.querySelector("[role=dialog]") || board().field || /[R⌀Ø(]/.test(e.key)) return;
        // at once, or the next key would come before the field
        if (!flushSync(() => tool?.typePlace(e.key === "Tab" ? "" : e.key))) return;
        e.preventDefault();
        const field = box.current?.querySelector("input");
        field?.focus({ preventScroll: true });
        field?.setSelectionRange(field.value.length, field.value.length);
        return;
      }
      input.focus({ preventScroll: true });
      input.setSelectionRange(input.value.length, input.value.length);
      if (e.key === "Tab") e.preventDefault();
    };
    window.addEventListener("keydown", typing, true);
    return () => window.removeEventListener("keydown", typing, true);
  }, []);
  const letters = tool?.typed[0]?.unit === "letters" ? tool.typed[0].text : "";
  useEffect(() => {
    // a name begun on the keys (see keys.ts) is gone on with in its field
    const input = letters ? box.current?.querySelector("input") : null;
    if (input && document.activeElement !== input) {
      input.focus({ preventScroll: true });
      input.setSelectionRange(input.value.length, input.value.length);
    }
  }, [letters]);
  useLayoutEffect(() => {
    const now = box.current;
    if (now && (now.offsetWidth !== size.width || now.offsetHeight !== size.height))
      setSize({ width: now.offsetWidth, height: now.offsetHeight });
  });
  const fields = tool?.typed.length ? tool.typed : (tool?.places ?? []);
  if (!tool || !m || !fields.length) return null;
  // a tool in hand before the pointer has moved: in the middle of the board
  const [x, y] = snap ? apply(m, snap.at) : [s.view.width / 2, s.view.height / 2];
  const [left, top] = stripPlace(
    [x, y],
    size,
    { width: s.view.width, height: s.view.height - s.foot },
    placesOf(tool.ghosts(), entitiesNow()).map((p) => apply(m, p)),
  );
  return (
    <div
      ref={box}
      className="absolute flex gap-1 whitespace-nowrap border border-ink bg-panel p-1"
      style={{ left, top }}
      onPointerDown={(e) => e.stopPropagation()}
    >
      {tool.entryWords() && (
        <span className="px-1 font-cond text-[12px] text-pencil">
          {tool.entryWords()} <kbd className="font-mono text-[11px] text-faint">x</kbd>
        </span>
      )}
      {fields.map((t) => (
        <label key={t.key} className="flex items-center gap-1 font-cond text-[12px] text-pencil">
          {t.label}
          <input
            data-typed={t.key}
            className="w-[74px] border-b border-hair bg-white px-1 font-mono text-[13px] text-ink placeholder:text-faint"
            value={t.text}
            placeholder={
              t.unit === "letters"
                ? t.label.toLowerCase()
                : t.now.toFixed(t.unit === "°" ? 1 : t.unit ? 2 : 0)
            }
            onChange={(e) => tool.type(t.key, e.target.value)}
            onKeyDown={(e) => {
              if (e.key === "Enter") {
                tool.enter();
                e.currentTarget.blur();
              }
              if (e.key === "Escape") {
                tool.type(t.key, "");
                tool.places = [];
                e.currentTarget.blur();
              }
              e.stopPropagation();
            }}
          />
        </label>
      ))}
    </div>
  );
}
