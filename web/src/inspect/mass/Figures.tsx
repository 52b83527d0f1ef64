/** What each body and the whole weigh and where, in a frame of choice; copied as a table. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { get, type Refused } from "../../api/client";
import type { MassFigures } from "../../api/types";
import { areaSaid, grams, lengthSaid, volumeSaid } from "../../ui/measures";
import type { Units } from "./massWords";

type Figure = MassFigures | MassFigures["bodies"][number];

const POWER = "⁰¹²³⁴⁵⁶⁷⁸⁹";

/** A moment of inertia in g·mm². */
function moment(value: number): string {
  if (Math.abs(value) < 1e5) return value.toFixed(1);
  const power = Math.floor(Math.log10(Math.abs(value)));
  return `${(value / 10 ** power).toFixed(4)}·10${[...String(power)].map((d) => POWER[Number(d)]).join("")}`;
}

const triple = (values: readonly number[], units: Units, places = 3) =>
  values.map((v) => lengthSaid(v, units.length, places).split(" ")[0]).join("  ");

function rowsOf(of: Figure, units: Units): [string, string][] {
  const found: [string, string][] = [
    ["mass", grams(of.mass, units.mass)],
    ["volume", volumeSaid(of.volume, units.length, 3)],
    ["surface", areaSaid(of.area, units.length, 3)],
    [`centre of mass, ${units.length}`, triple(of.centre, units)],
  ];
  if (of.box) {
    found.push([
      `box around, ${units.length}`,
      triple(
        of.box[1].map((v, k) => v - of.box![0][k]),
        units,
      ).replaceAll("  ", " × "),
    ]);
  }
  if (of.moments && of.axes && of.about) {
    found.push(["principal moments, g·mm²", of.moments.map(moment).join("  ")]);
    of.axes.forEach((a, k) => {
      found.push([`axis ${k + 1}`, a.map((v) => (Math.abs(v) < 5e-5 ? 0 : v).toFixed(4)).join("  ")]);
    });
    found.push(["about the frame’s axes, g·mm²", of.about.map((row, k) => moment(row[k])).join("  ")]);
  }
  return found;
}

export function Figures({ id, version, units }: { id: string; version: number; units: Units }) {
  const [frame, setFrame] = useState("");
  const [of, setOf] = useState("");
  const [copied, setCopied] = useState(false);
  const asked = useQuery({
    queryKey: ["mass", id, version, frame],
    queryFn: () => get<MassFigures>(`/api/parts/${id}/mass?frame=${frame}`),
    retry: false,
  });
  const found = asked.data;
  const shown: Figure | undefined = found && (found.bodies.find((b) => b.id === of) ?? found);
  const rows = shown ? rowsOf(shown, units) : [];
  async function copy() {
    const head: [string, string][] = [["seen from", found!.frame_name]];
    await navigator.clipboard?.writeText([...head, ...rows].map((r) => r.join("\t")).join("\n"));
    setCopied(true);
    setTimeout(() => setCopied(false), 1500);
  }
  return (
    <section aria-label="Mass figures">
      <div className="mb-1 flex items-baseline gap-3">
        <h2 className="head">Figures</h2>
        {found && found.bodies.length > 1 && (
          <select
            aria-label="Of which body"
            className="bg-transparent underline"
            value={of}
            onChange={(e) => setOf(e.target.value)}
          >
            <option value="">the whole part</option>
            {found.bodies.map((b, k) => (
              <option key={b.id} value={b.id}>
                {b.title || `body ${k + 1}`}
              </option>
            ))}
          </select>
        )}
        <label className="text-pencil">
          seen from{" "}
          <select
            aria-label="Frame"
            className="max-w-52 bg-transparent text-ink underline"
            value={frame}
            onChange={(e) => setFrame(e.target.value)}
          >
            {(found?.frames ?? [{ id: "", name: "the part's origin" }]).map((f) => (
              <option key={f.id} value={f.id}>
                {f.name}
              </option>
            ))}
          </select>
        </label>
        <span className="grow" />
        <button type="button" className="btn" disabled={!found} onClick={copy}>
          {copied ? "Copied" : "Copy"}
        </button>
      </div>
      {!found && (
        <p role="status" className="text-pencil">
          {asked.error ? (asked.error as Refused).sentence : "Weighing …"}
        </p>
      )}
      <dl className="grid grid-cols-[200px_1fr] gap-y-px font-mono text-[12.5px]">
        {rows.map(([name, value]) => (
          <div key={name} className="contents">
            <dt className="font-sans text-pencil">{name}</dt>
            <dd className="whitespace-pre">{value}</dd>
          </div>
        ))}
      </dl>
      {found?.troubles.map((t) => (
        <p key={t} className="text-red">
          {t}
        </p>
      ))}
    </section>
  );
}
