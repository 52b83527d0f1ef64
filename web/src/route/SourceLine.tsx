/** Where a step's body came from: another part, and whether it has changed there since. */
import { useQuery } from "@tanstack/react-query";
import { get, post } from "../api/client";
import type { components } from "../api/schema.gen";
import type { Part, Step } from "../api/types";
import { changing } from "../document/commands";
import { editable, useBoard } from "../state/store";

type Source = components["schemas"]["SourceOut"];

export function SourceLine({ step }: { step: Step }) {
  const part = useBoard((s) => s.part!);
  const { data } = useQuery({
    queryKey: ["sources", part.id, part.version],
    queryFn: () => get<Source[]>(`/api/parts/${part.id}/sources`),
    refetchOnWindowFocus: true, // the source may have been changed in another window
  });
  const found = data?.find((s) => s.step === step.id);
  if (!found) return null;
  return (
    <p className={found.state === "moved" ? "text-red" : "text-pencil"}>
      {found.said}{" "}
      {found.state !== "gone" && (
        <a className="underline" href={`/parts/${found.part}`}>
          open it
        </a>
      )}{" "}
      {found.state === "moved" && editable() && (
        <button
          type="button"
          className="btn text-ink"
          onClick={() =>
            changing((p) => post<Part>(`/api/parts/${p.id}/sources/${step.id}`, { version: p.version }))
          }
        >
          Take it as it is now
        </button>
      )}
    </p>
  );
}
