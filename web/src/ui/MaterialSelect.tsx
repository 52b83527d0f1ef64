/** What something is made of: from the library, from the workspace's own, or by a density that is typed. */
import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { get, post } from "../api/client";
import type { Material, OwnMaterial } from "../api/types";

const UNITS = ["g/cm³", "kg/m³", "lb/in³"] as const;
const OWN = "\u0000own"; // no name a material can have

/** ``own`` are those the part has already; ``empty`` says what no choice means. ``take`` gets the name, and the own
 * material it stands for if there is one. */
export function MaterialSelect({
  label,
  workspace,
  value,
  own,
  empty,
  className,
  take,
}: {
  label?: string;
  workspace: number;
  value: string;
  own: OwnMaterial[];
  empty: string;
  className: string;
  take: (name: string, own: OwnMaterial | null) => void;
}) {
  const [typing, setTyping] = useState(false);
  const offered = useQuery({
    queryKey: ["materials", workspace],
    queryFn: () => get<Material[]>(`/api/materials?workspace=${workspace}`),
  });
  const all = offered.data ?? [];
  const mine = [
    ...own,
    ...all.flatMap((m) => (m.own && !own.some((o) => o.name === m.name) ? [m.own as OwnMaterial] : [])),
  ];
  const families = [...new Set(all.flatMap((m) => (m.own ? [] : [m.family])))];
  const choose = (name: string) => {
    if (name === OWN) return setTyping(true);
    take(name, mine.find((m) => m.name === name) ?? null);
  };
  if (typing)
    return (
      <OwnDensity
        kept={all.flatMap((m) => (m.own ? [m.own.name] : []))}
        forget={async (name) => {
          await post(`/api/workspaces/${workspace}/materials/forget`, { name });
          offered.refetch();
        }}
        back={() => setTyping(false)}
        take={(m) => {
          setTyping(false);
          take(m.name, m);
          setTimeout(() => offered.refetch(), 800);
        }}
      />
    );
  return (
    <select className={className} aria-label={label} value={value} onChange={(e) => choose(e.target.value)}>
      <option value="">{empty}</option>
      <option value={OWN}>a density of its own …</option>
      {mine.length > 0 && (
        <optgroup label="Own">
          {mine.map((m) => (
            <option key={m.name} value={m.name} title={m.source}>
              {ownSaid(m)}
            </option>
          ))}
        </optgroup>
      )}
      {families.map((family) => (
        <optgroup key={family} label={family}>
          {all
            .filter((m) => !m.own && m.family === family && !mine.some((o) => o.name === m.name))
            .map((m) => (
              <option key={m.name} value={m.name} title={m.source}>
                {m.name} · {m.density} g/cm³
              </option>
            ))}
        </optgroup>
      ))}
      {value && !mine.some((m) => m.name === value) && !all.some((m) => m.name === value) && (
        <option value={value}>{value}</option>
      )}
    </select>
  );
}

const density = (m: Pick<OwnMaterial, "value" | "unit">) => `${m.value} ${m.unit ?? "g/cm³"}`;
const ownSaid = (m: OwnMaterial) => (m.name === density(m) ? m.name : `${m.name} · ${density(m)}`);

function OwnDensity({
  kept,
  forget,
  take,
  back,
}: {
  kept: string[]; // the workspace's own
  forget: (name: string) => void;
  take: (m: OwnMaterial) => void;
  back: () => void;
}) {
  const [f, setF] = useState({ name: "", value: "", unit: "g/cm³" as (typeof UNITS)[number], source: "" });
  const first = useRef<HTMLInputElement>(null);
  useEffect(() => first.current?.focus(), []);
  const value = Number(f.value.trim().replace(",", "."));
  const ok = value > 0 && value < 1e6;
  const keep = () => {
    if (!ok) return;
    const m = { value, unit: f.unit, source: f.source.trim() };
    take({ ...m, name: f.name.trim() || density(m) });
  };
  const keys = (e: React.KeyboardEvent) => {
    if (e.key === "Enter") {
      e.preventDefault();
      keep();
    }
    if (e.key === "Escape") back();
    if (e.key !== "Tab") e.stopPropagation();
  };
  return (
    <fieldset
      className="border border-hair bg-vellum p-2 leading-normal"
      aria-label="A density of its own"
      onKeyDown={keys}
    >
      <div className="grid grid-cols-[1fr_84px] gap-2">
        <input
          ref={first}
          className="field font-mono"
          aria-label="Density"
          placeholder="7.3"
          value={f.value}
          onChange={(e) => setF({ ...f, value: e.target.value })}
        />
        <select
          className="field"
          aria-label="Unit of the density"
          value={f.unit}
          onChange={(e) => setF({ ...f, unit: e.target.value as typeof f.unit })}
        >
          {UNITS.map((u) => (
            <option key={u}>{u}</option>
          ))}
        </select>
      </div>
      <input
        className="field mt-2"
        aria-label="Name of the material"
        placeholder="name, if it has one"
        maxLength={80}
        value={f.name}
        onChange={(e) => setF({ ...f, name: e.target.value })}
      />
      <input
        className="field mt-2"
        aria-label="Where the density is from"
        placeholder="where the figure is from"
        maxLength={200}
        value={f.source}
        onChange={(e) => setF({ ...f, source: e.target.value })}
      />
      <div className="mt-2 flex gap-2">
        <button type="button" className="btn btn-main" disabled={!ok} onClick={keep}>
          Take it
        </button>
        <button type="button" className="btn" onClick={back}>
          From the list
        </button>
      </div>
      {kept.length > 0 && (
        <p className="mt-2 text-[12px] text-pencil">
          Kept for other parts:{" "}
          {kept.map((name) => (
            <span key={name} className="mr-2 whitespace-nowrap">
              {name}{" "}
              <button type="button" aria-label={`No longer offer ${name}`} onClick={() => forget(name)}>
                ×
              </button>
            </span>
          ))}
        </p>
      )}
    </fieldset>
  );
}
