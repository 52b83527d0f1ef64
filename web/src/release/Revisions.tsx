/** Released revisions: their packs, how each line stood, what the shop says, and what changed from one to another. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { download, get, post, type Refused } from "../api/client";
import type { Revision, RevisionCompared } from "../api/types";
import { RevisionShapes } from "./RevisionShapes";

interface RevisionsProps {
  id: string;
  revisions: Revision[];
  may: boolean;
  unit: string;
  onSaid: (words: string) => void;
}

const day = (at: string) =>
  new Date(at).toLocaleString("en-GB", { dateStyle: "medium", timeStyle: "short", timeZone: "UTC" });

export function Revisions({ id, revisions, may, unit, onSaid }: RevisionsProps) {
  const [unfolded, setUnfolded] = useState<string | null>(null);
  const [against, setAgainst] = useState<[string, string] | null>(null);
  async function fetchFile(path: string) {
    try {
      await download(`/api/parts/${id}/revisions/${path}`);
    } catch (error) {
      onSaid((error as Refused).sentence);
    }
  }
  return (
    <aside className="min-h-0 overflow-auto border-l border-hair bg-panel p-5" aria-label="Revisions">
      <h2 className="head">Revisions</h2>
      {!revisions.length && (
        <p className="mt-2 text-pencil">
          None is released yet. A released revision never changes: its part, its files and what was checked
          are kept as they are.
        </p>
      )}
      <ol className="mt-1" aria-label="Released revisions">
        {revisions.map((r, i) => {
          const before = revisions[i + 1];
          const open = r.conditions.filter((c) => !c.holds);
          return (
            <li key={r.letter} className="border-b border-hair py-2">
              <div className="flex items-baseline gap-3">
                <span className="w-6 text-[17px] font-semibold">{r.letter}</span>
                <span className="grow text-[13px]">
                  {day(r.at)} by {r.by}
                  <span className="block font-mono text-[12px] text-pencil">
                    version {r.version}
                    {r.mass != null && ` · ${r.mass.toFixed(3)} g`} · {r.sha256.slice(0, 12)}
                  </span>
                </span>
                <button type="button" className="btn" onClick={() => fetchFile(`${r.letter}/pack`)}>
                  Pack
                </button>
              </div>
              <Shop id={id} revision={r} may={may} onSaid={onSaid} />
              <div className="mt-1 flex gap-4 pl-9 text-[12.5px]">
                <button
                  type="button"
                  className="underline"
                  aria-expanded={unfolded === r.letter}
                  onClick={() => setUnfolded(unfolded === r.letter ? null : r.letter)}
                >
                  {r.files.length} files{open.length ? `, ${open.length} open` : ""}
                </button>
                {before && (
                  <button
                    type="button"
                    className="underline"
                    aria-expanded={against?.[1] === r.letter}
                    onClick={() => setAgainst(against?.[1] === r.letter ? null : [before.letter, r.letter])}
                  >
                    what changed from {before.letter}
                  </button>
                )}
              </div>
              {unfolded === r.letter && (
                <div className="mt-1 pl-9 text-[12.5px]">
                  {open.map((c) => (
                    <p key={c.key} className="text-red">
                      {c.what}: {c.said}. Released all the same: {c.reason}
                    </p>
                  ))}
                  <ul aria-label={`Files of revision ${r.letter}`}>
                    {r.files.map((f) => (
                      <li key={f.path} className="flex items-baseline gap-2">
                        <button
                          type="button"
                          className="font-mono underline"
                          onClick={() => fetchFile(`${r.letter}/files/${f.path}`)}
                        >
                          {f.path}
                        </button>
                        <span className="grow truncate text-pencil">{f.what}</span>
                        <span className="font-mono text-pencil">{Math.ceil(f.bytes / 1000)} kB</span>
                      </li>
                    ))}
                  </ul>
                </div>
              )}
              {against?.[1] === r.letter && (
                <div className="pl-9 text-[12.5px]">
                  <RevisionShapes id={id} pair={against} unit={unit} />
                  <Changed id={id} pair={against} />
                </div>
              )}
            </li>
          );
        })}
      </ol>
    </aside>
  );
}

const TONE: Record<string, string> = {
  accepted: "text-proof",
  rejected: "text-red",
  unreachable: "text-ochre",
};
const WORDS: Record<string, string> = {
  waiting: "on its way to the shop …",
  unreachable: "the shop cannot be reached; it is tried again by itself",
  looking: "the shop is looking at it …",
  accepted: "accepted by the shop",
  rejected: "rejected by the shop",
};

interface ShopProps {
  id: string;
  revision: Revision;
  may: boolean;
  onSaid: (words: string) => void;
}

function Shop({ id, revision, may, onSaid }: ShopProps) {
  const client = useQueryClient();
  const { shop, letter } = revision;
  if (!shop)
    return may ? (
      <button
        type="button"
        className="mt-1 pl-9 text-[12.5px] underline"
        title="A stand-in: it takes the pack, looks at it, and makes nothing"
        onClick={async () => {
          try {
            await post(`/api/parts/${id}/revisions/${letter}/shop`);
          } catch (error) {
            onSaid((error as Refused).sentence);
          }
          client.invalidateQueries({ queryKey: ["release", id] });
        }}
      >
        send to the shop (simulated)
      </button>
    ) : null;
  return (
    <div className="mt-1 pl-9 text-[12.5px]" role="status" aria-label={`Shop on revision ${letter}`}>
      <p className={TONE[shop.state] ?? "text-pencil"}>
        {WORDS[shop.state]} <span className="text-pencil">(simulated)</span>
        {shop.state === "unreachable" && `, ${shop.tries} ${shop.tries === 1 ? "try" : "tries"} so far`}
      </p>
      {shop.said.map((words) => (
        <p key={words} className="text-pencil">
          {words}
        </p>
      ))}
    </div>
  );
}

function Changed({ id, pair }: { id: string; pair: [string, string] }) {
  const asked = useQuery({
    queryKey: ["revisions compared", id, ...pair],
    queryFn: () => get<RevisionCompared>(`/api/parts/${id}/revisions/${pair[0]}/compare/${pair[1]}`),
  });
  if (!asked.data) return <p className="mt-1 text-pencil">Comparing …</p>;
  const { sizes, callouts, figures, files } = asked.data;
  const rows = [...callouts, ...sizes];
  const other = files.filter((f) => f.state !== "the same");
  return (
    <div className="mt-1">
      <table className="w-full" aria-label={`What changed from ${pair[0]} to ${pair[1]}`}>
        <tbody>
          {rows.map((r, i) => (
            <tr key={`${r.what}${i}`} className="border-t border-hair align-baseline">
              <td className="py-0.5 pr-2">{r.what}</td>
              <td className="pr-2 font-mono text-pencil">{r.before || "—"}</td>
              <td className="font-mono">{r.after || "—"}</td>
            </tr>
          ))}
          {figures.map((f) => (
            <tr key={String(f.what)} className="border-t border-hair align-baseline">
              <td className="py-0.5 pr-2">
                {f.what} ({f.unit})
              </td>
              <td className="pr-2 font-mono text-pencil">{Number(f.before).toFixed(3)}</td>
              <td className="font-mono">{Number(f.after).toFixed(3)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {!rows.length && !figures.length && <p>No size, callout or figure.</p>}
      <p className="mt-1 text-pencil">
        {other.length
          ? `Files: ${other.map((f) => `${f.path} ${f.state}`).join(", ")}`
          : "All files are the same."}
      </p>
    </div>
  );
}
