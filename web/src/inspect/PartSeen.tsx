/** The part beside the table, turned by hand, with a balloon at the faces each callout was measured on. */
import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { get } from "../api/client";
import type { Build, Inspection, XY, XYZ } from "../api/types";
import { Balloon } from "../ui/ui";
import { toScreen } from "../view/camera";
import { Between } from "./Between";
import type { Shown } from "./checks/CheckTab";
import { spread } from "./spread";
import { useTurntable } from "./turntable";

const STILL = 3; // px: a pointer that goes no farther presses a place

type Row = Inspection["rows"][number];
const NONE: Row[] = [];

interface Props {
  id: string;
  version: number; // of the build that was measured
  rows: Row[];
  lit: string | null;
  onLit: (callout: string | null) => void;
  shown?: Shown | null; // what a check shows, in place of callouts
  onSpot?: (spot: number | null) => void;
}

export function PartSeen({ id, version, rows: measured, lit, onLit, shown, onSpot }: Props) {
  const rows = shown ? NONE : measured;
  const [said, setSaid] = useState<{ at: XY; text: string } | null>(null); // what the place under the pointer says
  const began = useRef<XY>([0, 0]);
  const [pressed, setPressed] = useState<XYZ[]>([]); // pressed on what is painted
  const build = useQuery({
    queryKey: ["build", id, version],
    queryFn: () => get<Build>(`/api/parts/${id}/build`),
  }).data;
  const bodies = build?.bodies ?? [];
  const wide = shown?.reach;
  const { canvas, scene, view, turning, home, hand } = useTurntable(id, build?.bodies, wide);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the scene is one and the same
  useEffect(() => {
    if (!view || !scene.current) return;
    const faces = shown ? shown.faces : (rows.find((r) => r.callout === lit)?.faces ?? []);
    const place = new Map((build?.bodies ?? []).map((b, i) => [b.id, i]));
    scene.current.light(
      faces.flatMap(([body, face]) =>
        place.has(body) ? [[place.get(body)!, face] as [number, number]] : [],
      ),
    );
  }, [view, lit, rows, build, shown]);
  const paint = shown?.paint ?? null;
  // biome-ignore lint/correctness/useExhaustiveDependencies: the scene is one and the same
  useEffect(() => {
    if (build) scene.current?.paintOver(paint);
  }, [paint, build]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: what was measured was on something else
  useEffect(() => setPressed([]), [wide, paint === null]);

  const wanted = view
    ? rows.flatMap((r) => {
        const [body, face] = r.faces[0] ?? [];
        const near = bodies.find((b) => b.id === body)?.faces[face as number]?.near;
        return near ? [{ row: r, at: toScreen(view, near) }] : [];
      })
    : [];
  const places = view
    ? spread(
        wanted.map((w) => w.at),
        [view.width, view.height],
      )
    : [];
  return (
    <div
      className="relative h-full min-h-0 touch-none overflow-hidden bg-vellum"
      role="group"
      aria-label="The part as measured"
      {...hand}
      onPointerDown={(e) => {
        began.current = [e.clientX, e.clientY];
        hand.onPointerDown(e);
      }}
      onPointerLeave={() => setSaid(null)}
      onPointerMove={(e) => {
        if (!turning.current && shown?.paint) {
          const box = e.currentTarget.getBoundingClientRect();
          const at: XY = [e.clientX - box.left, e.clientY - box.top];
          const hit = scene.current?.paintedAt(at) ?? null;
          setSaid(hit === null ? null : { at, text: shown.said(hit.corner) });
        }
        hand.onPointerMove(e);
      }}
      onPointerUp={(e) => {
        hand.onPointerUp(e);
        const [x, y] = began.current;
        if (!shown?.paint || Math.hypot(e.clientX - x, e.clientY - y) > STILL) return;
        const box = e.currentTarget.getBoundingClientRect();
        const hit = scene.current?.paintedAt([e.clientX - box.left, e.clientY - box.top]);
        // beside it: nothing is measured any more
        setPressed((was) => (hit ? [...(was.length === 1 ? was : []), hit.place] : []));
      }}
    >
      <canvas ref={canvas} className="absolute inset-0 h-full w-full" />
      <svg className="pointer-events-none absolute inset-0 h-full w-full" aria-hidden="true">
        {wanted.map(({ row, at }, i) => (
          <g key={row.callout} className={lit === row.callout ? "stroke-red" : "stroke-pencil"}>
            <path d={`M${at}L${places[i]}`} strokeWidth="0.8" />
            <circle cx={at[0]} cy={at[1]} r="1.6" className="fill-ink stroke-none" />
          </g>
        ))}
      </svg>
      {wanted.map(({ row }, i) => (
        <button
          key={row.callout}
          type="button"
          aria-label={`Callout ${row.number}: ${row.text}, ${row.verdict}`}
          className={`absolute -translate-x-1/2 -translate-y-1/2 rounded-full bg-panel ${row.verdict === "out" ? "outline outline-2 outline-red" : ""}`}
          style={{ left: places[i][0], top: places[i][1] }}
          onPointerDown={(e) => e.stopPropagation()}
          onClick={() => onLit(lit === row.callout ? null : row.callout)}
        >
          <Balloon number={row.number} tone={lit === row.callout ? "red" : "ink"} size={20} />
        </button>
      ))}
      {view &&
        shown?.spots.map((spot, k) => {
          const [x, y] = toScreen(view, spot.at);
          return (
            <button
              key={k}
              type="button"
              aria-label={`Finding ${k + 1}`}
              aria-pressed={shown.lit === k}
              className={`absolute h-3.5 w-3.5 -translate-x-1/2 -translate-y-1/2 rotate-45 border-2 ${spot.out ? "border-red" : "border-ochre"} ${shown.lit === k ? "bg-red" : "bg-panel"}`}
              style={{ left: x, top: y }}
              onPointerDown={(e) => e.stopPropagation()}
              onClick={() => onSpot?.(shown.lit === k ? null : k)}
            />
          );
        })}
      {view && pressed.length > 0 && <Between view={view} places={pressed} unit={shown?.unit ?? "mm"} />}
      {said?.text && (
        <span
          className="pointer-events-none absolute border border-hair bg-panel px-1.5 font-mono text-[12px]"
          style={{ left: said.at[0] + 12, top: said.at[1] + 12 }}
        >
          {said.text}
        </span>
      )}
      {build && !bodies.length && (
        <p className="absolute inset-0 grid place-items-center text-pencil">There is no solid yet.</p>
      )}
      {view && (
        <button
          type="button"
          className="absolute bottom-2 right-2 font-cond text-[12.5px] text-pencil underline"
          onPointerDown={(e) => e.stopPropagation()}
          onClick={home}
        >
          as at first
        </button>
      )}
    </div>
  );
}
