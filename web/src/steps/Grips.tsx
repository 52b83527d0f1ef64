/** Values of the step that is worked on, taken hold of on the part and pulled: depths, radii, distances. */
import type { XY, XYZ } from "../api/types";
import { useView } from "../camera/EachView";
import { look } from "../state/catalogue";
import { editable, useBoard } from "../state/store";
import { toScreen, type ViewState } from "../view/camera";
import { handleListeners, pullTo } from "./handle";
import { type Grip, useTold } from "./stepReport";

const RED = "#B83720";
const FINEST = 3; // px from one value to the next
const SHORT = 0.12; // of the way: looked at along it, there is nothing to pull

export function Grips() {
  const found = useTold();
  const draft = useBoard((s) => s.draft);
  if (!found?.told.grips || !draft || !editable()) return null;
  return (
    <g role="group" aria-label="Values on the part">
      {found.told.grips.map((g) => (
        <Held key={g.path} grip={g} />
      ))}
    </g>
  );
}

/** Where a grip's line begins on the screen, and what one mm of its value is there. */
function seen(view: ViewState, grip: Grip): { from: XY; per: XY; size: number } {
  const from = toScreen(view, grip.at);
  const one = toScreen(view, grip.at.map((v, i) => v + grip.way[i]) as XYZ);
  const per: XY = [one[0] - from[0], one[1] - from[1]];
  return { from, per, size: Math.hypot(...per) };
}

/** The finest of 1, 2, 5, 10 … that can still be told apart by hand. */
function stepOf(pixels: number): number {
  const least = FINEST / pixels;
  const decade = 10 ** Math.floor(Math.log10(least));
  return [1, 2, 5, 10].map((k) => k * decade).find((s) => s >= least * (1 - 1e-9)) ?? least;
}

const plain = (value: number) => String(Number(value.toPrecision(9)));

function Held({ grip }: { grip: Grip }) {
  const view = useView();
  const draft = useBoard((s) => s.draft)!;
  const unit = useBoard((s) => s.part!.document.unit);
  const k = unit === "in" ? 25.4 : 1;
  const { from, per, size } = seen(view, grip);
  if (size < SHORT * Math.hypot(...grip.way) * view.scale) return null;
  const typed = Number(look(draft.step, grip.path));
  const value = typed > 0 ? typed * k : grip.value;
  const tip: XY = [from[0] + per[0] * value, from[1] + per[1] * value];
  const said = `${plain(value / k)} ${unit}`;
  const step = stepOf(size * k);
  const set = (mm: number) => {
    pullTo(grip.path, plain(Math.max(step, Math.round(mm / k / step) * step)));
  };
  const move = (e: React.PointerEvent<SVGElement>) => {
    if (!e.currentTarget.hasPointerCapture(e.pointerId)) return;
    const box = e.currentTarget.ownerSVGElement!.getBoundingClientRect();
    const at: XY = [e.clientX - box.left - from[0], e.clientY - box.top - from[1]];
    set((at[0] * per[0] + at[1] * per[1]) / size ** 2);
  };
  return (
    <g>
      <path
        d={`M${from}L${tip}`}
        stroke={RED}
        strokeWidth="1"
        strokeDasharray="12 3 2 3"
        pointerEvents="none"
      />
      <rect
        role="slider"
        tabIndex={0}
        aria-label={`${grip.name} on the part`}
        aria-valuenow={Number(plain(value / k))}
        aria-valuemin={0}
        aria-valuetext={said}
        x={tip[0] - 5}
        y={tip[1] - 5}
        width="10"
        height="10"
        transform={`rotate(45 ${tip[0]} ${tip[1]})`}
        fill="#F4F1E8"
        stroke={RED}
        strokeWidth="2"
        pointerEvents="auto"
        style={{ cursor: "grab" }}
        onPointerMove={move}
        {...handleListeners(`${grip.name}, ${said}: drag it`, (steps) => set(value + steps * step * k))}
      />
    </g>
  );
}
