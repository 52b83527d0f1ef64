/** All values of the part: named ones made, changed and taken out; every size and depth edited where it is listed. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { get } from "../api/client";
import type { components } from "../api/schema.gen";
import { run } from "../document/commands";
import { type CommandDraft, editable, useBoard } from "../state/store";

type Value = components["schemas"]["ValueOut"];
type Answer = components["schemas"]["ValuesOut"];

function change(v: Value, expr: string): Promise<boolean> {
  return run({ do: "set_expression", step: v.step, path: v.path, expr });
}

function rename(v: Value, name: string): Promise<boolean> {
  if (!v.step) return run({ do: "set_value", name: v.name, rename_to: name });
  return run({ do: "sketch_dimension", step: v.step, dimension: v.path, changes: { name } });
}

export function Values() {
  const part = useBoard((s) => s.part)!;
  const expressions = useBoard((s) => s.expressions);
  const [only, setOnly] = useState(false);
  const answer = useQuery({
    queryKey: ["values", part.id, part.version],
    queryFn: () => get<Answer>(`/api/parts/${part.id}/values`),
    placeholderData: (before) => before,
  });
  const list = (answer.data?.values ?? []).filter((v) => !only || v.name);
  return (
    <>
      {editable() && <NewValue free={answer.data?.free ?? ""} />}
      <label className="mt-2 flex items-center gap-2">
        <input
          type="checkbox"
          checked={expressions}
          onChange={(e) => useBoard.setState({ expressions: e.target.checked })}
        />
        show expressions on the sketch
      </label>
      <label className="flex items-center gap-2">
        <input type="checkbox" checked={only} onChange={(e) => setOnly(e.target.checked)} />
        only those with a name
      </label>
      {answer.data && !list.length && (
        <p className="mt-2 text-pencil">
          No values yet. Name one above, or draw and dimension a sketch: every size is listed here.
        </p>
      )}
      <ul aria-label="Values" className="mt-2 border-t border-hair">
        {list.map((v) => (
          <Row key={`${v.step}${v.path}`} value={v} unit={part.document.unit} />
        ))}
      </ul>
    </>
  );
}

type ValueKind = NonNullable<Extract<CommandDraft, { do: "set_value" }>["kind"]>;

function NewValue({ free }: { free: string }) {
  const [name, setName] = useState("");
  const [expr, setExpr] = useState("");
  const [kind, setKind] = useState<ValueKind>("length");
  return (
    <form
      className="grid grid-cols-[1fr_1fr_84px_auto] items-end gap-1.5"
      onSubmit={async (e) => {
        e.preventDefault();
        if (await run({ do: "set_value", name: name.trim() || free, expr, kind })) {
          setName("");
          setExpr("");
        }
      }}
    >
      <input
        className="field font-mono"
        aria-label="Name of the new value"
        placeholder={free}
        value={name}
        onChange={(e) => setName(e.target.value)}
      />
      <input
        className="field font-mono"
        aria-label="Expression of the new value"
        placeholder="40/3"
        value={expr}
        onChange={(e) => setExpr(e.target.value)}
      />
      <select
        className="field"
        aria-label="Kind of the new value"
        value={kind}
        onChange={(e) => setKind(e.target.value as ValueKind)}
      >
        <option value="length">length</option>
        <option value="angle">angle</option>
        <option value="number">number</option>
      </select>
      <button type="submit" className="btn btn-main" disabled={!expr.trim()}>
        Add
      </button>
    </form>
  );
}

function shown(v: Value, unit: string): string {
  if (v.value === null) return "cannot be worked out";
  if (v.kind === "angle") return `${Number(v.value.toFixed(6))}°`;
  if (v.kind === "number") return String(Number(v.value.toFixed(9)));
  return `${Number((v.value / (unit === "in" ? 25.4 : 1)).toFixed(6))} ${unit}`;
}

function Row({ value: v, unit }: { value: Value; unit: string }) {
  const may = editable() && v.driving;
  const lit = /^d\d+$/.test(v.path) ? [v.path] : [];
  const here = useBoard((s) => s.sketch !== null && s.sketch === v.step);
  return (
    <li
      className="border-b border-hair py-1.5"
      onPointerEnter={() => here && useBoard.setState({ shown: lit })}
      onPointerLeave={() => useBoard.setState({ shown: [] })}
    >
      <div className="flex items-baseline gap-2">
        <Cell
          label={`Name of ${v.name || v.what}`}
          text={v.name}
          hint={v.nameable ? "name" : ""}
          may={may && v.nameable}
          keep={(t) => rename(v, t)}
        />
        <span className="text-pencil">=</span>
        <Cell
          label={`Expression of ${v.name || v.what}`}
          text={v.expr}
          hint=""
          may={may}
          keep={(t) => change(v, t)}
        />
        <span className={`grow text-right font-mono text-[12.5px] ${v.value === null ? "text-red" : ""}`}>
          {v.driving ? shown(v, unit) : `(${shown(v, unit)})`}
        </span>
        {may && !v.step && (
          <button
            type="button"
            aria-label={`Take out ${v.name}`}
            className="px-1 text-pencil hover:text-red"
            onClick={() => run({ do: "delete_value", name: v.name })}
          >
            ×
          </button>
        )}
      </div>
      <p className="font-cond text-[12.5px] text-pencil">
        {v.what}
        {v.used.length > 0 && ` · used in ${v.used.join(", ")}`}
      </p>
    </li>
  );
}

function Cell({
  label,
  text,
  hint,
  may,
  keep,
}: {
  label: string;
  text: string;
  hint: string;
  may: boolean;
  keep: (text: string) => Promise<boolean>;
}) {
  const [typed, setTyped] = useState<string | null>(null);
  const done = async () => {
    if (typed !== null && typed.trim() !== text) await keep(typed.trim());
    setTyped(null);
  };
  return (
    <input
      className="slot font-mono text-[12.5px]"
      aria-label={label}
      disabled={!may}
      placeholder={hint}
      value={typed ?? text}
      onFocus={(e) => e.currentTarget.select()}
      onChange={(e) => setTyped(e.target.value)}
      onBlur={done}
      onKeyDown={(e) => {
        if (e.key === "Enter") e.currentTarget.blur();
        if (e.key === "Escape") setTyped(null);
        e.stopPropagation();
      }}
    />
  );
}
