import { useEffect, useState } from "react";
import { Link, useParams } from "react-router";
import { SheetPanel } from "../sheet/SheetPanel";
import { useBoard } from "../state/store";
import { ActionBar } from "./ActionBar";
import { ActionSearch } from "./ActionSearch";
import { Header } from "./Header";
import { KeyHelp } from "./KeyHelp";
import { useKeys } from "./keys";
import { ReadingLine } from "./ReadingLine";
import { RightColumn } from "./SidePanel";
import { closePart, openPart } from "./session";
import { Viewport } from "./Viewport";

export function BoardPage() {
  const { id } = useParams();
  const part = useBoard((s) => s.part);
  const trouble = useBoard((s) => s.trouble);
  const [wide, setLeft] = useState<number | null>(null);
  const bare = !part?.document.sheet && !part?.document.callouts?.length;
  const left = wide ?? (bare ? 190 : 300); // without a sheet the board takes the room
  const [right, setRight] = useState(340);
  const [folded, setFolded] = useState(false);
  useEffect(() => {
    if (id) openPart(id);
    return closePart;
  }, [id]);
  useKeys();
  if (trouble)
    return (
      <p className="p-10">
        {trouble}{" "}
        <Link className="underline" to="/">
          Back to the library
        </Link>
      </p>
    );
  if (!part) return <p className="p-10 text-pencil">Opening the part …</p>;
  return (
    <div className="flex h-full flex-col overflow-hidden" data-part={part.id}>
      <Header />
      <main
        className="grid min-h-0 grow"
        style={{ gridTemplateColumns: `${folded ? 34 : left}px 1px minmax(380px, 1fr) 1px ${right}px` }}
      >
        <SheetPanel folded={folded} onFold={() => setFolded(!folded)} />
        <Border
          onMove={(dx) => !folded && setLeft(Math.min(620, Math.max(190, left + dx)))}
          label="sheet"
          width={left}
        />
        <section aria-label="Board" className="flex min-h-0 min-w-0 flex-col">
          <div className="relative min-h-0 grow">
            <Viewport />
            <ActionBar />
          </div>
          <ReadingLine />
        </section>
        <Border
          onMove={(dx) => setRight((w) => Math.min(520, Math.max(280, w - dx)))}
          label="route"
          width={right}
        />
        <RightColumn />
      </main>
      <ActionSearch />
      <KeyHelp />
    </div>
  );
}

function Border({ onMove, label, width }: { onMove: (dx: number) => unknown; label: string; width: number }) {
  return (
    <div
      role="separator"
      aria-orientation="vertical"
      aria-valuenow={width}
      aria-label={`Width of the ${label}`}
      tabIndex={0}
      className="relative bg-hair"
      onKeyDown={(e) => {
        if (e.key === "ArrowLeft") onMove(-20);
        if (e.key === "ArrowRight") onMove(20);
      }}
    >
      <div
        className="absolute -left-1 z-10 h-full w-[9px] cursor-col-resize"
        onPointerDown={(e) => {
          e.currentTarget.setPointerCapture(e.pointerId);
        }}
        onPointerMove={(e) => {
          if (e.buttons) onMove(e.movementX);
        }}
      />
    </div>
  );
}
