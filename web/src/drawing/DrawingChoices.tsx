/** How the drawing is made: paper, scale, views, sections, details, notes. */
import { useState } from "react";
import type { DrawingSheet, DrawnSheet } from "../api/types";
import { freeLetter, VIEW_WORDS, viewWords } from "./moved";

const SIDES = ["front", "top", "right", "left", "under", "back"] as const;
const PAPERS = ["auto", "A4", "A3", "A2", "A1", "A0", "A", "B", "C", "D"] as const;
const SCALES = ["20:1", "10:1", "5:1", "2:1", "1:1", "1:2", "1:5", "1:10", "1:20", "1:50", "1:100"];
const ALONG: Record<string, string> = { front: "y", back: "y", left: "x", right: "x", top: "z", under: "z" };

interface ChoicesProps {
  settings: DrawingSheet;
  unit: "mm" | "in";
  sheet: DrawnSheet | undefined;
  may: boolean;
  onChange: (changes: Partial<DrawingSheet>) => void;
}

export function DrawingChoices({ settings, unit, sheet, may, onChange }: ChoicesProps) {
  const shown = (sheet?.views ?? []).filter((v) => v.seat !== "free").map((v) => v.name);
  const views = settings.views ?? null;
  function toggle(side: (typeof SIDES)[number]) {
    const now = views ?? (shown as (typeof SIDES)[number][]);
    const next = now.includes(side) ? now.filter((s) => s !== side) : [...now, side];
    if (next.length) onChange({ views: SIDES.filter((s) => next.includes(s)) });
  }
  return (
    <fieldset disabled={!may} className="min-w-0 border-b border-hair px-4 py-3 text-[13px]">
      <legend className="sr-only">How it is drawn</legend>
      <div className="grid grid-cols-2 gap-x-3 gap-y-2">
        <Choice
          label="Paper"
          value={settings.paper ?? "auto"}
          options={PAPERS.map((p) => [p, p === "auto" ? `by itself${sheet ? `, ${sheet.paper}` : ""}` : p])}
          onChange={(paper) => onChange({ paper: paper as DrawingSheet["paper"] })}
        />
        <Choice
          label="Scale"
          value={settings.scale ?? ""}
          options={[
            ["", `by itself${sheet && !settings.scale ? `, ${sheet.scale}` : ""}`],
            ...SCALES.map((s) => [s, s] as const),
          ]}
          onChange={(scale) => onChange({ scale })}
        />
        <Choice
          label="Main view"
          value={settings.main ?? ""}
          options={[["", "by itself"], ...SIDES.map((s) => [s, VIEW_WORDS[s]] as const)]}
          onChange={(main) => onChange({ main: (main || null) as DrawingSheet["main"] })}
        />
        <Choice
          label="Paper lies"
          value={settings.portrait ? "upright" : "level"}
          options={[
            ["level", "level"],
            ["upright", "upright"],
          ]}
          onChange={(way) => onChange({ portrait: way === "upright" })}
        />
      </div>
      <div className="mt-3">
        <div className="flex items-baseline justify-between">
          <span className="text-[12px] text-pencil">Views</span>
          {views && (
            <button type="button" className="text-[12px] underline" onClick={() => onChange({ views: null })}>
              those that are needed
            </button>
          )}
        </div>
        <div className="grid grid-cols-3 gap-x-2">
          {SIDES.map((s) => (
            <label key={s} className="whitespace-nowrap">
              <input
                type="checkbox"
                checked={(views ?? shown).includes(s) || settings.main === s}
                onChange={() => toggle(s)}
              />{" "}
              {s === "under" ? "bottom" : s === "back" ? "rear" : s}
            </label>
          ))}
        </div>
      </div>
      <div className="mt-2 flex flex-wrap gap-x-4">
        {(
          [
            ["isometric", "isometric"],
            ["hidden_lines", "hidden lines"],
            ["balloons", "balloons"],
          ] as const
        ).map(([key, words]) => (
          <label key={key} className="whitespace-nowrap">
            <input
              type="checkbox"
              checked={settings[key] ?? key !== "balloons"}
              onChange={() => onChange({ [key]: !(settings[key] ?? key !== "balloons") })}
            />{" "}
            {words}
          </label>
        ))}
      </div>
      <Sections settings={settings} unit={unit} onChange={onChange} />
      <Details settings={settings} unit={unit} sheet={sheet} onChange={onChange} />
      <Notes notes={settings.notes ?? []} onChange={(notes) => onChange({ notes })} />
    </fieldset>
  );
}

interface ChoiceProps {
  label: string;
  value: string;
  options: readonly (readonly [string, string])[];
  onChange: (value: string) => void;
}

function Choice({ label, value, options, onChange }: ChoiceProps) {
  return (
    <label className="block min-w-0">
      <span className="block text-[12px] text-pencil">{label}</span>
      <select className="field w-full" value={value} onChange={(e) => onChange(e.target.value)}>
        {options.map(([v, words]) => (
          <option key={v} value={v}>
            {words}
          </option>
        ))}
      </select>
    </label>
  );
}

const per = (unit: "mm" | "in") => (unit === "in" ? 25.4 : 1);
const shownLength = (mm: number, unit: "mm" | "in") => String(Number((mm / per(unit)).toFixed(4)));

/** A length that was typed, in mm; null for what is none. */
function typedLength(text: string, unit: "mm" | "in"): number | null {
  const value = Number(text.trim().replace(",", "."));
  return text.trim() !== "" && Number.isFinite(value) ? value * per(unit) : null;
}

type AskedProps = Pick<ChoicesProps, "settings" | "unit" | "onChange">;

const letters = (s: DrawingSheet) => [...(s.sections ?? []), ...(s.details ?? [])].map((one) => one.letter);

function Sections({ settings, unit, onChange }: AskedProps) {
  const sections = settings.sections ?? [];
  return (
    <section className="mt-3" aria-label="Sections">
      <Row
        title="Sections"
        add="Add a section"
        onAdd={() =>
          onChange({
            sections: [...sections, { letter: freeLetter(letters(settings)), side: "front", at: 0 }],
          })
        }
      />
      {sections.map((s, i) => {
        const put = (more: Partial<typeof s>) =>
          onChange({ sections: sections.map((o, k) => (k === i ? { ...o, ...more } : o)) });
        return (
          <div key={s.letter} className="flex items-center gap-1.5 py-0.5">
            <span className="shrink-0 font-mono">
              {s.letter}-{s.letter}
            </span>
            <select
              aria-label={`Section ${s.letter} seen from`}
              className="field min-w-0 grow"
              value={s.side}
              onChange={(e) => put({ side: e.target.value as typeof s.side })}
            >
              {SIDES.map((side) => (
                <option key={side} value={side}>
                  {VIEW_WORDS[side]}
                </option>
              ))}
            </select>
            <span className="font-mono text-pencil">{ALONG[s.side]}</span>
            <Typed
              label={`Section ${s.letter} cut at`}
              value={shownLength(s.at, unit)}
              onTyped={(text) => {
                const at = typedLength(text, unit);
                if (at !== null) put({ at });
              }}
            />
            <Away
              label={`Take section ${s.letter} away`}
              onPress={() => onChange({ sections: sections.filter((_, k) => k !== i) })}
            />
          </div>
        );
      })}
    </section>
  );
}

function Details({ settings, unit, sheet, onChange }: AskedProps & { sheet: DrawnSheet | undefined }) {
  const details = settings.details ?? [];
  const views = (sheet?.views ?? []).filter((v) => v.name !== "iso" && !v.name.startsWith("detail"));
  function add() {
    const main = views[0];
    if (!main) return;
    const [left, low, right, high] = main.outline;
    const k = main.scale;
    const centre: [number, number] = [
      Number((((left + right) / 2 - main.at[0]) / k).toFixed(2)),
      Number((((low + high) / 2 - main.at[1]) / k).toFixed(2)),
    ];
    const radius = Number((Math.min(right - left, high - low) / k / 4).toFixed(2));
    onChange({
      details: [
        ...details,
        { letter: freeLetter(letters(settings)), of: main.name, centre, radius, times: 2 },
      ],
    });
  }
  return (
    <section className="mt-2" aria-label="Details">
      <Row title="Details" add="Add a detail" onAdd={add} />
      {details.map((d, i) => {
        const put = (more: Partial<typeof d>) =>
          onChange({ details: details.map((o, k) => (k === i ? { ...o, ...more } : o)) });
        const length = (label: string, value: number, keep: (mm: number) => void) => (
          <Typed
            label={`Detail ${d.letter} ${label}`}
            value={shownLength(value, unit)}
            onTyped={(text) => {
              const mm = typedLength(text, unit);
              if (mm !== null) keep(mm);
            }}
          />
        );
        return (
          <div key={d.letter} className="flex flex-wrap items-center gap-x-1.5 gap-y-0.5 py-0.5">
            <span className="w-4 font-mono">{d.letter}</span>
            <select
              aria-label={`Detail ${d.letter} of`}
              className="field w-[130px] grow"
              value={d.of}
              onChange={(e) => put({ of: e.target.value })}
            >
              {[...new Set([d.of, ...views.map((v) => v.name)])].map((name) => (
                <option key={name} value={name}>
                  {viewWords(name)}
                </option>
              ))}
            </select>
            <select
              aria-label={`Detail ${d.letter} times as large`}
              className="field w-[62px] shrink-0 px-1"
              value={d.times}
              onChange={(e) => put({ times: Number(e.target.value) })}
            >
              {[...new Set([d.times ?? 2, 2, 2.5, 4, 5, 10])]
                .sort((a, b) => a - b)
                .map((t) => (
                  <option key={t} value={t}>
                    × {t}
                  </option>
                ))}
            </select>
            <Away
              label={`Take detail ${d.letter} away`}
              onPress={() => onChange({ details: details.filter((_, k) => k !== i) })}
            />
            <span className="flex basis-full items-center gap-1.5 pl-5 text-pencil">
              right {length("to the right", d.centre[0], (mm) => put({ centre: [mm, d.centre[1]] }))} up{" "}
              {length("up", d.centre[1], (mm) => put({ centre: [d.centre[0], mm] }))} R{" "}
              {length("radius", d.radius, (mm) => put({ radius: mm }))}
            </span>
          </div>
        );
      })}
    </section>
  );
}

function Row({ title, add, onAdd }: { title: string; add: string; onAdd: () => void }) {
  return (
    <div className="flex items-baseline justify-between">
      <span className="text-[12px] text-pencil">{title}</span>
      <button type="button" className="text-[12px] underline" onClick={onAdd}>
        {add}
      </button>
    </div>
  );
}

function Away({ label, onPress }: { label: string; onPress: () => void }) {
  return (
    <button
      type="button"
      aria-label={label}
      title={label}
      className="px-1 text-pencil hover:text-red"
      onClick={onPress}
    >
      ×
    </button>
  );
}

/** A field that says what it holds when it is left or Enter is pressed. */
function Typed({ label, value, onTyped }: { label: string; value: string; onTyped: (text: string) => void }) {
  const [text, setText] = useState<string | null>(null);
  const done = () => {
    if (text !== null && text !== value) onTyped(text);
    setText(null);
  };
  return (
    <input
      aria-label={label}
      className="field w-[50px] px-1 text-right font-mono"
      value={text ?? value}
      onFocus={(e) => e.target.select()}
      onChange={(e) => setText(e.target.value)}
      onBlur={done}
      onKeyDown={(e) => {
        if (e.key === "Enter") done();
        if (e.key === "Escape") setText(null);
      }}
    />
  );
}

function Notes({ notes, onChange }: { notes: string[]; onChange: (notes: string[]) => void }) {
  const [text, setText] = useState<string | null>(null);
  const done = () => {
    if (text !== null) {
      const next = text
        .split("\n")
        .map((n) => n.trim())
        .filter(Boolean);
      if (next.join("\n") !== notes.join("\n")) onChange(next);
    }
    setText(null);
  };
  return (
    <label className="mt-3 block">
      <span className="text-[12px] text-pencil">Notes, one a line</span>
      <textarea
        className="field h-14 w-full resize-y font-mono text-[12px]"
        value={text ?? notes.join("\n")}
        placeholder="BREAK ALL EDGES 0.2"
        onChange={(e) => setText(e.target.value)}
        onBlur={done}
      />
    </label>
  );
}
