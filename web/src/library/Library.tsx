import { useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useEffect, useRef, useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { get, post, type Refused, upload } from "../api/client";
import type { Card, CardPage, Me, OwnMaterial } from "../api/types";
import { MaterialSelect } from "../ui/MaterialSelect";
import { grams } from "../ui/measures";
import { Labelled, Sheet } from "../ui/ui";

const PAGE = 48; // cards
const SOON = 800; // ms until a part being built is looked at again; longer each time
const LATER = 10_000;
const ENOUGH = 60; // looks, then no more: what is built shows when the page is next opened
const WORKSPACE = "sulvak-workspace"; // where the one used last is remembered

export function Library({ me }: { me: Me }) {
  const [asked, setAsked] = useSearchParams();
  const [making, setMaking] = useState(false);
  const [copying, setCopying] = useState<Card | null>(null);
  const [said, setSaid] = useState("");
  const wanted = Number(asked.get("workspace") ?? localStorage.getItem(WORKSPACE));
  const workspace = me.workspaces.find((w) => w.id === wanted) ?? me.workspaces[0];
  const search = asked.get("search") ?? "";
  const archived = asked.get("archived") === "true";
  const page = Math.max(1, Number(asked.get("page")) || 1);
  const [typed, setTyped] = useState(search);
  const queries = useQueryClient();
  const navigate = useNavigate();
  const file = useRef<HTMLInputElement>(null);

  /** Another look at the library, in the address, so that going back comes back here. */
  const look = (change: Record<string, string>, replace = true) =>
    setAsked(
      (now) => {
        const next = { ...Object.fromEntries(now), page: "", ...change };
        return Object.fromEntries(Object.entries(next).filter(([, v]) => v && v !== "false"));
      },
      { replace },
    );
  // biome-ignore lint/correctness/useExhaustiveDependencies: only what is typed sets it off
  useEffect(() => {
    if (typed === search) return;
    // a part may be on its way to being opened while this page still stands
    const later = setTimeout(() => window.location.pathname === "/" && look({ search: typed }), 200);
    return () => clearTimeout(later);
  }, [typed]);
  useEffect(() => setTyped(search), [search]);

  const found = useQuery({
    queryKey: ["cards", workspace?.id, search, archived, page],
    queryFn: () =>
      get<CardPage>(
        `/api/workspaces/${workspace!.id}/parts?search=${encodeURIComponent(search)}&archived=${archived}&page=${page}&size=${PAGE}`,
      ),
    enabled: Boolean(workspace),
    placeholderData: (before) => before,
    refetchInterval: (q) => {
      const looks = q.state.dataUpdateCount;
      const building = q.state.data?.parts.some((c) => c.building);
      return building && looks < ENOUGH ? Math.min(LATER, SOON * 1.15 ** looks) : false;
    },
  });
  const cards = found.data?.parts;
  const total = found.data?.total ?? 0;
  const pages = Math.max(1, Math.ceil(total / PAGE));
  const may = workspace?.role !== "viewer";

  async function bring(chosen: File) {
    try {
      const made = await upload<{ id: string }>("/api/parts/import", {
        workspace: String(workspace!.id),
        file: chosen,
      });
      navigate(`/parts/${made.id}`);
    } catch (error) {
      setSaid((error as Refused).sentence);
    }
  }

  async function put(card: Card, away: boolean) {
    try {
      await post(`/api/parts/${card.id}/archive`, { archived: away });
      queries.invalidateQueries({ queryKey: ["cards"] });
    } catch (error) {
      setSaid((error as Refused).sentence);
    }
  }

  return (
    <div className="flex h-full flex-col">
      <header className="flex h-12 shrink-0 items-center gap-4 border-b border-hair bg-panel px-4">
        <span className="text-[15px] font-semibold tracking-[0.18em]">SULVAK</span>
        <span className="h-6 border-l border-hair" />
        {me.workspaces.length > 1 ? (
          <h1>
            <select
              className="field max-w-[280px] font-semibold"
              aria-label="Workspace"
              value={workspace?.id}
              onChange={(e) => {
                localStorage.setItem(WORKSPACE, e.target.value);
                setTyped("");
                look({ workspace: e.target.value, search: "", archived: "" }, false);
              }}
            >
              {me.workspaces.map((w) => (
                <option key={w.id} value={w.id}>
                  {w.name}
                </option>
              ))}
            </select>
          </h1>
        ) : (
          <h1 className="text-[15px] font-semibold">{workspace?.name ?? "Library"}</h1>
        )}
        <span className="grow" />
        <span className="font-cond text-pencil">
          {me.name} · {workspace?.role}
        </span>
        <button
          type="button"
          className="btn"
          onClick={async () => {
            await post("/api/sign-out");
            queries.clear();
            window.location.assign("/");
          }}
        >
          Sign out
        </button>
      </header>
      <search aria-label="Parts" className="flex items-center gap-3 border-b border-hair px-6 py-3">
        <input
          className="field max-w-[320px]"
          type="search"
          aria-label="Search parts"
          placeholder="Name, number or material"
          value={typed}
          onChange={(e) => setTyped(e.target.value)}
        />
        <label className="flex items-center gap-2 text-pencil">
          <input
            type="checkbox"
            checked={archived}
            onChange={(e) => look({ archived: String(e.target.checked) })}
          />
          Archive
        </label>
        <span className="grow" />
        {may && (
          <>
            <input
              ref={file}
              type="file"
              accept=".json,application/json"
              className="hidden"
              aria-label="Part file"
              onChange={(e) => e.target.files?.[0] && bring(e.target.files[0])}
            />
            <button type="button" className="btn" onClick={() => file.current?.click()}>
              Import part file
            </button>
            <button type="button" className="btn btn-main" onClick={() => setMaking(true)}>
              New part
            </button>
          </>
        )}
      </search>
      {said && (
        <p role="alert" className="border-b border-hair bg-redwash px-6 py-2 text-red">
          {said}
        </p>
      )}
      <main className="grow overflow-auto p-6">
        {!workspace && (
          <p className="max-w-[60ch] text-pencil">
            You are in no workspace yet. Somebody who runs this Sulvak can put you into one.
          </p>
        )}
        {found.isLoadingError && (
          <p role="alert" className="max-w-[60ch] text-red">
            {(found.error as unknown as Refused).sentence ??
              "The parts could not be listed; load this page again."}
          </p>
        )}
        {cards?.length === 0 && (
          <p className="max-w-[60ch] text-pencil">
            {total > 0
              ? "This page is empty now; go back a page."
              : search || archived
                ? "No part here answers to that."
                : "No parts yet. Make a new part, then put its sheet beside it and start with the base face."}
          </p>
        )}
        <ul className="grid grid-cols-[repeat(auto-fill,minmax(270px,1fr))] gap-5">
          {cards?.map((card) => (
            <PartCard
              key={card.id}
              card={card}
              may={may}
              onCopy={() => setCopying(card)}
              onArchive={() => put(card, !archived)}
            />
          ))}
        </ul>
        {(pages > 1 || page > 1) && (
          <nav aria-label="Pages" className="mt-6 flex items-center justify-center gap-4 font-cond">
            <button
              type="button"
              className="btn"
              disabled={page <= 1}
              onClick={() => look({ page: String(Math.min(page - 1, pages)) }, false)}
            >
              Earlier pages
            </button>
            <span className="tabular-nums text-pencil">
              {cards?.length
                ? `${(page - 1) * PAGE + 1}–${(page - 1) * PAGE + cards.length} of ${total} parts`
                : `${total} parts`}
            </span>
            <button
              type="button"
              className="btn"
              disabled={page >= pages}
              onClick={() => look({ page: String(page + 1) }, false)}
            >
              Later pages
            </button>
          </nav>
        )}
      </main>
      {workspace && <NewPart open={making} onOpenChange={setMaking} workspace={workspace.id} />}
      {copying && <CopyPart card={copying} onClose={() => setCopying(null)} />}
    </div>
  );
}

function PartCard({
  card,
  may,
  onCopy,
  onArchive,
}: {
  card: Card;
  may: boolean;
  onCopy: () => void;
  onArchive: () => void;
}) {
  return (
    <li className="relative border border-hair bg-panel hover:border-ink">
      <div>
        <div className="flex h-[168px] items-center justify-center border-b border-hair bg-vellum">
          {card.picture !== null ? (
            <img src={`/api/parts/${card.id}/picture?v=${card.picture}`} alt="" className="h-[160px]" />
          ) : (
            <Blank card={card} />
          )}
        </div>
        <div className="px-3 pt-2">
          <div className="flex items-baseline justify-between">
            <h2 className="text-[15px] font-semibold">
              {/* all of the card is a press on its name */}
              <Link
                to={`/parts/${card.id}`}
                className="after:absolute after:inset-0"
                aria-label={`Open ${card.name}`}
              >
                {card.name}
              </Link>
            </h2>
            <span className="font-mono text-[12.5px]">{grams(card.mass)}</span>
          </div>
          <p className="font-mono text-[12px] text-pencil">
            {card.number || "no number"} · rev {card.revision}
          </p>
        </div>
      </div>
      <div className="flex items-center gap-2 px-3 pb-2 pt-1 font-cond text-[12.5px]">
        <Marks card={card} />
        <span className="grow" />
        {may && (
          <>
            <button
              type="button"
              className="relative text-pencil hover:text-ink"
              onClick={onCopy}
              aria-label={`Copy ${card.name}`}
            >
              Copy
            </button>
            <button
              type="button"
              className="relative text-pencil hover:text-ink"
              onClick={onArchive}
              aria-label={`${card.archived ? "Bring back" : "Archive"} ${card.name}`}
            >
              {card.archived ? "Bring back" : "Archive"}
            </button>
          </>
        )}
      </div>
    </li>
  );
}

/** A card without a solid: its sheet, if it has one. */
function Blank({ card }: { card: Card }) {
  if (!card.steps && card.has_sheet)
    return (
      <span className="flex h-full flex-col items-center justify-center gap-1.5">
        <img src={`/api/parts/${card.id}/sheet/0`} alt="" className="h-[128px] border border-hair" />
        <span className="font-cond text-[12.5px] text-pencil">only a sheet so far, ready to be modelled</span>
      </span>
    );
  return (
    <span className="text-pencil">
      {card.building ? "Being built …" : card.steps ? "No solid yet" : "Nothing drawn yet"}
    </span>
  );
}

function Marks({ card }: { card: Card }) {
  const sketches =
    card.freedom === null
      ? ["no sketch", "text-pencil"]
      : card.freedom === 0
        ? ["inked in", "text-proof"]
        : [`${card.freedom} free`, "text-red"];
  const all = card.callouts > 0 && card.proven === card.callouts;
  const mass =
    card.within === null ? null : card.within ? ["on mass", "text-proof"] : ["off mass", "text-red"];
  return (
    <>
      <span className={`whitespace-nowrap ${sketches[1]}`}>{sketches[0]}</span>
      <span className={`whitespace-nowrap ${all ? "text-proof" : "text-pencil"}`}>
        {card.proven}/{card.callouts} proven
      </span>
      {mass && <span className={`whitespace-nowrap ${mass[1]}`}>{mass[0]}</span>}
      {card.failed > 0 && <span className="whitespace-nowrap text-red">{card.failed} failing</span>}
    </>
  );
}

function NewPart({
  open,
  onOpenChange,
  workspace,
}: {
  open: boolean;
  onOpenChange: (o: boolean) => void;
  workspace: number;
}) {
  const [fields, setFields] = useState({
    name: "",
    number: "",
    unit: "mm",
    material: "",
    own: null as OwnMaterial | null,
  });
  const [said, setSaid] = useState("");
  const navigate = useNavigate();
  const set = (change: Partial<typeof fields>) => setFields({ ...fields, ...change });
  async function make(event: FormEvent) {
    event.preventDefault();
    try {
      const made = await post<{ id: string }>("/api/parts", { workspace, ...fields });
      navigate(`/parts/${made.id}`);
    } catch (error) {
      setSaid((error as Refused).sentence);
    }
  }
  return (
    <Sheet title="New part" open={open} onOpenChange={onOpenChange}>
      <form onSubmit={make}>
        <Labelled label="Name">
          <input className="field" value={fields.name} onChange={(e) => set({ name: e.target.value })} />
        </Labelled>
        <Labelled label="Part number">
          <input
            className="field font-mono"
            value={fields.number}
            onChange={(e) => set({ number: e.target.value })}
          />
        </Labelled>
        <div className="grid grid-cols-[110px_1fr] gap-3">
          <Labelled label="Unit">
            <select className="field" value={fields.unit} onChange={(e) => set({ unit: e.target.value })}>
              <option value="mm">mm</option>
              <option value="in">inch</option>
            </select>
          </Labelled>
          <div>
            <span className="mb-1 block text-[12px] text-pencil">Material</span>
            <MaterialSelect
              label="Material"
              className="field"
              workspace={workspace}
              value={fields.own?.name ?? fields.material}
              own={fields.own ? [fields.own] : []}
              empty="not chosen yet"
              take={(name, own) => set({ material: own ? "" : name, own })}
            />
          </div>
        </div>
        {said && (
          <p role="alert" className="mb-3 text-red">
            {said}
          </p>
        )}
        <button type="submit" className="btn btn-main" disabled={!fields.name.trim()}>
          Make the part
        </button>
      </form>
    </Sheet>
  );
}

function CopyPart({ card, onClose }: { card: Card; onClose: () => void }) {
  const [name, setName] = useState(`${card.name} copy`);
  const [empty, setEmpty] = useState(card.steps === 0);
  const [said, setSaid] = useState("");
  const navigate = useNavigate();
  async function make(event: FormEvent) {
    event.preventDefault();
    try {
      const made = await post<{ id: string }>(`/api/parts/${card.id}/copy`, { name, empty });
      navigate(`/parts/${made.id}`);
    } catch (error) {
      setSaid((error as Refused).sentence);
    }
  }
  return (
    <Sheet title={`Copy ${card.name}`} open onOpenChange={(o) => !o && onClose()}>
      <form onSubmit={make}>
        <Labelled label="Name of the copy">
          <input className="field" value={name} onChange={(e) => setName(e.target.value)} />
        </Labelled>
        <label className="mb-3 flex items-center gap-2">
          <input type="checkbox" checked={empty} onChange={(e) => setEmpty(e.target.checked)} />
          Sheet and callouts only, to be modelled from nothing
        </label>
        {said && (
          <p role="alert" className="mb-3 text-red">
            {said}
          </p>
        )}
        <button type="submit" className="btn btn-main" disabled={!name.trim()}>
          Copy
        </button>
      </form>
    </Sheet>
  );
}
