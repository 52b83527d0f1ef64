/** What is drawn over the solids, in every view of the board: one, or four with hairlines between. */
import { createContext, Fragment, type ReactNode, useContext } from "react";
import { useBoard } from "../state/store";
import { orientation, type ViewName, type ViewState } from "../view/camera";
import { handle, look } from "./viewControl";

const NAMES: Record<ViewName, string> = {
  front: "Front",
  back: "Back",
  left: "Left",
  right: "Right",
  top: "Top",
  under: "Under",
  iso: "Isometric",
};

const Viewed = createContext<ViewState | null>(null);

/** The view in which what asks is drawn. */
export function useView(): ViewState {
  const one = useBoard((s) => s.view);
  return useContext(Viewed) ?? one;
}

export function EachView({ children }: { children: ReactNode }) {
  const panes = useBoard((s) => s.panes);
  if (!panes) return <>{children}</>;
  const [first, , , last] = panes;
  const [width, height] = [last.left + last.width, first.view.height];
  return (
    <>
      {panes.map((p, i) => (
        <Fragment key={i}>
          <clipPath id={`pane-${i}`}>
            <rect x={p.left} y={p.top} width={p.width} height={p.height} />
          </clipPath>
          <g clipPath={`url(#pane-${i})`}>
            <Viewed value={p.view}>{children}</Viewed>
          </g>
        </Fragment>
      ))}
      <path
        d={`M${last.left - 0.5} 0V${height}M0 ${last.top - 0.5}H${width}`}
        className="pointer-events-none stroke-hair"
        fill="none"
      />
    </>
  );
}

/** The name of each of four views, to be pressed for another. */
export function PaneNames() {
  const panes = useBoard((s) => s.panes);
  const inHand = useBoard((s) => s.pane);
  return (panes ?? []).map((p, i) => {
    const name = orientation(p.view.turn);
    return (
      <select
        key={i}
        aria-label={`View ${i + 1} of 4`}
        className={`absolute bg-vellum/80 font-cond text-[13px] ${i === inHand ? "font-semibold text-ink" : "text-pencil"}`}
        style={{ left: p.left + 10, top: p.top + p.height - 26 }}
        value={name ?? ""}
        onPointerDown={(e) => e.stopPropagation()}
        onChange={(e) => {
          handle([p.left + 1, p.top + 1]);
          look(e.target.value as ViewName);
        }}
      >
        {!name && <option value="">Turned</option>}
        {Object.entries(NAMES).map(([view, words]) => (
          <option key={view} value={view}>
            {words}
          </option>
        ))}
      </select>
    );
  });
}
