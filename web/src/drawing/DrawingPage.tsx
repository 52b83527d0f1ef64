/** The drawing that is made from the part: what stands on it, put in order by hand where it should be otherwise. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Link, useParams } from "react-router";
import { askAgain, download, get, post, type Refused } from "../api/client";
import type { Command, DrawnSheet, DrawnSize, DrawnView, Part } from "../api/types";
import { CannotOpen, PageHead } from "../ui/PageHead";
import { UndoRedo } from "../ui/UndoRedo";
import { DrawingChoices } from "./DrawingChoices";
import { type SizePlace, sizeMoved, viewMoved, type XY } from "./moved";
import { OnDrawing } from "./OnDrawing";
import { Paper } from "./Paper";

const FORMS = ["pdf", "svg", "dxf"] as const;

export function DrawingPage() {
  const { id } = useParams();
  const client = useQueryClient();
  const [chosen, setChosen] = useState<string | null>(null);
  const [said, setSaid] = useState("");
  const [busy, setBusy] = useState(0);
  const partAsked = useQuery({ queryKey: ["drawn part", id], queryFn: () => get<Part>(`/api/parts/${id}`) });
  const part = partAsked.data;
  const asked = useQuery({
    queryKey: ["drawing", id, part?.version],
    queryFn: ({ signal }) => get<DrawnSheet>(`/api/parts/${id}/drawing`, signal),
    enabled: part !== undefined,
    placeholderData: (before) => before,
    retry: askAgain,
  });
  const turn = useRef<Promise<unknown>>(Promise.resolve());

  /** Has the part changed, one change after the other. */
  function change(path: string, more: Record<string, unknown> = {}) {
    setBusy((n) => n + 1);
    turn.current = turn.current.then(async () => {
      setSaid("");
      const now = client.getQueryData<Part>(["drawn part", id]);
      try {
        const after = await post<Part>(`/api/parts/${id}/${path}`, { version: now!.version, ...more });
        client.setQueryData(["drawn part", id], after);
      } catch (error) {
        setSaid((error as Refused).sentence);
        await partAsked.refetch();
      }
      setBusy((n) => n - 1);
    });
  }
  const run = (command: Command) => change("commands", { command });

  useEffect(() => {
    const pressed = (e: KeyboardEvent) => {
      const typing = (e.target as HTMLElement).closest?.("input, textarea, select");
      if (typing) return;
      if (e.key === "Escape") setChosen(null);
      if ((e.key === "Delete" || e.key === "Backspace") && chosen) takeOff(chosen);
      if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === "z" && part?.can_undo) {
        e.preventDefault();
        change("undo");
      }
      if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === "y" && part?.can_redo) {
        e.preventDefault();
        change("redo");
      }
    };
    window.addEventListener("keydown", pressed);
    return () => window.removeEventListener("keydown", pressed);
  });

  if (partAsked.isLoadingError) return <CannotOpen error={partAsked.error} />;
  if (!part) return <p className="p-10 text-pencil">Opening the drawing …</p>;
  const may = part.role !== "viewer";
  const settings = part.document.drawing!;
  const sheet = asked.data;
  const failed = asked.error as Refused | null;
  const old = busy > 0 || asked.isFetching;

  const place = (sizes: Record<string, SizePlace | null>) => run({ do: "place_sizes", sizes });
  const placeOf = (key: string): SizePlace =>
    (settings.sizes?.[key] as SizePlace) ?? { view: "", hidden: false, at: null, side: 1 };
  function takeOff(key: string) {
    if (!may || !sheet?.sizes.some((s) => s.key === key)) return;
    setChosen(null);
    if (key.startsWith("a")) run({ do: "remove_size", size: key });
    else place({ [key]: { ...placeOf(key), hidden: true } });
  }
  const moveSize = (size: DrawnSize, by: XY) =>
    place({ [size.key]: sizeMoved(size, by, placeOf(size.key).view) });
  const moveView = (view: DrawnView, by: XY) =>
    run({ do: "place_views", places: { [view.name]: viewMoved(view, by) } });

  async function fetchFile(form: string) {
    try {
      await download(`/api/parts/${id}/drawing/file/${form}`);
    } catch (error) {
      setSaid((error as Refused).sentence);
    }
  }
  return (
    <div className="flex h-full flex-col overflow-hidden">
      <PageHead
        title={`Drawing of ${part.document.name}`}
        facts={`${part.document.number || "no number"} · rev ${part.document.revision}${sheet ? ` · ${sheet.paper} · ${sheet.scale}` : ""}`}
      >
        <span role="status" className="font-cond text-[12.5px] text-pencil">
          {old ? "drawing …" : ""}
        </span>
        <UndoRedo
          can={{ undo: may && part.can_undo, redo: may && part.can_redo }}
          onTravel={(way) => change(way)}
        />
        {FORMS.map((form) => (
          <button
            key={form}
            type="button"
            className="btn"
            disabled={!sheet || !!failed}
            onClick={() => fetchFile(form)}
          >
            {form.toUpperCase()}
          </button>
        ))}
        <Link className="btn btn-main" to={`/parts/${id}`}>
          To the board
        </Link>
      </PageHead>
      {(said || failed) && (
        <p role="alert" className="shrink-0 border-b border-hair bg-redwash px-4 py-1.5">
          {said || failed?.sentence}
        </p>
      )}
      <main className="grid min-h-0 grow grid-cols-[290px_minmax(0,1fr)]">
        <aside
          className="flex min-h-0 flex-col overflow-auto border-r border-hair bg-panel"
          aria-label="How it is drawn"
        >
          <DrawingChoices
            settings={settings}
            unit={part.document.unit ?? "mm"}
            sheet={sheet}
            may={may}
            onChange={(changes) => run({ do: "set_drawing", changes })}
          />
          {sheet && (
            <OnDrawing
              sheet={sheet}
              settings={settings}
              may={may}
              chosen={chosen}
              onChoose={setChosen}
              onPlace={place}
              onTakeOff={takeOff}
              onRemove={(key) => run({ do: "remove_size", size: key })}
              onFreeView={(name) => run({ do: "place_views", places: { [name]: null } })}
              placeOf={placeOf}
            />
          )}
        </aside>
        <section className="min-h-0" aria-label="Drawing">
          {sheet ? (
            <Paper
              sheet={sheet}
              old={old || !!failed}
              may={may}
              chosen={chosen}
              onChoose={setChosen}
              onMoveSize={moveSize}
              onMoveView={moveView}
            />
          ) : (
            !failed && <p className="p-10 text-pencil">Making the drawing …</p>
          )}
        </section>
      </main>
    </div>
  );
}
