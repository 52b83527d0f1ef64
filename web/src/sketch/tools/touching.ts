/** A circle that touches three curves: press them one after the other, each near where it is to touch. */
import type { XY } from "../../api/types";
import { add, dist, mul, said } from "../../geometry/geometry";
import { type Trace, traces } from "../../geometry/snap";
import type { Snap } from "../../geometry/ties";
import { board, showMessage } from "../../state/store";
import type { Ghost } from "../../state/toolInHand";
import { Batch, entitiesNow, redraw, Tool } from "./tool";

export class TouchingCircleTool extends Tool {
  readonly id = "touching-circle";
  readonly label = "Circle touching three";
  readonly catches = false;
  private picked: { ref: string; at: XY }[] = [];

  hint() {
    const left = ["the first", "the second", "the third"][this.picked.length];
    const under = this.pointed();
    return under ? `press: ${left} to touch is ${said(under)}` : `press ${left} line, arc or circle to touch`;
  }

  private pointed(): string | null {
    const under = board().under;
    const free = under && /^[lcaxy]\d*$/.test(under) && !this.picked.some((p) => p.ref === under);
    return free ? under : null;
  }

  ghosts(): Ghost[] {
    const under = this.pointed();
    if (!this.snap) return [];
    const picks = under && this.picked.length === 2 ? [...this.picked, { ref: under, at: this.snap.at }] : [];
    const found = picks.length ? inscribed(picks) : null;
    return found ? [{ kind: "circle", ...found }] : [{ kind: "point", at: this.snap.at }];
  }

  click(s: Snap) {
    this.snap = s;
    const ref = this.pointed();
    if (!ref) return;
    this.picked.push({ ref, at: s.at });
    if (this.picked.length === 3) {
      const found = inscribed(this.picked);
      if (found) {
        const b = new Batch();
        const id = b.entity("c", { kind: "circle", ...found });
        for (const p of this.picked) b.tie("tangent", [id, p.ref]);
        b.store();
      } else
        showMessage(
          "No circle touches these three near there; press them nearer to where it should touch.",
          "red",
        );
      this.picked = [];
    }
    redraw();
  }

  back() {
    if (!this.picked.length) return false;
    this.picked.pop();
    redraw();
    return true;
  }
}

/** Newton's iteration from the middle of the presses: as far from each curve as its radius. */
function inscribed(picks: { ref: string; at: XY }[]): { c: XY; r: number } | null {
  const all = traces(entitiesNow());
  const curves = picks.map((p) => all.find((t) => t.ref === p.ref));
  if (curves.some((t) => !t)) return null;
  const three = curves as Trace[];
  let c = mul(
    picks.reduce((sum, p) => add(sum, p.at), [0, 0] as XY),
    1 / 3,
  );
  let r = picks.reduce((sum, p) => sum + dist(p.at, c), 0) / 3;
  const sides = three.map((t) => (t.off(c)[0] < 0 ? -1 : 1));
  for (let i = 0; i < 60; i++) {
    const rows = three.map((t, k) => {
      const [f, g] = t.off(c);
      return [g[0], g[1], -sides[k], f - sides[k] * r];
    });
    const [a, b, d] = rows;
    const det = (x: number, y: number, z: number) =>
      a[x] * (b[y] * d[z] - b[z] * d[y]) -
      a[y] * (b[x] * d[z] - b[z] * d[x]) +
      a[z] * (b[x] * d[y] - b[y] * d[x]);
    const whole = det(0, 1, 2);
    if (Math.abs(whole) < 1e-9) return null;
    const step = [det(3, 1, 2) / whole, det(0, 3, 2) / whole, det(0, 1, 3) / whole];
    c = [c[0] - step[0], c[1] - step[1]];
    r -= step[2];
    if (Math.hypot(...step) < 1e-12 * (1 + Math.abs(r))) return r > 1e-6 ? { c, r } : null;
  }
  return null;
}
