/** A slot that is filled by pointing at the part: chips for what is chosen, rules, and other ways to name it. */
import { useState } from "react";
import type { Step } from "../api/types";
import { type Data, put, type Slot } from "../state/catalogue";
import { standing } from "../state/guides";
import type { Choice, FaceRef, PointRef } from "../state/refs";
import { board, DATUMS, numberOf, steps, useBoard } from "../state/store";
import { changeDraft } from "./draft";
import { choiceWords, faceWords, pressPoint, rulesFor, toggle } from "./picks";
import { activate, filled, showChosen } from "./slots";

export function PointedSlot({ slot, path, value }: { slot: Slot; path: string; value: unknown }) {
  const draft = useBoard((s) => s.draft!);
  const active = draft.slot === path;
  const many = ["faces", "edges", "bodies", "steps", "points"].includes(slot.kind);
  const list = many ? ((value as unknown[] | null) ?? []) : [];
  // one that waits goes on waiting: a press on it is no way out
  const press = () => activate(active && filled(slot, value ?? []) ? null : path);
  if (slot.optional && !active && (many ? !list.length : !value))
    return (
      <button
        type="button"
        className="px-1 font-cond text-[12.5px] text-pencil underline"
        aria-label={slot.label}
        onClick={() => activate(path)}
      >
        {slot.empty || `+ ${slot.label.toLowerCase()}`}
      </button>
    );
  return (
    <span>
      <span
        role="button"
        tabIndex={0}
        aria-label={slot.label}
        aria-pressed={active}
        title="Press, then press it on the part"
        className={`slot cursor-pointer ${active ? "bg-redwash text-red outline outline-1 outline-red" : ""}`}
        onClick={press}
        onKeyDown={(e) => {
          if (e.key === " ") {
            e.preventDefault();
            press();
          }
        }}
      >
        {words(slot, value)}
      </span>{" "}
      {active && <Ways slot={slot} path={path} value={value} />}
    </span>
  );
}

const one = (n: number, word: string) => `${n} ${word}${n === 1 ? "" : "s"}`;

function words(slot: Slot, value: unknown): string {
  const { part } = board();
  const list = (value as unknown[] | null) ?? [];
  switch (slot.kind) {
    case "faces":
    case "edges": {
      const choices = list as Choice[];
      if (!choices.length) return slot.kind === "faces" ? "faces …" : "edges …";
      if (choices.length === 1) return choiceWords(choices[0]);
      const picked = choices.filter((c) => c.by === "pick").length;
      const rules = choices.length - picked;
      return [picked && one(picked, slot.kind.slice(0, -1)), rules && one(rules, "rule")]
        .filter(Boolean)
        .join(", ");
    }
    case "bodies":
      return list.length ? one(list.length, "body").replace("bodys", "bodies") : slot.empty || "bodies …";
    case "body":
      return value
        ? `the body of step ${numberOf(part, String(value).split("x")[0])}`
        : slot.empty || "a body …";
    case "steps":
      return list.length
        ? `step${list.length > 1 ? "s" : ""} ${list.map((id) => numberOf(part, String(id))).join(", ")}`
        : "steps …";
    case "points":
      if (list.length === slot.count && slot.count < 3)
        return (list as PointRef[]).map(pointWords).join(" and ");
      if (list.length === slot.count) return one(slot.count, "point");
      return list.length
        ? `${list.length} of ${one(slot.count, "point")}`
        : ["", "a point …", "two points …", "three points …"][slot.count];
    case "face":
      return value ? faceWords(value as FaceRef) : "a face …";
    case "plane":
      return planeWords(value as Data | null);
    default:
      return axisWords(value as Data | null);
  }
}

function pointWords(p: PointRef): string {
  const { part } = board();
  if ("at" in p) return `a corner of the ${faceWords(p.edge.between[0])}`;
  if (p.kind === "origin") return "the origin";
  return p.kind === "datum"
    ? `the point of step ${numberOf(part, p.step)}`
    : `a point of sketch ${numberOf(part, p.step)}`;
}

function planeWords(v: Data | null): string {
  if (!v) return "a plane …";
  if (v.kind === "datum") return `the ${v.plane} plane`;
  if (v.kind === "plane") return `the plane of step ${numberOf(board().part, v.step as string)}`;
  return `the ${faceWords(v.face as FaceRef)}`;
}

function axisWords(v: Data | null): string {
  const { part } = board();
  if (!v) return "an axis …";
  if (v.kind === "axis") return `the ${String(v.axis).toUpperCase()} axis`;
  if (v.kind === "datum") return `the axis of step ${numberOf(part, v.step as string)}`;
  if (v.kind === "line") {
    const line = ["x", "y"].includes(v.line as string)
      ? `${String(v.line).toUpperCase()} axis`
      : `line ${String(v.line).slice(1)}`;
    return `the ${line} of sketch ${numberOf(part, v.step as string)}`;
  }
  if (v.kind === "face") return `the axis of the ${faceWords(v.face as FaceRef)}`;
  const [one, two] = (v.edge as { between: FaceRef[] }).between.map(faceWords);
  return `the edge between the ${one} and the ${two}`;
}

/** What else there is to say in the slot that pointing fills: chips to take out, rules, named planes and axes. */
function Ways({ slot, path, value }: { slot: Slot; path: string; value: unknown }) {
  const step = useBoard((s) => s.draft!.step);
  const part = useBoard((s) => s.part!);
  useBoard((s) => s.lastStep);
  const [ruling, setRuling] = useState(false);
  const set = (v: unknown) => {
    changeDraft(put(step, path, v) as Step);
    showChosen();
  };
  const own = steps(part).findIndex((s) => s.id === step.id);
  const before = own < 0 ? steps(part) : steps(part).slice(0, own); // what is made later cannot be made from
  const datums = (form: string, kind: string) =>
    standing()
      .filter((g) => g.form === form)
      .map((g): [string, unknown, string] => [
        g.step.id,
        { kind, step: g.step.id },
        `the ${form} of step ${g.number}`,
      ]);
  const choices = (Array.isArray(value) ? value : []) as Choice[];
  const pick = <T,>(label: string, options: [string, T, string][], take: (value: T) => void = set) => (
    <select
      className="slot"
      aria-label={label}
      value=""
      onChange={(e) => {
        const option = options.find(([key]) => key === e.target.value);
        if (option) take(option[1]);
      }}
    >
      <option value="">or …</option>
      {options.map(([key, , said]) => (
        <option key={key} value={key}>
          {said}
        </option>
      ))}
    </select>
  );
  if (slot.kind === "faces" || slot.kind === "edges")
    return (
      <span className="my-1 block border-l-2 border-red pl-2 leading-normal">
        {choices.map((c, i) => (
          <button
            key={JSON.stringify(c)}
            type="button"
            className="mb-1 mr-1 border border-hair px-1.5 font-cond text-[12px] hover:border-red"
            title="Take it out"
            onClick={() => set(choices.filter((_, k) => k !== i))}
          >
            {choiceWords(c)} ×
          </button>
        ))}
        <button
          type="button"
          aria-expanded={ruling}
          className="font-cond text-[12.5px] text-pencil underline"
          onClick={() => setRuling(!ruling)}
        >
          by rule
        </button>
        {ruling && (
          <span className="mt-1 flex flex-wrap gap-1">
            {rulesFor(slot.kind, choices).map((r) => (
              <button
                key={r.words}
                type="button"
                className="btn font-cond text-[12px]"
                onClick={() => toggle(path, r.choice)}
              >
                {r.words}
              </button>
            ))}
          </span>
        )}
      </span>
    );
  if (slot.kind === "plane")
    return pick(`${slot.label} by name`, [
      ...Object.keys(DATUMS).map((p): [string, unknown, string] => [
        p,
        { kind: "datum", plane: p },
        `the ${p} plane`,
      ]),
      ...datums("plane", "plane"),
    ]);
  if (slot.kind === "axis")
    return pick(`${slot.label} by name`, [
      ...["x", "y", "z"].map((a): [string, unknown, string] => [
        a,
        { kind: "axis", axis: a },
        `the ${a.toUpperCase()} axis`,
      ]),
      ...datums("axis", "datum"),
      ...before.flatMap((s): [string, unknown, string][] => {
        const n = numberOf(part, s.id);
        if (s.kind !== "sketch") return [];
        const lines = (s.sketch?.entities ?? [])
          .filter((e) => e.kind === "line" && e.construction)
          .map((e) => e.id);
        return ["x", "y", ...lines].map((line): [string, unknown, string] => [
          `${s.id} ${line}`,
          { kind: "line", step: s.id, line },
          `${line.length > 1 ? `line ${line.slice(1)}` : `${line.toUpperCase()} axis`} of sketch ${n}`,
        ]);
      }),
    ]);
  if (slot.kind === "points") {
    const named: [string, PointRef, string][] = [
      ["origin", { kind: "origin" }, "the origin"],
      ...(datums("point", "datum") as [string, PointRef, string][]),
      ...before.flatMap((s): [string, PointRef, string][] => {
        const n = numberOf(part, s.id);
        if (s.kind !== "sketch") return [];
        return (s.sketch?.entities ?? [])
          .filter((e) => e.kind === "point")
          .map((e) => [
            `${s.id} ${e.id}`,
            { kind: "point", step: s.id, point: e.id },
            `point ${e.id.slice(1)} of sketch ${n}`,
          ]);
      }),
    ];
    return pick(`${slot.label} by name`, named, pressPoint);
  }
  if (slot.kind === "steps")
    return pick("Step by number", [
      ...steps(part).flatMap((s): [string, unknown, string][] =>
        ["extrude", "revolve", "hole", "text", "pattern"].includes(s.kind) && s.id !== step.id
          ? [
              [
                s.id,
                [...new Set([...((value as string[]) ?? []), s.id])],
                `step ${numberOf(part, s.id)} ${s.name ?? ""}`,
              ],
            ]
          : [],
      ),
    ]);
  return null;
}
