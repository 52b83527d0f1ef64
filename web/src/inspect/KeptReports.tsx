/** Reports of the part as it is, and those that were kept: they never change again. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { get, post, type Refused } from "../api/client";
import type { components } from "../api/schema.gen";

type Kept = components["schemas"]["KeptOut"];
const FORMS = ["pdf", "xlsx", "csv"] as const;

export function KeptReports({ id, ready }: { id: string; ready: boolean }) {
  const queries = useQueryClient();
  const kept = useQuery({
    queryKey: ["reports", id],
    queryFn: () => get<Kept[]>(`/api/parts/${id}/reports`),
  });
  const [busy, setBusy] = useState(false);
  const [said, setSaid] = useState("");
  async function keep() {
    setBusy(true);
    setSaid("");
    try {
      await post<Kept>(`/api/parts/${id}/reports`, {});
      await queries.invalidateQueries({ queryKey: ["reports", id] });
    } catch (error) {
      setSaid((error as Refused).sentence ?? "The report could not be kept; try again.");
    }
    setBusy(false);
  }
  const off = ready ? "" : "pointer-events-none text-faint";
  return (
    <section aria-label="Reports" className="border-t border-hair p-4">
      <div className="flex items-baseline gap-3">
        <h2 className="head">Report</h2>
        {FORMS.map((form) => (
          <a
            key={form}
            className={`underline ${off}`}
            aria-disabled={!ready}
            aria-label={`Report, ${form.toUpperCase()}`}
            href={`/api/parts/${id}/inspection.${form}`}
          >
            {form.toUpperCase()}
          </a>
        ))}
        <span className="grow" />
        <button type="button" className="btn" disabled={!ready || busy} onClick={keep}>
          {busy ? "Keeping …" : "Keep this report"}
        </button>
      </div>
      {said && <p className="mt-1 text-red">{said}</p>}
      {kept.data && kept.data.length === 0 && (
        <p className="mt-1 text-[12.5px] text-pencil">
          None kept yet. A kept report stays as it is, whatever becomes of the part.
        </p>
      )}
      <ol aria-label="Kept reports" className="mt-1 max-h-40 overflow-auto">
        {kept.data?.map((k) => (
          <li key={k.id} className="flex items-baseline gap-2.5 border-t border-hair py-0.5 text-[12.5px]">
            <span className="whitespace-nowrap font-mono">
              {k.revision} · version {k.version}
            </span>
            <span className={`whitespace-nowrap ${k.proven === k.judged ? "text-proof" : "text-red"}`}>
              {k.proven} of {k.judged}
            </span>
            <span className="grow truncate text-pencil">
              {k.by}, {new Date(k.at).toLocaleString("en-GB", { dateStyle: "medium", timeStyle: "short" })}
            </span>
            {FORMS.map((form) => (
              <a
                key={form}
                className="font-cond underline"
                aria-label={`Kept report of version ${k.version}, ${form.toUpperCase()}`}
                href={`/api/parts/${id}/reports/${k.id}.${form}`}
              >
                {form.toUpperCase()}
              </a>
            ))}
          </li>
        ))}
      </ol>
    </section>
  );
}
