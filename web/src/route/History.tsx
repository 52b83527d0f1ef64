/** What happened to the part, change by change: versions named, and gone back to. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { get, post, type Refused } from "../api/client";
import type { components } from "../api/schema.gen";
import type { Part } from "../api/types";
import { applyPart, inTurn } from "../document/commands";
import { type Against, Comparing, OtherPart } from "../inspect/Comparing";
import { board, editable, showMessage, useBoard } from "../state/store";

type Entry = components["schemas"]["HistoryOut"];

/** What stood before the first change. */
const BEGUN: Entry = { version: 0, who: "", kind: "", what: "as it began", at: "", name: "" };

export function History() {
  const part = useBoard((s) => s.part)!;
  const [named, setNamed] = useState(false);
  const [against, setAgainst] = useState<Against | null>(null);
  const client = useQueryClient();
  const list = useQuery({
    queryKey: ["history", part.id, part.version, named],
    queryFn: () => get<Entry[]>(`/api/parts/${part.id}/history?named=${named}`),
    // a change meanwhile, by anybody, takes no name away that is being typed; another choice of versions is another list
    placeholderData: (before, query) => (query?.queryKey[3] === named ? before : undefined),
  });
  async function name(version: number, text: string) {
    try {
      await post(`/api/parts/${part.id}/versions`, { version, name: text });
      client.invalidateQueries({ queryKey: ["history", part.id] });
    } catch (error) {
      showMessage((error as Refused).sentence, "red");
    }
  }
  async function goBack(to: number) {
    useBoard.setState({ leaf: null });
    await inTurn(async () => {
      try {
        applyPart(await post<Part>(`/api/parts/${part.id}/restore`, { version: board().part!.version, to }));
        showMessage(`The part is as it was at version ${to}. Undo takes that back.`);
      } catch (error) {
        showMessage((error as Refused).sentence, "red");
      }
    });
  }
  return (
    <>
      {against && <Comparing against={against} onClose={() => setAgainst(null)} />}
      <OtherPart onPick={setAgainst} />
      <label className="mb-2 flex items-center gap-2 text-pencil">
        <input type="checkbox" checked={named} onChange={(e) => setNamed(e.target.checked)} />
        only those with a name
      </label>
      <ol aria-label="Versions" className="border-t border-hair">
        {[...(list.data ?? []), ...(!named && list.data?.at(-1)?.version === 1 ? [BEGUN] : [])].map((e) => (
          <Row
            key={e.version}
            entry={e}
            now={e.version === part.version}
            onName={(text) => name(e.version, text)}
            onBack={() => goBack(e.version)}
            onCompare={() => setAgainst({ version: e.version })}
          />
        ))}
        {list.data?.length === 0 && (
          <li className="py-2 text-pencil">
            {named
              ? "No version has a name yet. Name one when the part is worth finding again."
              : "Nothing has been changed yet."}
          </li>
        )}
      </ol>
    </>
  );
}

function Row({
  entry,
  now,
  onName,
  onBack,
  onCompare,
}: {
  entry: Entry;
  now: boolean;
  onName: (text: string) => void;
  onBack: () => void;
  onCompare: () => void;
}) {
  const [text, setText] = useState<string | null>(null);
  const undone = { undo: "undid: ", redo: "did again: " }[entry.kind] ?? "";
  return (
    <li className="flex items-baseline gap-3 border-b border-hair py-1.5">
      <span className="w-[36px] shrink-0 text-right font-mono text-[12.5px] text-pencil">
        {entry.version}
      </span>
      <span className="min-w-0 grow">
        {entry.name && <b className="font-semibold">{entry.name} · </b>}
        {entry.who} {undone}
        {entry.what}{" "}
        <span className="font-cond text-[12px] text-pencil">
          {entry.at &&
            new Date(entry.at).toLocaleString("en-GB", { dateStyle: "medium", timeStyle: "short" })}
        </span>
      </span>
      {text !== null ? (
        <input
          className="field w-[130px] shrink-0"
          aria-label={`Name of version ${entry.version}`}
          autoFocus
          value={text}
          onChange={(e) => setText(e.target.value)}
          onBlur={() => setText(null)}
          onKeyDown={(e) => {
            if (e.key === "Enter") {
              onName(text);
              setText(null);
            }
            if (e.key === "Escape") setText(null);
            e.stopPropagation();
          }}
        />
      ) : (
        editable() &&
        entry.version > 0 && (
          <button
            type="button"
            className="shrink-0 font-cond text-[12.5px] text-pencil underline"
            onClick={() => setText(entry.name ?? "")}
          >
            name
          </button>
        )
      )}
      {!now && (
        <button
          type="button"
          className="shrink-0 font-cond text-[12.5px] text-pencil underline"
          aria-label={`Compare with version ${entry.version}`}
          onClick={onCompare}
        >
          compare
        </button>
      )}
      {now ? (
        <span className="w-[52px] shrink-0 text-right font-cond text-[12.5px] text-proof">now</span>
      ) : (
        editable() && (
          <button
            type="button"
            className="w-[52px] shrink-0 text-right font-cond text-[12.5px] text-pencil underline"
            aria-label={`Go back to version ${entry.version}`}
            onClick={onBack}
          >
            go back
          </button>
        )
      )}
    </li>
  );
}
