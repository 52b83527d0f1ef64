/** A leaf that stands in the route's place beside the work: the part's data, its versions, its values. */
import type { ReactNode } from "react";
import { History } from "../route/History";
import { PartData } from "../route/PartData";
import { RoutePanel } from "../route/RoutePanel";
import { Values } from "../route/Values";
import { DrawingIn } from "../sketch/DrawingIn";
import { useBoard } from "../state/store";

const LEAVES = {
  data: ["Part data", PartData],
  versions: ["Versions", History],
  values: ["Values", Values],
  drawing: ["Bring in a drawing", DrawingIn],
} as const;

export const closeLeaf = () => useBoard.setState({ leaf: null });

/** The right column: the route, or the leaf that was asked for. */
export function RightColumn() {
  const leaf = useBoard((s) => s.leaf);
  if (!leaf) return <RoutePanel />;
  const [title, Content] = LEAVES[leaf];
  return (
    <SidePanel title={title}>
      <Content />
    </SidePanel>
  );
}

function SidePanel({ title, children }: { title: string; children: ReactNode }) {
  return (
    <aside aria-label={title} className="flex min-h-0 flex-col bg-panel">
      <div className="flex h-9 shrink-0 items-center px-3.5">
        <h2 className="head">{title}</h2>
        <span className="grow" />
        <button type="button" className="font-cond text-[12.5px] text-pencil underline" onClick={closeLeaf}>
          back to the route
        </button>
      </div>
      <div className="min-h-0 grow overflow-auto px-3.5 pb-4">{children}</div>
    </aside>
  );
}
