/** The part as it is, held against an earlier version or another part: what changed in words, what came and went. */
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { get, type Refused } from "../api/client";
import type { components } from "../api/schema.gen";
import type { CardPage } from "../api/types";
import { useBoard } from "../state/store";
import { volumeSaid } from "../ui/measures";

type Compared = components["schemas"]["ComparedOut"];

/** What the part is held against: one of its versions, or another part. */
export type Against = { version: number } | { other: string; named: string };

const said = (a: Against) => ("version" in a ? `version ${a.version}` : a.named);

export function Comparing({ against, onClose }: { against: Against; onClose: () => void }) {
  const part = useBoard((s) => s.part)!;
  const scene = useBoard((s) => s.scene);
  const asked = "version" in against ? `version=${against.version}` : `other=${against.other}`;
  const answer = useQuery({
    queryKey: ["compare", part.id, part.version, asked],
    queryFn: ({ signal }) => get<Compared>(`/api/parts/${part.id}/compare?${asked}`, signal),
    retry: false,
  });
  const found = answer.data;
  useEffect(() => {
    scene?.preview(found?.added ?? [], found?.removed ?? []);
    return () => {
      scene?.preview([], []);
    };
  }, [scene, found]);
  return (
    <section aria-label="Compared" className="mb-3 border border-hair px-3 py-2">
      <div className="flex items-baseline">
        <h3 className="head text-[11.5px]">Held against {said(against)}</h3>
        <span className="grow" />
        <button type="button" className="font-cond text-[12.5px] text-pencil underline" onClick={onClose}>
          close
        </button>
      </div>
      {answer.error ? (
        <p className="text-red">{(answer.error as Refused).sentence}</p>
      ) : found ? (
        <Found found={found} />
      ) : (
        <p className="text-pencil">Building both and taking one from the other …</p>
      )}
    </section>
  );
}

function Found({ found }: { found: Compared }) {
  const unit = useBoard((s) => s.part!.document.unit);
  const volume = (v: number) => volumeSaid(v, unit);
  const [before, after] = found.grams;
  return (
    <>
      <p>
        <span className="text-proof">Green came: {volume(found.volumes.added ?? 0)}.</span>{" "}
        <span className="text-red">Red went: {volume(found.volumes.removed ?? 0)}.</span>{" "}
        {before !== null && after !== null && (
          <>
            {before.toFixed(2)} g before, {after.toFixed(2)} g now.
          </>
        )}
      </p>
      {found.changes.length === 0 ? (
        <p className="text-pencil">Nothing was changed in the route, its sizes or the part's data.</p>
      ) : (
        <table className="mt-1 w-full border-collapse text-left">
          <thead className="font-cond text-[12px] text-pencil">
            <tr>
              <th className="pr-2 font-normal">step</th>
              <th className="pr-2 font-normal">what</th>
              <th className="pr-2 font-normal">before</th>
              <th className="font-normal">now</th>
            </tr>
          </thead>
          <tbody>
            {found.changes.map((c) => (
              <tr key={`${c.step} ${c.what} ${c.before}`} className="border-t border-hair align-top">
                <td className="pr-2 font-mono text-[12.5px] text-pencil">{c.step ?? ""}</td>
                <td className="pr-2">{c.what}</td>
                <td className="pr-2 text-red">{c.before}</td>
                <td className="text-proof">{c.after}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </>
  );
}

const OFFERED = 60; // parts in the list; among more a search finds

/** Another part of the workspace to hold this one against. */
export function OtherPart({ onPick }: { onPick: (against: Against) => void }) {
  const part = useBoard((s) => s.part)!;
  const [search, setSearch] = useState("");
  const found = useQuery({
    queryKey: ["cards", part.workspace, "compare", search],
    queryFn: () =>
      get<CardPage>(
        `/api/workspaces/${part.workspace}/parts?search=${encodeURIComponent(search)}&size=${OFFERED}`,
      ),
    placeholderData: (before) => before,
  });
  const others = (found.data?.parts ?? []).filter((c) => c.id !== part.id);
  const many = (found.data?.total ?? 0) > OFFERED || search !== "";
  if (!others.length && !many) return null;
  return (
    <label className="mb-2 flex items-baseline gap-2 text-pencil">
      compare with
      {many && (
        <input
          className="slot w-[9ch] min-w-0"
          type="search"
          aria-label="Search the other part"
          placeholder="find …"
          value={search}
          onChange={(e) => setSearch(e.target.value)}
        />
      )}
      <select
        className="slot min-w-0 grow"
        value=""
        onChange={(e) => {
          const card = others.find((c) => c.id === e.target.value);
          if (card) onPick({ other: card.id, named: card.name });
        }}
      >
        <option value="">another part …</option>
        {others.map((c) => (
          <option key={c.id} value={c.id}>
            {c.name}
          </option>
        ))}
      </select>
    </label>
  );
}
