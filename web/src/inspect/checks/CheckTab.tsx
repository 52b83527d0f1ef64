/** One check of the shop: its limits, what it found with a place for each, and what the colours on the part mean. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";
import { get, type Refused, Stopped } from "../../api/client";
import { Live } from "../../api/live";
import type { Checked, Part, ShopLimits, XYZ } from "../../api/types";
import { areaSaid, lengthSaid } from "../../ui/measures";
import type { Paint } from "../../view/painted";
import { Limits, valueSaid } from "./Limits";
import { bandColours, graduations, hex, painted, readPaint, scaled, thicknessColour } from "./paint";

/** What is shown beside: the part painted, spots on it, faces lit, and what a place of it says. */
export interface Shown {
  paint: Paint | null;
  spots: { at: XYZ; out: boolean }[];
  lit: number | null; // which spot
  faces: [string, number][];
  said: (corner: number) => string;
  reach?: XYZ[]; // what is to be seen beside the part itself
  unit?: string; // in which lengths between places are told
}

interface Props {
  id: string;
  version: number;
  ready: boolean;
  check: Checked["check"];
  onShown: (shown: Shown | null) => void;
  onSpot: { chosen: number | null; choose: (k: number | null) => void };
}

const HEADS: Record<Checked["check"], [string, string]> = {
  solid: ["A sound solid", "closed, right way out, nothing so small or sharp that it trips who comes after"],
  mould: [
    "Release from the mould",
    "looked at along the pull from both halves; what neither releases is locked",
  ],
  walls: [
    "Wall thickness",
    "along rays square to the surface and by the balls that fit between; the smaller counts",
  ],
  cutters: ["Cutter access", "what a cutter reaches from each side, corners, slots and holes"],
};

export function CheckTab({ id, version, ready, check, onShown, onSpot }: Props) {
  const queries = useQueryClient();
  const part = useQuery({
    queryKey: ["part", id, version],
    queryFn: () => get<Part>(`/api/parts/${id}`),
  }).data;
  const asked = useQuery({
    queryKey: ["check", id, version, check],
    queryFn: ({ signal }) => get<Checked>(`/api/parts/${id}/checks/${check}`, signal),
    enabled: ready,
    retry: false,
    staleTime: Number.POSITIVE_INFINITY,
  });
  const found = asked.data;
  const waiting = ready && asked.isFetching && !found;
  const [done, setDone] = useState("");
  useEffect(() => {
    if (!waiting) return setDone("");
    const live = new Live(id, (e) => {
      if (e.kind === "asked" && e.what === "check") setDone(`: ${e.done} of ${e.of}`);
    });
    return () => live.close();
  }, [waiting, id]);
  const file = useQuery({
    queryKey: ["check paint", id, found?.paint],
    queryFn: async () =>
      readPaint(await (await fetch(`/api/parts/${id}/mesh/${found!.paint}`)).arrayBuffer()),
    enabled: !!found?.paint,
    staleTime: Number.POSITIVE_INFINITY,
  }).data;
  const unit = part?.document.unit ?? "mm";
  const least = (part?.document.shop as ShopLimits | undefined)?.walls?.least ?? 1;
  const thickest = Number(found?.figures.thickest ?? 0);
  const paint = useMemo(() => (file && found ? painted(file, found, least) : null), [file, found, least]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: onShown only sets a state
  useEffect(() => {
    if (!found) return onShown(null);
    const chosen = onSpot.chosen === null ? null : found.findings[onSpot.chosen];
    onShown({
      paint,
      spots: found.findings.flatMap((f) => (f.at ? [{ at: f.at as XYZ, out: f.worth === "out" }] : [])),
      lit: onSpot.chosen,
      faces: (chosen?.faces ?? []) as [string, number][],
      unit,
      said: (corner) => {
        const value = file?.values[corner] ?? Number.NaN;
        if (check === "walls")
          return Number.isFinite(value) ? `${lengthSaid(value, unit)} thick` : "nothing on the other side";
        return found.bands[value]?.said ?? "";
      },
    });
  }, [found, paint, onSpot.chosen]);
  useEffect(() => () => onShown(null), [onShown]);
  if (!part) return <p className="text-pencil">Opening the part …</p>;
  const [title, words] = HEADS[check];
  const outs = found?.findings.filter((f) => f.worth === "out").length ?? 0;
  const spotOf = (k: number) => found!.findings.slice(0, k).filter((f) => f.at).length;
  return (
    <div className="grid max-w-[820px] gap-3">
      <div className="flex items-baseline gap-3">
        <h2 className="head">{title}</h2>
        <span className="text-[12.5px] text-pencil">{words}</span>
      </div>
      <Limits
        key={check}
        part={part}
        check={check}
        onKept={(after) => {
          queries.setQueryData(["part", id, version], after); // the next change starts from it
          queries.invalidateQueries({ queryKey: ["inspection", id] });
        }}
      />
      <p role="status">
        {!ready ? (
          <span className="text-pencil">The part is being built …</span>
        ) : asked.error && !(asked.error instanceof Stopped) ? (
          <span className="text-red">{(asked.error as Refused).sentence}</span>
        ) : waiting ? (
          <span className="flex gap-3 text-pencil">
            Looking the part over{done} …
            <button
              type="button"
              className="underline"
              onClick={() => queries.cancelQueries({ queryKey: ["check", id, version, check] })}
            >
              stop
            </button>
          </span>
        ) : !found ? (
          <span className="flex gap-3 text-pencil">
            Stopped.
            <button type="button" className="underline" onClick={() => asked.refetch()}>
              look it over
            </button>
          </span>
        ) : found.passed ? (
          <b className="text-proof">Passed{found.findings.length ? ", with something to know" : ""}.</b>
        ) : (
          <b className="text-red">{outs === 1 ? "One finding is" : `${outs} findings are`} out of limits.</b>
        )}
      </p>
      {found && check === "walls" && (
        <Thickness least={least} thickest={thickest} unit={unit} found={found} />
      )}
      {found && check !== "walls" && found.bands.length > 0 && (
        <ul aria-label="What the colours mean" className="flex flex-wrap gap-x-5 gap-y-1 text-[12.5px]">
          {bandColours(found.bands).map(
            (c, k) =>
              found.bands[k].area > 0.05 && (
                <li key={found.bands[k].name} className="flex items-center gap-1.5 whitespace-nowrap">
                  <span className="inline-block h-3 w-5 border border-hair" style={{ background: hex(c) }} />
                  {found.bands[k].said}
                  <span className="font-mono text-pencil">{areaSaid(found.bands[k].area, unit, 1)}</span>
                </li>
              ),
          )}
        </ul>
      )}
      {found && found.findings.length > 0 && (
        <ol aria-label="Findings">
          {found.findings.map((f, k) => (
            <li
              key={k}
              className={`border-t border-hair ${onSpot.chosen === spotOf(k) && f.at ? "bg-redwash" : ""}`}
            >
              <button
                type="button"
                className="flex w-full items-baseline gap-3 py-1 text-left"
                aria-pressed={f.at !== null && onSpot.chosen === spotOf(k)}
                onClick={() => f.at && onSpot.choose(onSpot.chosen === spotOf(k) ? null : spotOf(k))}
              >
                <span className={`w-28 shrink-0 font-cond ${f.worth === "out" ? "text-red" : "text-ochre"}`}>
                  {f.kind}
                </span>
                <span className="grow">
                  {f.said}
                  {f.step_title && (
                    <span className="block text-[12px] text-pencil">
                      Step {f.step_number} would change it: {f.step_title}
                      {f.field ? `, its ${f.field.replaceAll("_", " ")}` : ""}.
                    </span>
                  )}
                </span>
                {f.value !== null && (
                  <span className="whitespace-nowrap font-mono text-[12.5px]">
                    {valueSaid(f.value, f.unit, unit)}
                  </span>
                )}
              </button>
            </li>
          ))}
        </ol>
      )}
      {found && !found.findings.length && <p className="text-pencil">Nothing to be told.</p>}
    </div>
  );
}

function Thickness({
  least,
  thickest,
  unit,
  found,
}: {
  least: number;
  thickest: number;
  unit: string;
  found: Checked;
}) {
  const marks = graduations(least, thickest);
  const thin = found.figures.thinnest;
  const steps = Array.from(
    { length: 60 },
    (_, k) => (least || 0.1) * (thickest / (least || 0.1)) ** (k / 59),
  );
  return (
    <figure className="flex items-start gap-3" aria-label="What the colours mean">
      <svg viewBox="0 0 420 34" className="w-[420px] shrink-0" aria-hidden="true">
        <rect x={2} y={2} width={26} height={12} fill={hex(thicknessColour(0, least || 1, thickest))} />
        {steps.map((v, k) => (
          <rect
            key={v}
            x={34 + k * 6.3}
            y={2}
            width={6.6}
            height={12}
            fill={hex(thicknessColour(v, least, thickest))}
          />
        ))}
        <text x={2} y={28} className="fill-pencil font-mono text-[10px]">
          thin
        </text>
        {marks.map((m) => (
          <text
            key={m}
            x={34 + scaled(m, least || 0.1, thickest) * 372}
            y={28}
            textAnchor="middle"
            className="fill-pencil font-mono text-[10px]"
          >
            {Number((unit === "in" ? m / 25.4 : m).toPrecision(3))}
          </text>
        ))}
      </svg>
      <figcaption className="text-[12.5px]">
        {typeof thin === "number" && (
          <>
            thinnest <b className="font-mono">{lengthSaid(thin, unit)}</b>, thickest{" "}
            <b className="font-mono">{lengthSaid(thickest, unit)}</b>
          </>
        )}
      </figcaption>
    </figure>
  );
}
