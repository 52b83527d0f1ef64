/** How a mesh beside the part stands: the unit of its figures, its turns, where its origin lies, how near it has to be. */
import { useState } from "react";
import type { ReferenceMesh } from "../../api/types";

const UNITS = ["um", "mm", "cm", "m", "in", "ft"] as const;
const NAMES: Record<string, string> = { um: "µm" };
const AXES = ["X", "Y", "Z"] as const;

interface Props {
  mesh: Required<ReferenceMesh>;
  unit: string; // of the part
  may: boolean;
  onChange: (changes: Partial<ReferenceMesh>) => void;
}

export function MeshPlace({ mesh, unit, may, onChange }: Props) {
  const [said, setSaid] = useState("");
  const per = unit === "in" ? 25.4 : 1;
  const figure = (label: string, value: number, scale: number, keep: (value: number) => void) => (
    <label className="flex items-baseline gap-1">
      <span className="text-pencil">{label}</span>
      <input
        key={value}
        className="field w-[124px] text-right font-mono"
        defaultValue={Number((value / scale).toFixed(7))}
        onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
        onBlur={(e) => {
          const typed = Number(e.currentTarget.value.trim().replace(",", "."));
          setSaid("");
          if (e.currentTarget.value.trim() === "" || !Number.isFinite(typed)) {
            setSaid(`“${e.currentTarget.value}” is no number.`);
            e.currentTarget.value = String(Number((value / scale).toFixed(7)));
          } else if (Math.abs(typed * scale - value) > 1e-9) keep(typed * scale);
        }}
      />
    </label>
  );
  const three = (field: "turn" | "at", scale: number) =>
    AXES.map((axis, k) => (
      <span key={axis}>
        {figure(axis, mesh[field][k], scale, (v) =>
          onChange({ [field]: mesh[field].map((old, i) => (i === k ? v : old)) as [number, number, number] }),
        )}
      </span>
    ));
  return (
    <fieldset
      disabled={!may}
      aria-label="Where the mesh stands"
      className="border border-hair bg-panel px-3 py-2"
    >
      <div className="grid grid-cols-[110px_1fr] items-baseline gap-y-1.5 text-[12.5px]">
        <span className="text-pencil">its figures are</span>
        <span className="flex flex-wrap items-baseline gap-x-6">
          <select
            className="field w-[72px]"
            aria-label="Unit of the mesh"
            value={mesh.unit}
            onChange={(e) => onChange({ unit: e.currentTarget.value as ReferenceMesh["unit"] })}
          >
            {UNITS.map((u) => (
              <option key={u} value={u}>
                {NAMES[u] ?? u}
              </option>
            ))}
          </select>
          {figure(`may lie off by, ${unit}`, mesh.within, per, (within) => onChange({ within }))}
        </span>
        <span className="text-pencil">turned about, °</span>
        <span className="flex flex-wrap gap-x-4">{three("turn", 1)}</span>
        <span className="text-pencil">its origin at, {unit}</span>
        <span className="flex flex-wrap gap-x-4">{three("at", per)}</span>
      </div>
      {said && (
        <p role="alert" className="mt-1 text-red">
          {said}
        </p>
      )}
    </fieldset>
  );
}
