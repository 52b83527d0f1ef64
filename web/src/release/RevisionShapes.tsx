/** Two revisions in one picture: the newer one, what came of it in green, what went hatched in red. */
import { useQuery } from "@tanstack/react-query";
import { useEffect } from "react";
import { get, type Refused } from "../api/client";
import type { RevisionShapes as Shapes } from "../api/types";
import { useTurntable } from "../inspect/turntable";
import { volumeSaid } from "../ui/measures";

export function RevisionShapes({ id, pair, unit }: { id: string; pair: [string, string]; unit: string }) {
  const [before, after] = pair;
  const asked = useQuery({
    queryKey: ["revision shapes", id, before, after],
    queryFn: ({ signal }) => get<Shapes>(`/api/parts/${id}/revisions/${before}/shapes/${after}`, signal),
    retry: false,
  });
  const found = asked.data;
  const { canvas, scene, home, hand } = useTurntable(id, found?.bodies);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the scene is one and the same
  useEffect(() => {
    if (found) scene.current?.preview(found.added, found.removed);
  }, [found]);
  const [came, went] = [found?.volumes.added ?? 0, found?.volumes.removed ?? 0];
  return (
    <figure className="mt-2" aria-label={`From ${before} to ${after}`}>
      <div className="relative h-[230px] touch-none overflow-hidden border border-hair bg-vellum" {...hand}>
        <canvas ref={canvas} className="absolute inset-0 h-full w-full" />
        {!found && (
          <p role="status" className="absolute inset-0 grid place-items-center p-4 text-pencil">
            {asked.error
              ? (asked.error as Refused).sentence
              : "Building both and taking one from the other …"}
          </p>
        )}
        {found && (
          <button
            type="button"
            className="absolute bottom-1 right-2 font-cond text-[12.5px] text-pencil underline"
            onPointerDown={(e) => e.stopPropagation()}
            onClick={home}
          >
            as at first
          </button>
        )}
      </div>
      {found && (
        <figcaption>
          {came > 0 && <span className="text-proof">Green came: {volumeSaid(came, unit)}. </span>}
          {went > 0 && <span className="text-red">Red went: {volumeSaid(went, unit)}.</span>}
          {came === 0 && went === 0 && <span className="text-pencil">The shape is the same.</span>}
        </figcaption>
      )}
    </figure>
  );
}
