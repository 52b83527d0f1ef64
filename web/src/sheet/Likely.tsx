/** A callout that nothing uses: the faces of the part that are most likely meant, or those that are pointed at. */
import { useQuery } from "@tanstack/react-query";
import { get, type Refused } from "../api/client";
import type { components } from "../api/schema.gen";
import type { Callout } from "../api/types";
import { run } from "../document/commands";
import { startMeasuring } from "../inspect/measure";
import { useBoard } from "../state/store";
import { Waiting } from "../ui/Waiting";
import { lightCallout, lightFaces } from "./lit";

type Place = components["schemas"]["LikelyOut"];

export function Likely({ callout }: { callout: Callout }) {
  const part = useBoard((s) => s.part)!;
  const ready = useBoard((s) => s.build?.version === part.version);
  const pointing = useBoard((s) => s.measuring);
  const answer = useQuery({
    queryKey: ["likely", part.id, part.version, callout.id],
    queryFn: ({ signal }) => get<Place[]>(`/api/parts/${part.id}/callouts/${callout.id}/likely`, signal),
    enabled: ready,
    retry: false,
  });
  const take = async (place: Place) => {
    lightFaces([]);
    await run({ do: "gauge_callout", callout: callout.id, gauged: place.gauged });
  };
  return (
    <section
      aria-label={`Where callout ${callout.number} is measured`}
      className="border-l-2 border-proof bg-panel px-3.5 pb-2 pt-1"
    >
      {!ready || answer.isPending ? (
        <Waiting words="Looking over the part" />
      ) : answer.error ? (
        <p className="text-red">{(answer.error as Refused).sentence}</p>
      ) : answer.data.length === 0 ? (
        <p className="text-pencil">No faces of the part measure this, or nearly.</p>
      ) : (
        <ul>
          {answer.data.map((place) => (
            <li key={place.said}>
              <button
                type="button"
                className="w-full py-0.5 text-left text-[12.5px] hover:text-red focus:text-red"
                title={place.fits ? "Measure it here from now on" : "Near, but not within its limits"}
                onPointerEnter={() => lightFaces(place.picks as [string, number][])}
                onPointerLeave={lightCallout}
                onFocus={() => lightFaces(place.picks as [string, number][])}
                onBlur={lightCallout}
                onClick={() => take(place)}
              >
                <span className={place.fits ? "text-proof" : "text-ochre"}>{place.fits ? "✓ " : "≈ "}</span>
                {place.said[0].toUpperCase() + place.said.slice(1)}
              </button>
            </li>
          ))}
        </ul>
      )}
      {!pointing && (
        <button
          type="button"
          className="btn mt-1"
          title="Press one face of the part, or two; what they measure proves the callout"
          onClick={startMeasuring}
        >
          Point at it
        </button>
      )}
      {pointing && <p className="text-red">Press one face or edge of the part, or two, then a figure.</p>}
    </section>
  );
}
