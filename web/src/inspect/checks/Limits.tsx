/** The limits of one check: the part's own data, changed and kept like any. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { get, post, type Refused } from "../../api/client";
import type { Checked, Command, Part, ShopLimits, WorkspaceShop } from "../../api/types";
import { lengthSaid } from "../../ui/measures";

type Name = Checked["check"];
type Field = {
  key: string;
  label: string;
  unit: "length" | "angle" | "times" | "way" | "ways" | "drills";
  empty?: string;
};

const WAYS: [string, string][] = [
  ["+z", "above"],
  ["-z", "under"],
  ["-y", "front"],
  ["+y", "behind"],
  ["+x", "right"],
  ["-x", "left"],
];

const FIELDS: Record<Name, Field[]> = {
  solid: [
    { key: "edge", label: "shortest edge", unit: "length" },
    { key: "face", label: "narrowest face", unit: "length" },
    { key: "sharp", label: "sharpest edge", unit: "angle" },
  ],
  mould: [
    { key: "pull", label: "the half that moves goes", unit: "way" },
    { key: "parting", label: "parting at", unit: "length", empty: "by itself" },
    { key: "least", label: "draft at least", unit: "angle" },
    { key: "enough", label: "enough from", unit: "angle" },
  ],
  walls: [
    { key: "least", label: "thinnest", unit: "length" },
    { key: "most", label: "thickest (0: any)", unit: "length" },
    { key: "jump", label: "change at most", unit: "times" },
  ],
  cutters: [
    { key: "ways", label: "cutters come from", unit: "ways" },
    { key: "diameter", label: "smallest cutter ⌀", unit: "length" },
    { key: "corner", label: "its corner R", unit: "length" },
    { key: "stands_out", label: "stands out (0: any)", unit: "length" },
    { key: "holder", label: "of a holder ⌀", unit: "length" },
    { key: "pocket_depth", label: "pockets, × width", unit: "times" },
    { key: "hole_depth", label: "holes, × ⌀", unit: "times" },
    { key: "thread_depth", label: "threads, × ⌀", unit: "times" },
    { key: "edge", label: "to an edge, × ⌀", unit: "times" },
    { key: "drills", label: "drills", unit: "drills" },
  ],
};

type Values = Record<string, unknown>;

/** Data with its names in order, so that the same limits are the same text. */
const sorted = (value: unknown): unknown =>
  Array.isArray(value)
    ? [...value].sort()
    : value === null || typeof value !== "object"
      ? value
      : Object.fromEntries(
          Object.entries(value)
            .sort(([a], [b]) => (a < b ? -1 : 1))
            .map(([k, v]) => [k, sorted(v)]),
        );

export function Limits({
  part,
  check,
  onKept,
}: {
  part: Part;
  check: Name;
  onKept: (after: Part) => void; // the part as it is stored now
}) {
  const shop = part.document.shop as Required<ShopLimits>;
  const unit = part.document.unit ?? "mm";
  const [sent, setSent] = useState<Values>({}); // on its way to be kept
  const kept = { ...(shop[check] as Values), ...sent };
  const [texts, setTexts] = useState<Record<string, string>>({});
  const [said, setSaid] = useState("");
  const may = part.role !== "viewer";
  const per = (f: Field) => (f.unit === "length" && unit === "in" ? 25.4 : 1);
  const shown = (f: Field) =>
    texts[f.key] ??
    (kept[f.key] == null ? "" : String(Number(((kept[f.key] as number) / per(f)).toFixed(6))));

  const queries = useQueryClient();
  const workspace = useQuery({
    queryKey: ["workspace shop", part.id],
    queryFn: () => get<WorkspaceShop>(`/api/parts/${part.id}/workspace-shop`),
  }).data;
  const others =
    workspace !== undefined && JSON.stringify(sorted(workspace.shop)) !== JSON.stringify(sorted(shop));

  async function forTheWorkspace() {
    setSaid("");
    try {
      const after = await post<WorkspaceShop>(`/api/parts/${part.id}/workspace-shop`, shop);
      queries.setQueryData(["workspace shop", part.id], after);
    } catch (error) {
      setSaid((error as Refused).sentence);
    }
  }
  const keep = (changes: Values) => changed("asked" in changes ? changes : { [check]: changes }, changes);

  async function changed(asked: Values, changes: Values = {}) {
    setSaid("");
    setSent(changes);
    try {
      const command: Command = { do: "set_part", changes: { shop: asked } };
      const after = await post<Part>(`/api/parts/${part.id}/commands`, { version: part.version, command });
      onKept(after);
    } catch (error) {
      setSaid((error as Refused).sentence);
    }
    setSent({});
    setTexts({});
  }
  function typed(f: Field) {
    const text = texts[f.key];
    if (text === undefined) return;
    const value = Number(text.trim().replace(",", "."));
    if (text.trim() === "" && f.empty) return keep({ [f.key]: null });
    if (text.trim() === "" || !Number.isFinite(value)) {
      setSaid(`“${text}” is no number.`);
      return setTexts({});
    }
    if (Math.abs(value * per(f) - Number(kept[f.key] ?? Number.NaN)) < 1e-12) return setTexts({});
    keep({ [f.key]: value * per(f) });
  }
  const asked = (sent.asked ?? shop.asked ?? []) as Name[];
  return (
    <fieldset disabled={!may} className="border border-hair bg-panel px-3 py-2" aria-label="Limits">
      <div className="flex flex-wrap items-baseline gap-x-5 gap-y-1 text-[12.5px]">
        {FIELDS[check].map((f) =>
          f.unit === "ways" ? (
            <span key={f.key} className="flex basis-full flex-wrap gap-x-3">
              <span className="text-pencil">{f.label}</span>
              {WAYS.map(([way, words]) => {
                const on = (kept.ways as string[]).includes(way);
                return (
                  <label key={way} className="whitespace-nowrap">
                    <input
                      type="checkbox"
                      checked={on}
                      onChange={() =>
                        keep({
                          ways: WAYS.map(([w]) => w).filter((w) =>
                            w === way ? !on : (kept.ways as string[]).includes(w),
                          ),
                        })
                      }
                    />{" "}
                    {words}
                  </label>
                );
              })}
            </span>
          ) : f.unit === "way" || f.unit === "drills" ? (
            <label key={f.key} className="text-pencil">
              {f.label}{" "}
              <select
                className="bg-transparent text-ink underline"
                value={kept[f.key] as string}
                onChange={(e) => keep({ [f.key]: e.target.value })}
              >
                {(f.unit === "way"
                  ? WAYS.map(([w, words]) => [
                      w,
                      words === "above" ? "up" : words === "under" ? "down" : `to the ${words}`,
                    ])
                  : [
                      ["metric", "metric"],
                      ["inch", "inch"],
                      ["any", "of any size"],
                    ]
                ).map(([value, words]) => (
                  <option key={value} value={value}>
                    {words.replace("to the front", "forwards").replace("to the behind", "backwards")}
                  </option>
                ))}
              </select>
            </label>
          ) : (
            <label key={f.key} className="whitespace-nowrap text-pencil">
              {f.label}{" "}
              <input
                className="field font-mono text-ink"
                style={{ width: f.empty ? 80 : 62, padding: "0 5px" }}
                placeholder={f.empty}
                value={shown(f)}
                onChange={(e) => setTexts({ ...texts, [f.key]: e.target.value })}
                onBlur={() => typed(f)}
                onKeyDown={(e) => e.key === "Enter" && typed(f)}
              />{" "}
              {f.unit === "length" ? unit : f.unit === "angle" ? "°" : ""}
            </label>
          ),
        )}
        <label className="whitespace-nowrap">
          <input
            type="checkbox"
            checked={asked.includes(check)}
            onChange={() =>
              keep({ asked: asked.includes(check) ? asked.filter((n) => n !== check) : [...asked, check] })
            }
          />{" "}
          has to pass before release
        </label>
      </div>
      {others && (
        <p className="mt-1 flex flex-wrap gap-x-3 border-t border-hair pt-1 text-[12.5px] text-pencil">
          The workspace holds its new parts to other limits.
          <button type="button" className="underline" onClick={() => changed({ ...workspace.shop })}>
            Take the workspace's
          </button>
          {workspace.role === "owner" && (
            <button type="button" className="underline" onClick={forTheWorkspace}>
              Make these the workspace's
            </button>
          )}
        </p>
      )}
      {said && <p className="text-red">{said}</p>}
    </fieldset>
  );
}

/** A limit or a value with its unit, lengths in the part's own. */
export function valueSaid(value: number, unit: string, own: string): string {
  if (unit === "mm") return lengthSaid(value, own);
  if (unit === "mm²" || unit === "mm³") {
    const power = unit === "mm²" ? 2 : 3;
    return `${(own === "in" ? value / 25.4 ** power : value).toFixed(own === "in" ? 4 : 1)} ${own}${unit.slice(2)}`;
  }
  return `${Number(value.toFixed(2))}${unit === "°" ? "" : " "}${unit}`.trim();
}
