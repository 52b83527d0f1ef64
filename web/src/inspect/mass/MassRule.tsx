/** The beam of a steelyard: what the part weighs as modelled, what its limits allow, the target, what the scale read. */
import type { MassBand, Part, Weighing } from "../../api/types";
import { GRAMS_PER, grams } from "../../ui/measures";
import { ruled, type Units } from "./massWords";

interface Props {
  band: MassBand;
  target: Part["document"]["target_mass"];
  readings: Weighing[];
  extremes: [number, number] | null;
  units: Units;
}

const WIDE = 720;
const BEAM = 62;

export function MassRule({ band, target, readings, extremes, units }: Props) {
  const per = GRAMS_PER[units.mass];
  const goal = target ? [target.grams - (target.tolerance ?? 0), target.grams + (target.tolerance ?? 0)] : [];
  const rule = ruled([band.least, band.most, ...goal, ...readings.map((r) => r.grams)].map((v) => v / per));
  const x = (g: number) => 8 + ((g / per - rule.low) / (rule.high - rule.low)) * (WIDE - 16);
  const places = Math.max(0, Math.min(6, -Math.floor(Math.log10(rule.step))));
  const said =
    `As modelled ${grams(band.now, units.mass)}; the limits allow ${grams(band.least, units.mass)} to ${grams(band.most, units.mass)}` +
    (target
      ? `; target ${grams(target.grams, units.mass)} ± ${grams(target.tolerance ?? 0, units.mass)}.`
      : ".");
  return (
    <svg viewBox={`0 0 ${WIDE} 104`} className="block w-full" role="img" aria-label={said}>
      {goal.length > 0 && (
        <>
          <rect
            x={x(goal[0])}
            y={BEAM - 30}
            width={Math.max(2, x(goal[1]) - x(goal[0]))}
            height={30}
            className="fill-proofwash"
          />
          <text
            x={(x(goal[0]) + x(goal[1])) / 2}
            y={BEAM - 34}
            textAnchor="middle"
            className="fill-proof font-cond text-[11px]"
          >
            target
          </text>
        </>
      )}
      <path d={`M4 ${BEAM}H${WIDE - 4}`} className="stroke-ink" strokeWidth={1.6} />
      {rule.marks.map((m) => (
        <g key={m}>
          <path d={`M${x(m * per)} ${BEAM}v6`} className="stroke-ink" />
          <text
            x={x(m * per)}
            y={BEAM + 18}
            textAnchor="middle"
            className="fill-pencil font-mono text-[11px]"
          >
            {m.toFixed(places)}
          </text>
        </g>
      ))}
      <text x={WIDE - 4} y={BEAM + 32} textAnchor="end" className="fill-pencil font-cond text-[11px]">
        {units.mass}
      </text>
      <path
        d={`M${x(band.least)} ${BEAM - 12}v8M${x(band.least)} ${BEAM - 8}H${x(band.most)}M${x(band.most)} ${BEAM - 12}v8`}
        className="stroke-ink"
        fill="none"
      />
      <path
        d={`M${x(band.likely_least)} ${BEAM - 8}H${x(band.likely_most)}`}
        className="stroke-ink"
        strokeWidth={4}
      />
      {extremes?.map((g) => (
        <path key={g} d={`M${x(g)} ${BEAM - 4}l-4 -8h8z`} className="fill-ochre" />
      ))}
      {/* the poise hangs where the part weighs as modelled */}
      <path
        d={`M${x(band.now)} ${BEAM}v9M${x(band.now) - 6} ${BEAM + 9}h12l2 9h-16z`}
        className="fill-red stroke-red"
      />
      {readings.map((r) => (
        <circle
          key={r.id}
          cx={x(r.grams)}
          cy={BEAM - 18}
          r={3.2}
          className={r.inside ? "fill-panel stroke-ink" : "fill-red stroke-red"}
        />
      ))}
    </svg>
  );
}
