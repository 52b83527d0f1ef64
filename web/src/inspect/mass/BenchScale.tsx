/** The bench scale, which is simulated: made examples weighed, their readings kept with the part. */
import { useState } from "react";
import { post, type Refused } from "../../api/client";
import type { Weighing } from "../../api/types";
import { grams } from "../../ui/measures";
import type { Units } from "./massWords";

interface Props {
  id: string;
  version: number;
  readings: Weighing[];
  units: Units;
  mayWeigh: boolean;
  onWeighed: () => void;
}

export function BenchScale({ id, version, readings, units, mayWeigh, onWeighed }: Props) {
  const [busy, setBusy] = useState(false);
  const [said, setSaid] = useState("");
  async function weigh() {
    setBusy(true);
    setSaid("");
    try {
      await post<Weighing>(`/api/parts/${id}/weighings`, {});
      onWeighed();
    } catch (error) {
      setSaid((error as Refused).sentence ?? "The scale does not answer; try again.");
    }
    setBusy(false);
  }
  return (
    <section aria-label="Bench scale" className="border-t border-hair pt-3">
      <div className="flex items-baseline gap-2">
        <h2 className="head">Bench scale</h2>
        <span className="text-[12.5px] text-ochre">
          simulated: an example is made within the limits, by chance, and weighed
        </span>
        <span className="grow" />
        {mayWeigh && (
          <button type="button" className="btn" disabled={busy} onClick={weigh}>
            {busy ? "Making and weighing …" : "Weigh a made example"}
          </button>
        )}
      </div>
      {said && <p className="text-red">{said}</p>}
      <table className="mt-1 w-full text-[12.5px]" aria-label="Readings">
        <tbody>
          {readings.map((r) => (
            <tr key={r.id} className="border-t border-hair align-baseline">
              <td className="whitespace-nowrap py-0.5 pr-3 text-right font-mono">
                {units.mass === "g"
                  ? `${r.grams.toFixed(Math.max(0, -Math.floor(Math.log10(r.resolution))))} g`
                  : grams(r.grams, units.mass)}
              </td>
              <td className={r.inside ? "text-proof" : "text-red"}>
                {r.said}
                {r.within === false ? ", off the target" : r.within ? ", on target" : ""}
                {r.suspects.length > 0 && (
                  <span className="block text-ink">
                    would be explained by{" "}
                    {r.suspects
                      .slice(0, 3)
                      .map(
                        (s) =>
                          `callout ${s.number} (${s.text}) ${s.off > 0 ? "+" : "−"}${Math.abs(s.off).toFixed(3)}`,
                      )
                      .join(", or ")}
                  </span>
                )}
              </td>
              <td className="whitespace-nowrap text-right text-pencil">
                {r.version === version ? "" : `version ${r.version} · `}
                {r.by}, {new Date(r.at).toLocaleString("en-GB", { dateStyle: "medium", timeStyle: "short" })}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {!readings.length && <p className="text-[12.5px] text-pencil">Nothing weighed yet.</p>}
    </section>
  );
}
