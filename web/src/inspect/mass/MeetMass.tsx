/** A target met: the sizes that may change, within bounds; what was found, what it does to callouts, taken in one press. */
import { useState } from "react";
import { post, type Refused } from "../../api/client";
import type { Command, Driver, Met, Part, SingleCommand } from "../../api/types";
import { GRAMS_PER, grams } from "../../ui/measures";
import { readTyped, sizeSaid, typed, type Units } from "./massWords";

interface Props {
  part: Part;
  sizes: Driver["size"][]; // that may change
  units: Units;
  onFound: (values: Record<string, number> | null) => void; // to be seen beside the part as it is
  onTaken: () => void;
}

const ROOM = 0.2; // of a size: the bounds that are offered

export function MeetMass({ part, sizes, units, onFound, onTaken }: Props) {
  const per = GRAMS_PER[units.mass];
  const asked = part.document.target_mass;
  const [target, setTarget] = useState(asked ? String(Number((asked.grams / per).toFixed(6))) : "");
  const [bounds, setBounds] = useState<Record<string, [string, string]>>({});
  const [met, setMet] = useState<Met | null>(null);
  const [said, setSaid] = useState("");
  const [busy, setBusy] = useState<"" | "finding" | "taking">("");
  const boundsOf = (s: Driver["size"]): [string, string] =>
    bounds[s.key] ?? [typed(s.value * (1 - ROOM), s.kind, units), typed(s.value * (1 + ROOM), s.kind, units)];
  const forget = () => {
    setMet(null);
    setSaid("");
    onFound(null);
  };

  async function find() {
    forget();
    const wanted = Number(target.replace(",", "."));
    const rows = sizes.map((s) => ({
      key: s.key,
      ends: boundsOf(s).map((t) => readTyped(t, s.kind, units)),
    }));
    if (!(wanted > 0)) return setSaid("Type the mass that the part may have.");
    if (rows.some((r) => r.ends.includes(null)))
      return setSaid("A bound is a number in the size's own unit.");
    setBusy("finding");
    try {
      const found = await post<Met>(`/api/parts/${part.id}/mass/meet`, {
        target: wanted * per,
        tolerance: asked?.tolerance ?? 0,
        bounds: rows.map((r) => ({ key: r.key, low: r.ends[0], high: r.ends[1] })),
      });
      setMet(found);
      setSaid(found.said);
      onFound(found.values);
    } catch (error) {
      setSaid((error as Refused).sentence ?? "This could not be tried; ask again.");
    }
    setBusy("");
  }

  async function take() {
    setBusy("taking");
    try {
      const commands = met!.commands as SingleCommand[];
      const command: Command = commands.length === 1 ? commands[0] : { do: "together", commands };
      await post(`/api/parts/${part.id}/commands`, { version: part.version, command });
      forget();
      onTaken();
    } catch (error) {
      setSaid((error as Refused).sentence);
    }
    setBusy("");
  }

  return (
    <section aria-label="Meet the mass" className="border-t border-hair pt-3">
      <div className="flex items-baseline gap-2">
        <h2 className="head">Meet the mass</h2>
        <label className="text-pencil">
          target{" "}
          <input
            className="field font-mono text-ink"
            style={{ width: 90, padding: "1px 6px" }}
            aria-label="Mass to be met"
            value={target}
            onChange={(e) => {
              setTarget(e.target.value);
              forget();
            }}
            onKeyDown={(e) => e.key === "Enter" && sizes.length && find()}
          />{" "}
          {units.mass}
          {asked?.tolerance ? ` ± ${grams(asked.tolerance, units.mass)}` : ""}
        </label>
        <span className="grow" />
        <button type="button" className="btn" disabled={!sizes.length || busy !== ""} onClick={find}>
          {busy === "finding" ? "Trying on the part …" : "Find the value"}
        </button>
      </div>
      {!sizes.length && (
        <p className="text-pencil">Tick “free” at one size above, or at several, that may change.</p>
      )}
      {sizes.map((s) => {
        const ends = boundsOf(s);
        const set = (k: 0 | 1, text: string) => {
          const next: [string, string] = [...ends];
          next[k] = text;
          setBounds({ ...bounds, [s.key]: next });
          forget();
        };
        return (
          <div key={s.key} className="mt-1 flex items-baseline gap-2">
            <span className="grow truncate">{s.what}</span>
            <span className="font-mono text-[12.5px] text-pencil">
              now {sizeSaid(s.value, s.kind, units)}, from
            </span>
            {([0, 1] as const).map((k) => (
              <input
                key={k}
                className="field font-mono"
                style={{ width: 84, padding: "1px 6px" }}
                aria-label={`${k ? "Most" : "Least"} of ${s.what}`}
                value={ends[k]}
                onChange={(e) => set(k, e.target.value)}
              />
            ))}
          </div>
        );
      })}
      <div role="status">
        {said && <p className="mt-1 text-red">{said}</p>}
        {met?.values && (
          <div className="mt-2 border border-proof bg-proofwash/50 p-2">
            <p>
              {sizes
                .filter((s) => s.key in met.values!)
                .map((s) => `${s.what} ${sizeSaid(met.values![s.key], s.kind, units)}`)
                .join("; ")}{" "}
              brings the part to <b className="font-mono">{grams(met.grams, units.mass)}</b>
              {met.rounded ? "" : ", unrounded: no round value is near enough"}.
            </p>
            {met.callouts.map((c) => (
              <p key={c.callout} className={c.after === "proven" ? "text-proof" : "text-red"}>
                Callout {c.number} ({c.text}) is {c.before} now and would be {c.after}: {c.said}.
              </p>
            ))}
            {!met.callouts.length && (part.document.callouts ?? []).length > 0 && (
              <p className="text-pencil">No callout's verdict changes.</p>
            )}
            {part.role !== "viewer" && (
              <button type="button" className="btn btn-main mt-1" disabled={busy !== ""} onClick={take}>
                {busy === "taking" ? "Taking …" : "Take it"}
              </button>
            )}
          </div>
        )}
      </div>
    </section>
  );
}
