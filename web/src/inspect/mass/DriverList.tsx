/** What drives the mass: sizes ranked by what they bring, as bars to either side; one is chosen to be seen changed. */
import type { Driver, Drivers } from "../../api/types";
import { barOf, sizeSaid, slopeSaid, type Units } from "./massWords";

interface Props {
  found: Drivers;
  units: Units;
  chosen: string | null;
  onChoose: (key: string | null) => void;
  free: Set<string>; // sizes that may change
  onFree: (key: string) => void;
}

const HEADS = { length: "Lengths", angle: "Angles", number: "Counts" } as const;

export function DriverList({ found, units, chosen, onChoose, free, onFree }: Props) {
  const kinds = (["length", "angle", "number"] as const).filter((k) =>
    found.rows.some((r) => r.size.kind === k),
  );
  return (
    <div className="grid gap-2">
      {kinds.map((kind) => {
        const rows = found.rows.filter((r) => r.size.kind === kind);
        const most = Math.max(...rows.map((r) => Math.abs(r.slope)));
        return (
          <table key={kind} aria-label={HEADS[kind]} className="w-full border-collapse text-[13px]">
            <thead>
              <tr className="border-b border-ink text-left font-cond text-[12px] text-pencil">
                <th className="w-6 py-0.5 font-normal" title="may change to meet a mass">
                  free
                </th>
                <th className="font-normal">{HEADS[kind]}</th>
                <th className="w-24 text-right font-normal">now</th>
                <th className="w-36 px-3 text-center font-normal">− brings +</th>
                <th className="w-40 font-normal">per unit</th>
              </tr>
            </thead>
            <tbody>
              {rows.map((r) => (
                <Row
                  key={r.size.key}
                  row={r}
                  most={most}
                  units={units}
                  weighed={found.weighed}
                  chosen={chosen === r.size.key}
                  free={free.has(r.size.key)}
                  onChoose={() => onChoose(chosen === r.size.key ? null : r.size.key)}
                  onFree={() => onFree(r.size.key)}
                />
              ))}
            </tbody>
          </table>
        );
      })}
      {!found.rows.length && <p className="text-pencil">No size of this part changes its mass by itself.</p>}
    </div>
  );
}

function Row({
  row: r,
  most,
  units,
  weighed,
  chosen,
  free,
  onChoose,
  onFree,
}: {
  row: Driver;
  most: number;
  units: Units;
  weighed: boolean;
  chosen: boolean;
  free: boolean;
  onChoose: () => void;
  onFree: () => void;
}) {
  const { kind } = r.size;
  const bar = barOf(r.slope, most);
  const figure = (slope: number) => slopeSaid(slope, kind, units, weighed);
  return (
    <tr className={`border-b border-hair align-baseline ${chosen ? "bg-redwash" : ""}`}>
      <td>
        {kind !== "number" && r.state !== "breaks" && (
          <input type="checkbox" aria-label={`${r.size.what} may change`} checked={free} onChange={onFree} />
        )}
      </td>
      <td>
        <button
          type="button"
          aria-pressed={chosen}
          className="text-left hover:underline"
          onClick={onChoose}
          disabled={r.state === "breaks"}
        >
          {r.size.what}
        </button>
        {r.said && <span className="block text-[12px] text-ochre">{r.said}</span>}
      </td>
      <td className="whitespace-nowrap text-right font-mono text-[12.5px]">
        {sizeSaid(r.size.value, kind, units)}
      </td>
      <td className="px-3">
        <svg viewBox="-50 0 100 10" className="h-2.5 w-full" aria-hidden="true" preserveAspectRatio="none">
          <rect
            x={Math.min(0, bar * 50)}
            y={2}
            width={Math.abs(bar * 50)}
            height={6}
            className={bar < 0 ? "fill-red" : "fill-proof"}
          />
          <path d="M0 0V10" className="stroke-ink" vectorEffect="non-scaling-stroke" />
        </svg>
      </td>
      <td className="whitespace-nowrap font-mono text-[12.5px]">
        {r.state === "breaks" ? (
          <span className="text-red">breaks either way</span>
        ) : r.state === "kink" ? (
          <>
            {figure(r.more ?? 0)}
            <span className="block text-pencil">{figure(r.less ?? 0)} downwards</span>
          </>
        ) : (
          figure(r.slope)
        )}
      </td>
    </tr>
  );
}
