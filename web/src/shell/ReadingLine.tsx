/** What is under the pointer in words, what the next press will do, coordinates and unit. */
import { said } from "../geometry/geometry";
import { kindOf } from "../state/catalogue";
import { sketchOf, sketchStep, stepOf, useBoard } from "../state/store";
import { areaSaid, lengthSaid, radiusSaid } from "../ui/measures";

export function ReadingLine() {
  const s = useBoard();
  useBoard((x) => x.tick);
  const unit = s.part!.document.unit;
  return (
    <div className="flex h-[26px] shrink-0 items-center gap-4 border-t border-hair bg-panel px-4 font-cond text-[12.5px]">
      <span className="min-w-0 grow truncate" data-testid="reading">
        {words()}
      </span>
      <span className="whitespace-nowrap font-mono text-[12.5px]">{coordinates()}</span>
      <span className="font-mono text-[12.5px] font-medium">{unit}</span>
    </div>
  );

  /** How many things lie under the pointer, where there is a choice. */
  function choice(count: number): string {
    return count > 1 ? ` · ${s.stepped + 1} of ${count} here, Tab steps on` : "";
  }

  function sizeSaid(id: string): string {
    const d = (sketchOf(sketchStep(s)).dimensions ?? []).find((x) => x.id === id);
    return d ? `size ${d.name ? `${d.name} = ` : ""}${d.expr} of ${d.refs.map(said).join(" and ")}` : "size";
  }

  function words(): string {
    if (s.tool) {
      const typed = s.tool.standsAnywhere && !s.tool.typed.length ? " · or type X, Tab, Y" : "";
      return `${s.tool.label}: ${s.tool.hint()}${typed}`;
    }
    if (s.sketch) {
      const state = s.part!.sketches[s.sketch];
      if (s.under && /^d\d+$/.test(s.under))
        return `Pointing at: ${sizeSaid(s.under)}: drag it elsewhere, press twice to change it${choice(s.sketchUnder.length)}`;
      if (s.under) {
        const loose = state?.loose.includes(s.under.split(".")[0]);
        return `Pointing at: ${said(s.under)}${loose ? " · can still move, drag it" : ""}${choice(s.sketchUnder.length)}`;
      }
      const drawn = (sketchOf(sketchStep(s)).entities ?? []).length;
      const how = drawn ? (state?.said ?? "") : "nothing drawn yet";
      return `${how} · press things to choose them, / searches all actions`;
    }
    if (s.guide) return `Pointing at: ${s.guide.toLowerCase()}`;
    const body = s.hover ? s.scene?.bodies()[s.hover.body] : undefined;
    if (s.hover && body) {
      if (s.hover.kind === "face") {
        const f = body.faces[s.hover.face];
        const step = stepOf(s.part, f.origins[0]?.split("/")[0] ?? "");
        return `Pointing at: ${f.said}${step?.name ? ` (${step.name})` : ""} · ${radiusSaid(f.measure, unit)} · ${areaSaid(f.area, unit, 2)}${choice(s.solidUnder.length)}`;
      }
      if (s.hover.kind === "corner") return `Pointing at: corner${choice(s.solidUnder.length)}`;
      const e = body.edges[s.hover.edge];
      const between = e.faces.map((i) => body.faces[i].said);
      const round = e.radius ? radiusSaid(` · R${e.radius.toFixed(3)}`, unit) : "";
      return `Pointing at: edge between ${between.join(" and ")} · ${lengthSaid(e.length, unit)} long${round}${choice(s.solidUnder.length)}`;
    }
    if (s.draft) {
      const flat = kindOf(s.draft.step).source === "regions";
      return `Type over the values; Enter keeps the step, Shift Enter goes on to another, Esc drops it.${flat ? " Press a region to take it in or leave it out." : ""}`;
    }
    return "Right drag turns · middle drag or Space moves · wheel zooms · ? shows all keys";
  }

  function coordinates(): string {
    if (s.sketch && s.pointer) {
      const k = unit === "in" ? 25.4 : 1;
      const at = s.tool?.snap?.at ?? s.pointer;
      const places = unit === "in" ? 3 : 2;
      return `X ${(at[0] / k).toFixed(places)}  Y ${(at[1] / k).toFixed(places)}`;
    }
    if (s.hover) {
      const { x, y, z } = s.hover.at;
      const [k, places] = unit === "in" ? [25.4, 3] : [1, 1];
      const [a, b, c] = [x, y, z].map((v) => (Math.abs(v) < 0.05 ? 0 : v / k).toFixed(places));
      return `X ${a}  Y ${b}  Z ${c}`;
    }
    return "";
  }
}
