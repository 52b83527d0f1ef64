/** The part beside the table, turned by hand, with a balloon at the faces each callout was measured on. */
import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Vector3 } from "three";
import { get } from "../api/client";
import type { Build, Inspection, XY, XYZ } from "../api/types";
import { Balloon } from "../ui/ui";
import { fitted, orbit, startView, toScreen, type ViewState, zoom } from "../view/camera";
import { BoardScene } from "../view/scene";
import { Between } from "./Between";
import type { Shown } from "./checks/CheckTab";
import { spread } from "./spread";

const ROOM = 52; // px round the part, for its balloons
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
  const canvas = useRef<HTMLCanvasElement>(null);
  const scene = useRef<BoardScene | null>(null);
  const [view, setView] = useState<ViewState | null>(null);
  const from = useRef<XY | null>(null);
  const began = useRef<XY>([0, 0]);
  const [pressed, setPressed] = useState<XYZ[]>([]); // pressed on what is painted
  const turned = useRef(false); // by hand, and to stay so
  const reach = useRef<XYZ[] | undefined>(undefined); // what else is to be seen
  const refit = useRef(() => {});
  const build = useQuery({
    queryKey: ["build", id, version],
    queryFn: () => get<Build>(`/api/parts/${id}/build`),
  }).data;
  const bodies = build?.bodies ?? [];

  useEffect(() => {
    const el = canvas.current!;
    const made = new BoardScene(
      el,
      id,
      () => {},
      () => false,
    );
    scene.current = made;
    return () => {
      scene.current = null;
      made.dispose();
    };
  }, [id]);
  useEffect(() => {
    const el = canvas.current!;
    const shown = build?.bodies ?? [];
    let gone = false;
    const frame = el.parentElement!;
    const fit = () => {
      if (gone || !scene.current) return;
      const [width, height] = [frame.clientWidth, frame.clientHeight];
      scene.current.resize(width, height);
      const corners = [...scene.current.corners(), ...(reach.current ?? []).map((p) => new Vector3(...p))];
      setView((was) =>
        was && turned.current
          ? { ...was, width, height }
          : fitted({ ...startView(), width, height }, corners, 0, ROOM),
      );
    };
    refit.current = fit;
    scene.current?.show(shown, false).then(fit);
    const watch = new ResizeObserver(fit);
    watch.observe(frame);
    return () => {
      gone = true;
      watch.disconnect();
    };
  }, [build]);
  useEffect(() => {
    if (!view || !scene.current) return;
    const faces = shown ? shown.faces : (rows.find((r) => r.callout === lit)?.faces ?? []);
    const place = new Map((build?.bodies ?? []).map((b, i) => [b.id, i]));
    scene.current.light(
      faces.flatMap(([body, face]) =>
        place.has(body) ? [[place.get(body)!, face] as [number, number]] : [],
      ),
    );
    scene.current.look(view);
  }, [view, lit, rows, build, shown]);
  const paint = shown?.paint ?? null;
  useEffect(() => {
    if (build) scene.current?.paintOver(paint);
  }, [paint, build]);
  const wide = shown?.reach;
  useEffect(() => {
    reach.current = wide;
    refit.current();
    setPressed([]); // what was measured was on something else
  }, [wide]);
  useEffect(() => {
    if (!paint) setPressed([]);
  }, [paint]);

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
      onPointerDown={(e) => {
        from.current = began.current = [e.clientX, e.clientY];
        e.currentTarget.setPointerCapture(e.pointerId);
      }}
      onPointerLeave={() => setSaid(null)}
      onPointerMove={(e) => {
        if (!from.current && shown?.paint) {
          const box = e.currentTarget.getBoundingClientRect();
          const at: XY = [e.clientX - box.left, e.clientY - box.top];
          const hit = scene.current?.paintedAt(at) ?? null;
          setSaid(hit === null ? null : { at, text: shown.said(hit.corner) });
        }
        if (!from.current || !view) return;
        turned.current = true;
        setView(orbit(view, e.clientX - from.current[0], e.clientY - from.current[1]));
        from.current = [e.clientX, e.clientY];
      }}
      onPointerUp={(e) => {
        from.current = null;
        const [x, y] = began.current;
        if (!shown?.paint || Math.hypot(e.clientX - x, e.clientY - y) > STILL) return;
        const box = e.currentTarget.getBoundingClientRect();
        const hit = scene.current?.paintedAt([e.clientX - box.left, e.clientY - box.top]);
        // beside it: nothing is measured any more
        setPressed((was) => (hit ? [...(was.length === 1 ? was : []), hit.place] : []));
      }}
      onWheel={(e) => {
        const box = e.currentTarget.getBoundingClientRect();
        turned.current = true;
        if (view)
          setView(zoom(view, Math.exp(-e.deltaY * 0.0015), [e.clientX - box.left, e.clientY - box.top]));
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
              // biome-ignore lint/suspicious/noArrayIndexKey: spots have no names of their own
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
          onClick={() => {
            turned.current = false;
            const { width, height } = view;
            setView({ ...startView(), width, height });
            refit.current();
          }}
        >
          as at first
        </button>
      )}
    </div>
  );
}
