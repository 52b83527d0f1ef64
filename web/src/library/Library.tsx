import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { get, post, type Refused, upload } from "../api/client";
import type { Card, CardPage, Me } from "../api/types";
import { CopyPart, NewPart } from "./NewPart";
import { PartCard } from "./PartCard";

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
        {workspace && found.isPending && (
          <p role="status" className="text-pencil">
            Fetching the parts …
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
