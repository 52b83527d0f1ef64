/** The part with a size changed, drawn over what it is now. */
import { useQuery } from "@tanstack/react-query";
import { post, type Refused } from "../../api/client";
import type { ChangedPart, XY } from "../../api/types";
import { grams } from "../../ui/measures";

interface Props {
  id: string;
  version: number;
  values: Record<string, number>;
  massUnit: string;
}

const path = (runs: number[][][]) =>
  runs.map((run) => `M${run.map(([x, y]) => `${x.toFixed(3)} ${(-y).toFixed(3)}`).join("L")}`).join("");

export function ChangedSeen({ id, version, values, massUnit }: Props) {
  const asked = useQuery({
    queryKey: ["changed part", id, version, values],
    queryFn: () => post<ChangedPart>(`/api/parts/${id}/mass/changed`, { values }),
    retry: false,
    placeholderData: (before) => before,
  });
  const found = asked.data;
  if (!found || asked.error)
    return (
      <p role="status" className="grid h-full place-items-center p-6 text-pencil">
        {asked.error ? (asked.error as Refused).sentence : "Building the part with this size …"}
      </p>
    );
  const at: XY[] = [...found.before.seen, ...found.after.seen].flat() as XY[];
  const [xs, ys] = [at.map((p) => p[0]), at.map((p) => -p[1])];
  const [left, top] = [Math.min(...xs), Math.min(...ys)];
  const [wide, high] = [Math.max(...xs) - left, Math.max(...ys) - top];
  const edge = 0.06 * Math.max(wide, high);
  return (
    <figure className="flex h-full min-h-0 flex-col" aria-label="The part changed">
      <svg
        viewBox={`${left - edge} ${top - edge} ${wide + 2 * edge} ${high + 2 * edge}`}
        className={`min-h-0 grow ${asked.isPlaceholderData ? "opacity-40" : ""}`}
        fill="none"
        aria-hidden="true"
      >
        <path
          d={path(found.before.seen)}
          className="stroke-faint"
          strokeWidth={1}
          strokeDasharray="4 3"
          vectorEffect="non-scaling-stroke"
        />
        <path
          d={path(found.after.seen)}
          className="stroke-red"
          strokeWidth={1.5}
          vectorEffect="non-scaling-stroke"
        />
      </svg>
      <figcaption className="p-3 text-center text-[12.5px] text-pencil">
        dashed: as it is · red: changed, <b className="font-mono text-ink">{grams(found.grams, massUnit)}</b>
      </figcaption>
    </figure>
  );
}
