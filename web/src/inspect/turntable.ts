/** A part on a canvas of its own, turned by a drag and zoomed by the wheel, that keeps fitting until it is turned. */
import {
  type PointerEvent,
  type RefObject,
  useCallback,
  useEffect,
  useRef,
  useState,
  type WheelEvent,
} from "react";
import { Vector3 } from "three";
import type { Body, XY, XYZ } from "../api/types";
import { fitted, orbit, startView, type ViewState, zoom } from "../view/camera";
import { BoardScene } from "../view/scene";

const ROOM = 52; // px round the part

export interface Turntable {
  canvas: RefObject<HTMLCanvasElement | null>;
  scene: RefObject<BoardScene | null>;
  view: ViewState | null;
  /** While the part is being turned. */
  turning: RefObject<XY | null>;
  /** How the part stood at first. */
  home: () => void;
  hand: {
    onPointerDown: (e: PointerEvent) => void;
    onPointerMove: (e: PointerEvent) => void;
    onPointerUp: (e: PointerEvent) => void;
    onWheel: (e: WheelEvent) => void;
  };
}

/** ``reach``: places that are to be seen besides. */
export function useTurntable(id: string, bodies: Body[] | undefined, reach?: XYZ[]): Turntable {
  const canvas = useRef<HTMLCanvasElement>(null);
  const scene = useRef<BoardScene | null>(null);
  const [view, setView] = useState<ViewState | null>(null);
  const turning = useRef<XY | null>(null);
  const turned = useRef(false); // by hand, and to stay so
  const wide = useRef(reach);

  const fit = useCallback(() => {
    const frame = canvas.current?.parentElement;
    if (!frame || !scene.current) return;
    const [width, height] = [frame.clientWidth, frame.clientHeight];
    scene.current.resize(width, height);
    const corners = [...scene.current.corners(), ...(wide.current ?? []).map((p) => new Vector3(...p))];
    setView((was) =>
      was && turned.current
        ? { ...was, width, height }
        : fitted({ ...startView(), width, height }, corners, 0, ROOM),
    );
  }, []);
  useEffect(() => {
    const made = new BoardScene(
      canvas.current!,
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
    scene.current?.show(bodies ?? [], false).then(fit);
    const watch = new ResizeObserver(fit);
    watch.observe(canvas.current!.parentElement!);
    return () => watch.disconnect();
  }, [bodies, fit]);
  useEffect(() => {
    wide.current = reach;
    fit();
  }, [reach, fit]);
  useEffect(() => {
    if (view) scene.current?.look(view);
  }, [view]);

  return {
    canvas,
    scene,
    view,
    turning,
    home: () => {
      turned.current = false;
      fit();
    },
    hand: {
      onPointerDown: (e) => {
        turning.current = [e.clientX, e.clientY];
        e.currentTarget.setPointerCapture(e.pointerId);
      },
      onPointerMove: (e) => {
        if (!turning.current || !view) return;
        turned.current = true;
        setView(orbit(view, e.clientX - turning.current[0], e.clientY - turning.current[1]));
        turning.current = [e.clientX, e.clientY];
      },
      onPointerUp: () => {
        turning.current = null;
      },
      onWheel: (e) => {
        const box = e.currentTarget.getBoundingClientRect();
        turned.current = true;
        if (view)
          setView(zoom(view, Math.exp(-e.deltaY * 0.0015), [e.clientX - box.left, e.clientY - box.top]));
      },
    },
  };
}
