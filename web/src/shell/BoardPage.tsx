import { useEffect, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { SheetPanel } from "../sheet/SheetPanel";
import { goBy } from "../state/goTo";
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
  const navigate = useNavigate();
  useEffect(() => goBy(navigate), [navigate]);
  const part = useBoard((s) => s.part);
  const shown = useBoard((s) => s.shownVersion === s.part?.version);
  const trouble = useBoard((s) => s.trouble);
  const [wide, setLeft] = useKeptWidth("sheet");
  const bare = !part?.document.sheet && !part?.document.callouts?.length;
  const left = wide ?? (bare ? 190 : 300); // without a sheet the board takes the room
  const [kept, setRight] = useKeptWidth("route");
  const room = useBoard((s) => (s.part?.document.sheet ? s.sheetSize : "side"));
  const right = kept ?? (room === "half" ? 280 : 340);
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
    <div
      className="flex h-full flex-col overflow-hidden"
      data-part={part.id}
      data-version={part.version}
      data-shown={shown}
    >
      <Header />
      <main
        className="grid min-h-0 grow"
        style={{
          gridTemplateColumns: `${folded ? "34px" : room === "half" ? `minmax(${left}px, 50vw)` : `${left}px`} 1px minmax(${room === "half" ? 260 : 380}px, 1fr) 1px ${right}px`,
          gridTemplateRows: "minmax(0, 1fr)",
        }}
      >
        <SheetPanel folded={folded} onFold={() => setFolded(!folded)} />
        <Border
          onMove={(dx) => !folded && setLeft(Math.min(620, Math.max(190, left + dx)))}
          label="sheet"
          width={left}
          column={2}
        />
        <section
          aria-label="Board"
          className="flex min-h-0 min-w-0 flex-col"
          style={{ gridColumn: 3, gridRow: 1 }}
          inert={room === "whole" && !folded}
        >
          <div className="relative min-h-0 grow">
            <Viewport />
            <ActionBar />
          </div>
          <ReadingLine />
        </section>
        <Border
          onMove={(dx) => setRight(Math.min(520, Math.max(280, right - dx)))}
          label="route"
          width={right}
          column={4}
        />
        <div
          className="grid min-h-0 min-w-0"
          style={{ gridColumn: 5, gridRow: 1, gridTemplateRows: "minmax(0, 1fr)" }}
        >
          <RightColumn />
        </div>
      </main>
      <ActionSearch />
      <KeyHelp />
    </div>
  );
}

/** A column's width in px, kept in this browser; null while it was never changed. */
function useKeptWidth(name: string): [number | null, (width: number) => void] {
  const key = `width of the ${name}`;
  const [width, setWidth] = useState(() => Number(localStorage.getItem(key)) || null);
  return [
    width,
    (to) => {
      localStorage.setItem(key, String(Math.round(to)));
      setWidth(to);
    },
  ];
}

function Border({
  onMove,
  label,
  width,
  column,
}: {
  onMove: (dx: number) => unknown;
  label: string;
  width: number;
  column: number;
}) {
  return (
    <div
      role="separator"
      aria-orientation="vertical"
      aria-valuenow={width}
      aria-label={`Width of the ${label}`}
      tabIndex={0}
      className="relative bg-hair"
      style={{ gridColumn: column, gridRow: 1 }}
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
