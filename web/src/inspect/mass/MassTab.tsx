/** What the part weighs and why: figures, what drives it, the band its limits allow, a target met, the bench scale. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { get, post, type Refused, Stopped } from "../../api/client";
import { Live } from "../../api/live";
import type { Drivers, Part, Weighing } from "../../api/types";
import { grams } from "../../ui/measures";
import { BenchScale } from "./BenchScale";
import { DriverList } from "./DriverList";
import { Figures } from "./Figures";
import { MassRule } from "./MassRule";
import { MeetMass } from "./MeetMass";
import { unitsOf } from "./massWords";

interface Props {
  id: string;
  version: number;
  ready: boolean; // the part is built as it is
  onSeen: (values: Record<string, number> | null) => void; // a changed part to be shown beside
}

const MORE = 0.05; // of a size: how far it is changed to be seen

export function MassTab({ id, version, ready, onSeen }: Props) {
  const queries = useQueryClient();
  const part = useQuery({
    queryKey: ["part", id, version],
    queryFn: () => get<Part>(`/api/parts/${id}`),
  }).data;
  const asked = useQuery({
    queryKey: ["drivers", id, version],
    queryFn: ({ signal }) => get<Drivers>(`/api/parts/${id}/mass/drivers`, signal),
    enabled: ready,
    retry: false,
    staleTime: Number.POSITIVE_INFINITY,
  });
  const readings = useQuery({
    queryKey: ["weighings", id],
    queryFn: () => get<Weighing[]>(`/api/parts/${id}/weighings`),
  });
  const [done, setDone] = useState<Record<number, number>>({}); // of so many sizes
  const [chosen, setChosen] = useState<string | null>(null);
  const [free, setFree] = useState<Set<string>>(new Set());
  const [extremes, setExtremes] = useState<[number, number] | null>(null);
  const [said, setSaid] = useState("");
  const found = asked.data;
  const waiting = ready && !found && !asked.error;
  useEffect(() => {
    if (!waiting) return;
    const live = new Live(id, (e) => {
      if (e.kind === "asked" && e.what === "drivers")
        setDone((was) => ({
          ...was,
          [e.of as number]: Math.max(was[e.of as number] ?? 0, e.done as number),
        }));
    });
    return () => live.close();
  }, [waiting, id]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: what was chosen speaks of one version
  useEffect(() => {
    setChosen(null);
    setFree(new Set());
    setExtremes(null);
    onSeen(null);
    return () => onSeen(null);
  }, [version]);
  if (!part) return <p className="text-pencil">Opening the part …</p>;
  const units = unitsOf(part);
  const sizes = found?.rows.map((r) => r.size) ?? [];
  const target = part.document.target_mass;

  function choose(key: string | null) {
    setChosen(key);
    const size = sizes.find((s) => s.key === key);
    if (!size) return onSeen(null);
    const by =
      size.kind === "number" ? 1 : size.kind === "angle" ? 2 : Math.max(MORE * Math.abs(size.value), 0.5);
    onSeen({ [size.key]: size.value + by });
  }
  async function buildExtremes() {
    setSaid("Building the lightest and the heaviest …");
    try {
      setExtremes(await post<[number, number]>(`/api/parts/${id}/mass/extremes`));
      setSaid("");
    } catch (error) {
      setSaid((error as Refused).sentence ?? "They could not be built; try again.");
    }
  }
  const [told, of] = Object.entries(done).reduce(([a, b], [n, k]) => [a + k, b + Number(n)], [0, 0]);
  return (
    <div className="grid max-w-[820px] gap-4">
      <Figures id={id} version={version} units={units} />
      <section aria-label="What drives the mass" className="border-t border-hair pt-3">
        <div className="mb-1 flex items-baseline gap-3">
          <h2 className="head">What drives the mass</h2>
          <span className="text-[12.5px] text-pencil">
            each size changed and the part rebuilt; press one to see it
          </span>
        </div>
        {!found && (
          <div role="status" className="flex items-baseline gap-3 text-pencil">
            {!ready
              ? "The part is being built …"
              : asked.error && !(asked.error instanceof Stopped)
                ? (asked.error as Refused).sentence
                : `Trying every size on the part${of ? `: ${told} of about ${of}` : ""} …`}
            {waiting && (
              <button
                type="button"
                className="underline"
                onClick={() => queries.cancelQueries({ queryKey: ["drivers", id, version] })}
              >
                stop
              </button>
            )}
            {!waiting && ready && !found && (
              <button type="button" className="underline" onClick={() => asked.refetch()}>
                work it out
              </button>
            )}
          </div>
        )}
        {found && (
          <DriverList
            found={found}
            units={units}
            chosen={chosen}
            onChoose={choose}
            free={free}
            onFree={(key) => {
              const next = new Set(free);
              if (!next.delete(key)) next.add(key);
              setFree(next);
            }}
          />
        )}
      </section>
      {found?.weighed && (
        <>
          <MeetMass
            part={part}
            sizes={sizes.filter((s) => free.has(s.key))}
            units={units}
            onFound={(values) => {
              setChosen(null);
              onSeen(values);
            }}
            onTaken={() => queries.invalidateQueries({ queryKey: ["inspection", id] })}
          />
          <section aria-label="Mass band" className="border-t border-hair pt-3">
            <div className="flex items-baseline gap-3">
              <h2 className="head">What the limits allow</h2>
              <span className="font-mono text-[12.5px]">
                {grams(found.band.least, units.mass)} … {grams(found.band.most, units.mass)}
              </span>
              <span className="text-[12.5px] text-pencil">
                likely {grams(found.band.likely_least, units.mass)} …{" "}
                {grams(found.band.likely_most, units.mass)}
              </span>
              <span className="grow" />
              <button
                type="button"
                className="btn"
                disabled={!found.band.plays.length}
                onClick={buildExtremes}
              >
                Build both ends
              </button>
            </div>
            {said && (
              <p role="status" className="text-pencil">
                {said}
              </p>
            )}
            {extremes && (
              <p className="text-ochre">
                Built for real: {grams(extremes[0], units.mass)} and {grams(extremes[1], units.mass)}.
              </p>
            )}
            {!found.band.plays.length && (
              <p className="text-[12.5px] text-pencil">
                No size that drives the mass has limits: give callouts tolerances, or the part a general
                tolerance.
              </p>
            )}
            <MassRule
              band={found.band}
              target={target}
              readings={readings.data ?? []}
              extremes={extremes}
              units={units}
            />
          </section>
          <BenchScale
            id={id}
            version={version}
            readings={readings.data ?? []}
            units={units}
            mayWeigh={part.role !== "viewer"}
            onWeighed={() => queries.invalidateQueries({ queryKey: ["weighings", id] })}
          />
        </>
      )}
      {found && !found.weighed && (
        <p className="text-ochre">
          The part has no material yet, so volumes are told; choose one in the part's data.
        </p>
      )}
    </div>
  );
}
