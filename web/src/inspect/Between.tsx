/** Two places that were pressed on what is painted, and how far apart they are. */
import type { XY, XYZ } from "../api/types";
import { lengthSaid } from "../ui/measures";
import { toScreen, type ViewState } from "../view/camera";

interface Props {
  view: ViewState;
  places: XYZ[];
  unit: string;
}

export function Between({ view, places, unit }: Props) {
  const at = places.map((p) => toScreen(view, p)) as XY[];
  const plain = (v: number) => lengthSaid(v, unit).replace(` ${unit}`, "");
  const [a, b] = places;
  const apart = b ? a.map((v, k) => b[k] - v) : null;
  const words = apart
    ? `${lengthSaid(Math.hypot(...apart), unit)} apart  ·  X ${plain(apart[0])}  Y ${plain(apart[1])}  Z ${plain(apart[2])}`
    : a
      ? `X ${plain(a[0])}  Y ${plain(a[1])}  Z ${plain(a[2])} ${unit}  ·  press another place`
      : "";
  return (
    <>
      <svg className="pointer-events-none absolute inset-0 h-full w-full" aria-hidden="true">
        {at.length === 2 && <path d={`M${at[0]}L${at[1]}`} className="stroke-ink" strokeWidth="1.2" />}
        {at.map(([x, y]) => (
          <path
            key={`${x} ${y}`}
            d={`M${x - 6} ${y}H${x + 6}M${x} ${y - 6}V${y + 6}`}
            className="stroke-ink"
            strokeWidth="1.4"
          />
        ))}
      </svg>
      {words && (
        <output
          aria-label="Measured between places"
          className="pointer-events-none absolute left-2 top-2 whitespace-pre border border-hair bg-panel px-2 py-0.5 font-mono text-[12px]"
        >
          {words}
        </output>
      )}
    </>
  );
}
