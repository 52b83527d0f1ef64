/** A part held against its sheet, size by size and line by line: what a first part off the machine would be held to. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import { get, type Refused } from "../api/client";
import type { Checked, Inspection, SheetLines } from "../api/types";
import { NotationText } from "../ui/NotationText";
import { CannotOpen, PageHead } from "../ui/PageHead";
import { Balloon } from "../ui/ui";
import { CheckTab, type Shown } from "./checks/CheckTab";
import { KeptReports } from "./KeptReports";
import { percent, viewSaid } from "./lineWords";
import { ChangedSeen } from "./mass/ChangedSeen";
import { MassTab } from "./mass/MassTab";
import { PartSeen } from "./PartSeen";
import { MeshTab } from "./reference/MeshTab";

type Row = Inspection["rows"][number];
type Tab = "sizes" | "lines" | "coverage" | "mass" | "meshes" | Checked["check"];

const TABS: [Tab, string][] = [
  ["sizes", "Sizes"],
  ["lines", "Lines of the sheet"],
  ["coverage", "Coverage"],
  ["mass", "Mass"],
  ["mould", "Mould"],
  ["walls", "Walls"],
  ["cutters", "Cutters"],
  ["solid", "Solid"],
  ["meshes", "Meshes"],
];

const TONE: Record<string, string> = {
  proven: "text-proof",
  out: "text-red",
  open: "text-pencil",
  used: "text-ochre",
  note: "text-pencil",
  reference: "text-ochre",
  changed: "text-red",
};

const CHECKS: readonly string[] = ["solid", "mould", "walls", "cutters"];
const isCheck = (tab: Tab): tab is Checked["check"] => CHECKS.includes(tab);

export function InspectionPage() {
  const { id } = useParams();
  const [query] = useSearchParams();
  const [tab, setTab] = useState<Tab>(TABS.find(([name]) => name === query.get("tab"))?.[0] ?? "sizes");
  const [lit, setLit] = useState<string | null>(null);
  const [shown, setShown] = useState<Shown | null>(null); // by a check
  const [spot, setSpot] = useState<number | null>(null); // of its findings
  const [changed, setChanged] = useState<Record<string, number> | null>(null); // sizes at other values, to be seen
  const asked = useQuery({
    queryKey: ["inspection", id],
    queryFn: () => get<Inspection>(`/api/parts/${id}/inspection`),
    refetchInterval: (query) => (query.state.data && !query.state.data.ready ? 1000 : false),
  });
  if (asked.isLoadingError) return <CannotOpen error={asked.error} />;
  if (!asked.data) return <p className="p-10 text-pencil">Opening the inspection …</p>;
  const found = asked.data;
  const judged = found.rows.filter((r) => r.verdict !== "note" && r.verdict !== "reference");
  const proven = judged.filter((r) => r.verdict === "proven").length;
  return (
    <div className="flex h-full flex-col overflow-hidden">
      <PageHead
        title={`Inspection of ${found.name}`}
        facts={`${found.part_number || "no number"} · rev ${found.revision} · version ${found.version}`}
      >
        <Link className="btn btn-main" to={`/parts/${id}`}>
          To the board
        </Link>
      </PageHead>
      <main className="grid min-h-0 grow grid-cols-[minmax(0,1fr)_440px]">
        <section className="flex min-h-0 flex-col" aria-label="Inspection">
          <div
            role="tablist"
            aria-label="What is inspected"
            className="flex shrink-0 gap-1 border-b border-hair px-4 pt-2"
          >
            {TABS.map(([name, words]) => (
              <button
                key={name}
                type="button"
                role="tab"
                aria-selected={tab === name}
                className={`border border-b-0 px-3 py-1.5 ${tab === name ? "border-ink bg-panel font-semibold" : "border-hair text-pencil"}`}
                onClick={() => {
                  setTab(name);
                  setSpot(null);
                }}
              >
                {words}
              </button>
            ))}
          </div>
          <div className="min-h-0 grow overflow-auto p-4" role="tabpanel">
            {tab === "sizes" && <Sizes found={found} lit={lit} onLit={setLit} />}
            {tab === "lines" && <Lines id={id!} found={found} />}
            {tab === "coverage" && <Coverage found={found} />}
            {tab === "mass" && (
              <MassTab id={id!} version={found.version} ready={found.ready} onSeen={setChanged} />
            )}
            {tab === "meshes" && (
              <MeshTab
                id={id!}
                ready={found.ready}
                onShown={setShown}
                onSpot={{ chosen: spot, choose: setSpot }}
              />
            )}
            {isCheck(tab) && (
              <CheckTab
                key={tab}
                id={id!}
                version={found.version}
                ready={found.ready}
                check={tab}
                onShown={setShown}
                onSpot={{ chosen: spot, choose: setSpot }}
              />
            )}
          </div>
        </section>
        <aside className="flex min-h-0 flex-col border-l border-hair bg-panel" aria-label="Summary">
          <div className="min-h-0 grow">
            {changed ? (
              <ChangedSeen id={id!} version={found.version} values={changed} massUnit={found.mass_unit} />
            ) : (
              <PartSeen
                id={id!}
                version={found.version}
                rows={found.rows}
                lit={lit}
                onLit={setLit}
                shown={shown}
                onSpot={setSpot}
              />
            )}
          </div>
          <dl className="grid grid-cols-[110px_1fr] gap-y-0.5 border-t border-hair p-4 font-mono text-[12.5px]">
            <dt className="text-pencil">proven</dt>
            <dd className={proven === judged.length ? "text-proof" : "text-red"}>
              {proven} of {judged.length}
            </dd>
            <dt className="text-pencil">covered</dt>
            <dd className={found.uncovered.length ? "text-ochre" : "text-proof"}>
              {found.sizes - found.uncovered.length} of {found.sizes} sizes
            </dd>
            <dt className="text-pencil">general</dt>
            <dd>{found.general_tolerance || "none"}</dd>
            <dt className="text-pencil">measured with</dt>
            <dd className="break-words">{found.kernel || "–"}</dd>
          </dl>
          {!found.ready && (
            <p role="status" className="px-4 pb-3 text-pencil">
              The part has changed; it is being built and measured anew …
            </p>
          )}
          <KeptReports id={id!} ready={found.ready} />
        </aside>
      </main>
    </div>
  );
}

const figure = (value: number | null, unit: string, inch: boolean) => {
  if (value === null) return "";
  if (unit === "°") return `${Number(value.toFixed(4))}°`;
  return String(Number((inch ? value / 25.4 : value).toFixed(inch ? 5 : 4)));
};

interface SizesProps {
  found: Inspection;
  lit: string | null;
  onLit: (callout: string | null) => void;
}

function Sizes({ found, lit, onLit }: SizesProps) {
  const inch = found.unit === "in";
  if (!found.rows.length)
    return (
      <p className="text-pencil">No callouts yet. Read the sheet on the board, and they are measured here.</p>
    );
  return (
    <table className="w-full border-collapse text-[13px]" aria-label="Sizes">
      <thead>
        <tr className="border-b border-ink text-left font-cond text-[12px] text-pencil">
          {["", "callout", "nominal", "limits", "measured", "", "verdict", "how it is measured"].map(
            (h, i) => (
              <th key={`${h}${i}`} className="py-1 pr-3 font-normal">
                {h}
              </th>
            ),
          )}
        </tr>
      </thead>
      <tbody>
        {found.rows.map((r) => (
          <tr
            key={r.callout}
            className={`border-b border-hair align-baseline ${lit === r.callout ? "bg-redwash" : ""}`}
            ref={lit === r.callout ? (el) => el?.scrollIntoView?.({ block: "nearest" }) : undefined}
          >
            <td className="py-1 pr-2">
              <button
                type="button"
                aria-label={`Show callout ${r.number} on the part`}
                aria-pressed={lit === r.callout}
                onClick={() => onLit(lit === r.callout ? null : r.callout)}
              >
                <Balloon number={r.number} tone={lit === r.callout ? "red" : "ink"} />
              </button>
            </td>
            <td className="pr-3 font-mono">
              <NotationText text={r.text} />
            </td>
            <td className="pr-3 font-mono">{figure(r.nominal, r.unit, inch)}</td>
            <td className="whitespace-nowrap pr-3 font-mono">
              {r.toleranced
                ? `${figure(r.lower, r.unit, inch) || "…"} – ${figure(r.upper, r.unit, inch) || "…"}`
                : ""}
              {r.general && <span className="text-pencil"> g</span>}
            </td>
            <td className="pr-3 font-mono">{figure(r.measured, r.unit, inch)}</td>
            <td className="pr-3">
              <Deviation row={r} />
            </td>
            <td className={`pr-3 font-cond ${TONE[r.verdict] ?? ""}`} title={r.said}>
              {r.verdict === "out" || r.verdict === "changed" ? r.said : r.verdict}
            </td>
            <td className="text-[12px] text-pencil">{r.how}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** Where the size lies between its limits, the nominal marked; nothing where it has none or was not measured. */
function Deviation({ row: r }: { row: Row }) {
  if (r.measured === null || r.nominal === null || r.lower === null || r.upper === null || r.upper <= r.lower)
    return null;
  const at = (v: number) => 6 + (60 * (v - r.lower!)) / (r.upper! - r.lower!);
  const mark = Math.min(70, Math.max(2, at(r.measured)));
  return (
    <svg width="72" height="12" role="img" aria-label={`${r.deviation} off`}>
      <path d="M6 6H66" className="stroke-hair" strokeWidth="5" />
      <path
        d={`M${Math.min(70, Math.max(2, at(r.nominal)))} 2V10`}
        className="stroke-pencil"
        strokeWidth="1"
      />
      <circle cx={mark} cy="6" r="3.2" className={r.verdict === "out" ? "fill-red" : "fill-proof"} />
    </svg>
  );
}

function Lines({ id, found }: { id: string; found: Inspection }) {
  if (!found.pages) return <p className="text-pencil">This part has no sheet.</p>;
  if (!found.vector)
    return <p className="text-pencil">The sheet is a picture; its lines cannot be told from its paper.</p>;
  return (
    <>
      {Array.from({ length: found.pages }, (_, page) => (
        <PageLines key={page} id={id} page={page} found={found} />
      ))}
    </>
  );
}

function PageLines({ id, page, found }: { id: string; page: number; found: Inspection }) {
  const { pages: of, version } = found;
  const asked = useQuery({
    queryKey: ["sheet lines", id, page, version],
    queryFn: () => get<SheetLines>(`/api/parts/${id}/sheet/${page}/lines`),
    retry: false,
  });
  const said = asked.data;
  const compared = said?.views.some((v) => !v.by_hand);
  return (
    <section className="mb-5" aria-label={`Page ${page + 1}`}>
      <h2 className="head mb-1">
        {of > 1 ? `Page ${page + 1}: ` : ""}
        {compared ? `${percent(said!.share)} of the sheet's lines explained` : ""}
        {said && !compared ? "no view that could be compared" : ""}
      </h2>
      {!said && (
        <p role="status" className="text-pencil">
          {asked.error ? (asked.error as Refused).sentence : "Comparing the lines …"}
        </p>
      )}
      {said && compared && (
        <table className="border-collapse text-[13px]" aria-label={`Views of page ${page + 1}`}>
          <thead>
            <tr className="border-b border-ink text-left font-cond text-[12px] text-pencil">
              {["view", "explained", "outlines, mm", "hidden, mm", "no edge explains", "edges not shown"].map(
                (h) => (
                  <th key={h} className="py-1 pr-5 font-normal">
                    {h}
                  </th>
                ),
              )}
            </tr>
          </thead>
          <tbody>
            {said.views
              .filter((v) => !v.by_hand)
              .map((v) => {
                const drawn = v.drawn.seen + v.drawn.hidden;
                const explained = v.explained.seen + v.explained.hidden;
                const missing = v.edges - v.shown;
                return (
                  <tr key={`${v.box}`} className="border-b border-hair">
                    <td className="py-1 pr-5">
                      {viewSaid(v, found.unit)}
                      {v.side && !v.projected ? ", out of projection" : ""}
                    </td>
                    <td className={`pr-5 font-mono ${explained > drawn - 0.01 ? "text-proof" : "text-red"}`}>
                      {percent(drawn ? explained / drawn : 1)}
                    </td>
                    <td className="pr-5 font-mono">{v.drawn.seen.toFixed(1)}</td>
                    <td className="pr-5 font-mono">{v.drawn.hidden.toFixed(1)}</td>
                    <td className="pr-5 font-mono">
                      {v.unexplained.length
                        ? `${v.unexplained.length} × ${(drawn - explained).toFixed(2)} mm`
                        : "–"}
                    </td>
                    <td className="font-mono">
                      {missing > 0.01 ? `${v.missing.length} × ${missing.toFixed(2)} mm` : "–"}
                    </td>
                  </tr>
                );
              })}
          </tbody>
        </table>
      )}
    </section>
  );
}

function Coverage({ found }: { found: Inspection }) {
  const idle = found.rows.filter((r) => r.verdict === "open");
  return (
    <div className="grid grid-cols-2 gap-8">
      <section aria-label="Sizes that no callout speaks of">
        <h2 className="head mb-1">Sizes that no callout speaks of</h2>
        {!found.uncovered.length && <p className="text-proof">Every size of the part is from a callout.</p>}
        <ul>
          {found.uncovered.map((u) => (
            <li key={`${u.step} ${u.what}`} className="flex gap-3 border-b border-hair py-0.5">
              <span className="grow">{u.what}</span>
              <span className="font-mono">{u.expr}</span>
            </li>
          ))}
        </ul>
      </section>
      <section aria-label="Callouts that nothing uses">
        <h2 className="head mb-1">Callouts that nothing uses</h2>
        {!idle.length && <p className="text-proof">Every callout is used.</p>}
        <ul>
          {idle.map((r) => (
            <li key={r.callout} className="flex items-baseline gap-3 border-b border-hair py-0.5">
              <Balloon number={r.number} />
              <span className="font-mono">
                <NotationText text={r.text} />
              </span>
            </li>
          ))}
        </ul>
      </section>
    </div>
  );
}
