/** What must hold before the part is released, the release itself, and the revisions that never change again. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { askAgain, get, post, type Refused } from "../api/client";
import type { Condition, Release, Revision } from "../api/types";
import { CannotOpen, PageHead } from "../ui/PageHead";
import { Waiting } from "../ui/Waiting";
import { Revisions } from "./Revisions";

type Looked = { version: number; conditions: Condition[] };
const PENDING = ["waiting", "unreachable", "looking"];

export function ReleasePage() {
  const { id } = useParams();
  const client = useQueryClient();
  const [reasons, setReasons] = useState<Record<string, string>>({});
  const [said, setSaid] = useState("");
  const [busy, setBusy] = useState(false);
  const asked = useQuery({
    queryKey: ["release", id],
    queryFn: () => get<Release>(`/api/parts/${id}/release`),
    refetchInterval: (query) =>
      query.state.data?.revisions.some((r) => r.shop && PENDING.includes(r.shop.state)) ? 1500 : 10_000,
  });
  const version = asked.data?.version;
  const looked = useQuery({
    queryKey: ["release conditions", id, version],
    queryFn: ({ signal }) => get<Looked>(`/api/parts/${id}/release/conditions`, signal),
    enabled: version !== undefined,
    retry: askAgain,
  });
  if (asked.isLoadingError) return <CannotOpen error={asked.error} />;
  if (!asked.data) return <p className="p-10 text-pencil">Opening the release …</p>;
  const told = asked.data;
  const may = told.role !== "viewer";
  const lines = looked.data?.version === version ? looked.data?.conditions : undefined;
  const open = (lines ?? []).filter((c) => !c.holds);
  const unsaid = open.filter((c) => !reasons[c.key]?.trim());

  async function release() {
    setBusy(true);
    setSaid("");
    const given = Object.fromEntries(open.map((c) => [c.key, reasons[c.key]]));
    try {
      const made = await post<Revision>(`/api/parts/${id}/release`, { version, reasons: given });
      setReasons({});
      setSaid(`Revision ${made.letter} is released. The part goes on as the next one.`);
    } catch (error) {
      setSaid((error as Refused).sentence);
    }
    await client.invalidateQueries({ queryKey: ["release", id] });
    setBusy(false);
  }
  return (
    <div className="flex h-full flex-col overflow-hidden">
      <PageHead
        title={`Release of ${told.name}`}
        facts={`${told.number || "no number"} · next revision ${told.letter} · version ${told.version}`}
      >
        <Link className="btn" to={`/parts/${id}/drawing`}>
          Drawing
        </Link>
        <Link className="btn btn-main" to={`/parts/${id}`}>
          To the board
        </Link>
      </PageHead>
      <main className="grid min-h-0 grow grid-cols-[minmax(0,1fr)_460px]">
        <section className="min-h-0 overflow-auto p-5" aria-label="What must hold">
          <h2 className="head">What must hold for revision {told.letter}</h2>
          {looked.isError ? (
            <p role="alert" className="mt-3 text-red">
              {(looked.error as unknown as Refused).sentence}
            </p>
          ) : !lines ? (
            <p className="mt-3 text-pencil">
              <Waiting words="Looking the part over" />
            </p>
          ) : (
            <>
              <ul className="mt-2" aria-label="Conditions">
                {lines.map((c) => (
                  <Line
                    key={c.key}
                    id={id!}
                    line={c}
                    may={may}
                    reason={reasons[c.key] ?? ""}
                    onReason={(words) => setReasons({ ...reasons, [c.key]: words })}
                  />
                ))}
              </ul>
              <div className="mt-4 flex items-center gap-4">
                <button
                  type="button"
                  className="btn btn-main"
                  disabled={!may || busy || unsaid.length > 0}
                  onClick={release}
                >
                  Release revision {told.letter}
                </button>
                <p className="text-[13px] text-pencil">
                  {!may
                    ? "You are here as viewer; an editor or owner releases."
                    : unsaid.length
                      ? `${unsaid.length === 1 ? "One line does" : `${unsaid.length} lines do`} not hold: mend it, or say why it is released all the same.`
                      : open.length
                        ? "The reasons go into the pack."
                        : "Everything holds."}
                </p>
              </div>
            </>
          )}
          <p role="status" className="mt-3">
            {busy ? <Waiting words="Writing the pack: solid, drawing, reports" /> : said}
          </p>
        </section>
        <Revisions id={id!} revisions={told.revisions} may={may} unit={told.unit} onSaid={setSaid} />
      </main>
    </div>
  );
}

const TABS: Record<string, string> = {
  board: "to the board",
  data: "to the part's data",
  inspection: "to the inspection",
  drawing: "to the drawing",
};

interface LineProps {
  id: string;
  line: Condition;
  may: boolean;
  reason: string;
  onReason: (words: string) => void;
}

function Line({ id, line, may, reason, onReason }: LineProps) {
  const there = { inspection: "/inspection", drawing: "/drawing" }[line.page as string] ?? "";
  const query = line.page === "inspection" && line.at ? `?tab=${line.at}` : "";
  return (
    <li className="border-b border-hair py-2" data-line={line.key}>
      <div className="flex items-baseline gap-3">
        <span className={`w-14 shrink-0 font-cond text-[12.5px] ${line.holds ? "text-proof" : "text-red"}`}>
          {line.holds ? "✓ holds" : "○ open"}
        </span>
        <span className="w-[270px] shrink-0">{line.what}</span>
        <span className={`min-w-0 grow text-[13px] ${line.holds ? "text-pencil" : "text-red"}`}>
          {line.said}
        </span>
        <Link className="shrink-0 text-[12.5px] underline" to={`/parts/${id}${there}${query}`}>
          {TABS[line.page]}
        </Link>
      </div>
      {!line.holds && may && (
        <label className="mt-1 flex items-baseline gap-2 pl-[68px] text-[13px]">
          <span className="shrink-0 text-pencil">released all the same, because</span>
          <input
            className="field"
            value={reason}
            maxLength={1000}
            aria-label={`Reason to release although: ${line.what}`}
            onChange={(e) => onReason(e.target.value)}
          />
        </label>
      )}
    </li>
  );
}
