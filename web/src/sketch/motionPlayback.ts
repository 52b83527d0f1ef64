/** Free motions played: the geometry swings along one after the other. */

import { useEffect, useState } from "react";
import type { Entity, XY } from "../api/types";
import { pointRefs } from "../geometry/geometry";
import { board, useBoard } from "../state/store";

/** While free motions play: the entities swung along the motion being shown. */
export function usePlayed(entities: Entity[]): Entity[] | null {
  const motions = useBoard((s) => s.motions);
  const playing = useBoard((s) => s.playing);
  const [shown, setShown] = useState<Entity[] | null>(null);
  useEffect(() => {
    if (playing === null || !motions?.length) {
      setShown(null);
      return;
    }
    let frame = 0;
    const started = performance.now();
    const view = board().view;
    const reach = 22 / view.scale;
    const tickOn = (now: number) => {
      const t = Math.max(0, (now - started) / 1500);
      const n = playing + Math.floor(t);
      if (n >= motions.length) {
        useBoard.setState({ playing: null });
        return;
      }
      const motion = motions[n];
      const swing = Math.sin(2 * Math.PI * (t % 1)) * reach;
      setShown(entities.map((e) => swung(e, motion.points as Record<string, XY>, motion.radii, swing)));
      frame = requestAnimationFrame(tickOn);
    };
    frame = requestAnimationFrame(tickOn);
    return () => cancelAnimationFrame(frame);
  }, [motions, playing, entities]);
  return playing === null ? null : shown;
}

function swung(e: Entity, points: Record<string, XY>, radii: Record<string, number>, k: number): Entity {
  const move = (ref: string, at: XY): XY => {
    const v = points[ref];
    return v ? [at[0] + v[0] * k, at[1] + v[1] * k] : at;
  };
  if (e.kind === "point") return { ...e, at: move(e.id, e.at as XY) };
  if (e.kind === "spline") return { ...e, points: pointRefs(e).map(([ref, at]) => move(ref, at)) };
  if (e.kind !== "circle" && e.kind !== "arc") {
    const places = pointRefs(e).map(([ref, at]) => [ref.split(".")[1], move(ref, at)]);
    return { ...e, ...Object.fromEntries(places) };
  }
  const r = Math.max(e.r + (radii[e.id] ?? 0) * k, e.r * 0.05);
  const c = move(`${e.id}.c`, e.c as XY);
  if (e.kind === "circle") return { ...e, c, r };
  return { ...e, c, r, p: move(`${e.id}.p`, e.p as XY), q: move(`${e.id}.q`, e.q as XY) };
}
