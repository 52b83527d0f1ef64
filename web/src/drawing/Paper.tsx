/** The paper: the drawing as it is, moved and enlarged at the pointer; its sizes and views can be taken hold of. */
import { useEffect, useRef, useState } from "react";
import type { DrawnSheet, DrawnSize, DrawnView } from "../api/types";
import { held, viewWords, type XY } from "./moved";

const CLICK = 3; // px up to which a press is no drag

interface Held {
  kind: "size" | "view";
  key: string;
  from: XY; // px
  by: XY; // mm, y up
}

interface PaperProps {
  sheet: DrawnSheet;
  old: boolean; // another one is on its way
  may: boolean;
  chosen: string | null;
  onChoose: (key: string | null) => void;
  onMoveSize: (size: DrawnSize, by: XY) => void;
  onMoveView: (view: DrawnView, by: XY) => void;
}

export function Paper({ sheet, old, may, chosen, onChoose, onMoveSize, onMoveView }: PaperProps) {
  const box = useRef<HTMLDivElement>(null);
  const paper = useRef<HTMLDivElement>(null);
  const [wide, high] = sheet.size;
  const [look, setLook] = useState<{ k: number; x: number; y: number } | null>(null); // px a mm; of the corner
  const [drag, setDrag] = useState<Held | null>(null);
  const pan = useRef<XY | null>(null);

  const fit = () => {
    const el = box.current;
    if (!el) return;
    const k = Math.min((el.clientWidth - 32) / wide, (el.clientHeight - 32) / high);
    setLook({ k, x: (el.clientWidth - wide * k) / 2, y: (el.clientHeight - high * k) / 2 });
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: anew for another paper only
  useEffect(() => {
    fit();
    const seen = new ResizeObserver(fit);
    if (box.current) seen.observe(box.current);
    return () => seen.disconnect();
  }, [wide, high]);

  useEffect(() => {
    const read = new DOMParser().parseFromString(sheet.svg, "image/svg+xml").documentElement;
    read.setAttribute("width", "100%");
    read.setAttribute("height", "100%");
    paper.current?.replaceChildren(document.importNode(read, true));
  }, [sheet.svg]);

  useEffect(() => {
    for (const s of sheet.sizes) {
      const g = paper.current?.querySelector(`[id="size-${s.key}"]`);
      const by = drag?.kind === "size" && drag.key === s.key ? drag.by : null;
      if (by) g?.setAttribute("transform", `translate(${by[0]} ${-by[1]})`);
      else g?.removeAttribute("transform");
      g?.setAttribute("stroke", chosen === s.key ? "#b83720" : "#1E2A44");
    }
  }, [sheet, drag, chosen]);

  const zoom = (at: XY, factor: number) =>
    setLook((v) => {
      if (!v) return v;
      const k = Math.min(60, Math.max(0.3, v.k * factor));
      return { k, x: at[0] - ((at[0] - v.x) * k) / v.k, y: at[1] - ((at[1] - v.y) * k) / v.k };
    });
  useEffect(() => {
    const el = box.current;
    const wheel = (e: WheelEvent) => {
      e.preventDefault();
      const r = el!.getBoundingClientRect();
      zoom([e.clientX - r.left, e.clientY - r.top], Math.exp(-e.deltaY / 400));
    };
    el?.addEventListener("wheel", wheel, { passive: false });
    return () => el?.removeEventListener("wheel", wheel);
  });

  function moved(e: React.PointerEvent) {
    if (drag && look) {
      const by: XY = [(e.clientX - drag.from[0]) / look.k, -(e.clientY - drag.from[1]) / look.k];
      const view = drag.kind === "view" ? sheet.views.find((v) => v.name === drag.key) : null;
      setDrag({ ...drag, by: view ? held(view, by) : by });
    } else if (pan.current) {
      const [x, y] = pan.current;
      pan.current = [e.clientX, e.clientY];
      setLook((v) => v && { ...v, x: v.x + e.clientX - x, y: v.y + e.clientY - y });
    }
  }
  function released(e: React.PointerEvent) {
    pan.current = null;
    if (!drag) return;
    const far = Math.hypot(e.clientX - drag.from[0], e.clientY - drag.from[1]) > CLICK;
    setDrag(null);
    if (!far) return onChoose(chosen === drag.key ? null : drag.key);
    if (drag.kind === "size") {
      const size = sheet.sizes.find((s) => s.key === drag.key);
      if (size) onMoveSize(size, drag.by);
    } else {
      const view = sheet.views.find((v) => v.name === drag.key);
      if (view) onMoveView(view, drag.by);
    }
  }
  const take = (kind: Held["kind"], key: string) => (e: React.PointerEvent) => {
    if (e.button !== 0) return;
    e.stopPropagation();
    if (!may) return onChoose(chosen === key ? null : key);
    box.current?.setPointerCapture(e.pointerId);
    setDrag({ kind, key, from: [e.clientX, e.clientY], by: [0, 0] });
  };
  return (
    <div
      ref={box}
      className="relative h-full w-full touch-none overflow-hidden bg-vellum"
      onPointerDown={(e) => {
        box.current?.setPointerCapture(e.pointerId);
        pan.current = [e.clientX, e.clientY];
        onChoose(null);
      }}
      onPointerMove={moved}
      onPointerUp={released}
      onPointerCancel={() => {
        pan.current = null;
        setDrag(null);
      }}
      onDoubleClick={fit}
    >
      {look && (
        <div
          className={`absolute border border-hair bg-white ${old ? "opacity-70" : ""}`}
          style={{ left: look.x, top: look.y, width: wide * look.k, height: high * look.k }}
        >
          <div ref={paper} className="pointer-events-none h-full w-full" />
        </div>
      )}
      {look && (
        <svg
          className="absolute"
          role="group"
          aria-label="What stands on the drawing"
          style={{ left: look.x, top: look.y, width: wide * look.k, height: high * look.k }}
          viewBox={`0 ${-high} ${wide} ${high}`}
        >
          {sheet.views.map((v) => (
            <ViewHandle
              key={v.name}
              view={v}
              by={drag?.kind === "view" && drag.key === v.name ? drag.by : null}
              chosen={chosen === v.name}
              onTake={take("view", v.name)}
            />
          ))}
          {sheet.sizes.map((s) => (
            <SizeHandle
              key={s.key}
              size={s}
              by={drag?.kind === "size" && drag.key === s.key ? drag.by : null}
              chosen={chosen === s.key}
              onTake={take("size", s.key)}
              onChoose={() => onChoose(chosen === s.key ? null : s.key)}
              onNudge={may ? (by) => onMoveSize(s, by) : undefined}
            />
          ))}
        </svg>
      )}
    </div>
  );
}

interface HandleProps {
  by: XY | null;
  chosen: boolean;
  onTake: (e: React.PointerEvent) => void;
}

function ViewHandle({ view, by, chosen, onTake }: HandleProps & { view: DrawnView }) {
  const [left, low, right, high] = view.outline;
  return (
    <rect
      x={left + (by?.[0] ?? 0) - 1}
      y={-high - (by?.[1] ?? 0) - 1}
      width={right - left + 2}
      height={high - low + 2}
      className={`cursor-move stroke-[0.35] ${by || chosen ? "fill-red/5 stroke-red" : "fill-transparent stroke-transparent hover:stroke-hair"}`}
      strokeDasharray="2 1"
      onPointerDown={onTake}
    >
      <title>{viewWords(view.name)}</title>
    </rect>
  );
}

const STEPS: Record<string, XY> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, 1],
  ArrowDown: [0, -1],
};

interface SizeHandleProps extends HandleProps {
  size: DrawnSize;
  onChoose: () => void;
  onNudge?: (by: XY) => void;
}

function SizeHandle({ size, by, chosen, onTake, onChoose, onNudge }: SizeHandleProps) {
  const [left, low, right, high] = size.boxes[0];
  return (
    <rect
      role="button"
      tabIndex={0}
      aria-pressed={chosen}
      aria-label={`Size ${size.text}${size.proven ? "" : ", not proven"}`}
      x={left + (by?.[0] ?? 0)}
      y={-high - (by?.[1] ?? 0)}
      width={right - left}
      height={high - low}
      className={`cursor-move outline-none focus-visible:stroke-red focus-visible:stroke-[0.4] ${
        chosen || by
          ? "fill-red/10"
          : size.proven
            ? "fill-transparent hover:fill-ink/10"
            : "fill-red/15 hover:fill-red/25"
      }`}
      onPointerDown={onTake}
      onKeyDown={(e) => {
        const step = STEPS[e.key];
        if (step && onNudge) {
          e.preventDefault();
          onNudge(e.shiftKey ? [step[0] * 5, step[1] * 5] : step);
        } else if (e.key === "Enter" || e.key === " ") {
          e.preventDefault();
          onChoose();
        }
      }}
    >
      <title>{size.proven ? `${size.text}: ${size.said}` : `${size.text}: ${size.said}, not proven`}</title>
    </rect>
  );
}
