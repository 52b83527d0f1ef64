import { type FormEvent, useState } from "react";
import { run } from "../document/commands";
import { editable, numberOf, showMessage, useBoard } from "../state/store";
import { MaterialSelect } from "../ui/MaterialSelect";
import { areaSaid, GRAMS_PER, grams, lengthSaid, volumeSaid } from "../ui/measures";
import { Labelled } from "../ui/ui";

/** How long a box is along X, Y and Z. */
const boxSaid = ([low, high]: number[][], unit: string) =>
  `${[0, 1, 2].map((i) => lengthSaid(high[i] - low[i], unit, 2).split(" ")[0]).join(" × ")} ${unit}`;

type MassUnit = "g" | "kg" | "oz" | "lb";

/** A mass in one of its units, as one would type it: to the last digit that matters. */
const weight = (inGrams: number, unit: MassUnit = "g") =>
  String(Number((inGrams / GRAMS_PER[unit]).toPrecision(12)));

/** The part's data: name, number, unit, material, target mass; and its figures. */
export function PartData() {
  const part = useBoard((s) => s.part)!;
  const mass = useBoard((s) => s.build?.mass);
  const message = useBoard((s) => s.message);
  const d = part.document;
  const current = () => ({
    name: d.name,
    number: d.number,
    revision: d.revision,
    description: d.description,
    unit: d.unit,
    mass_unit: d.mass_unit ?? "g",
    material: d.material,
    materials: d.materials ?? [],
    target: d.target_mass ? weight(d.target_mass.grams, d.mass_unit) : "",
    tolerance: d.target_mass ? weight(d.target_mass.tolerance ?? 0, d.mass_unit) : "",
    general_tolerance: d.general_tolerance ?? "",
    own: Object.entries(d.properties ?? {})
      .map(([key, value]) => `${key}: ${value}`)
      .join("\n"),
  });
  const [f, setF] = useState(current);
  const [known, setKnown] = useState(() => JSON.stringify(current()));
  if (known !== JSON.stringify(current())) {
    // changed meanwhile, here or by somebody else
    setKnown(JSON.stringify(current()));
    setF(current());
  }
  const set = (change: Partial<typeof f>) => setF({ ...f, ...change });
  const number = (text: string) => Number(text.replace(",", "."));
  async function store(event: FormEvent) {
    event.preventDefault();
    const { target, tolerance, own, ...changes } = f;
    const done = await run({
      do: "set_part",
      changes: {
        ...changes,
        properties: Object.fromEntries(
          own
            .split("\n")
            .filter((line) => line.trim())
            .map((line) => {
              const [key, ...value] = line.split(":");
              return [key.trim(), value.join(":").trim()];
            }),
        ),
        target_mass: target.trim()
          ? {
              grams: number(target) * GRAMS_PER[f.mass_unit],
              tolerance: number(tolerance || "0") * GRAMS_PER[f.mass_unit],
            }
          : null,
      },
    });
    if (done) showMessage("The part's data are kept.", "proof");
  }
  const bad = f.target.trim() !== "" && !(number(f.target) > 0);
  const may = editable();
  return (
    <>
      <form onSubmit={store}>
        <fieldset disabled={!may}>
          <div className="grid grid-cols-[1fr_118px_44px] gap-2">
            <Labelled label="Name">
              <input className="field" value={f.name} onChange={(e) => set({ name: e.target.value })} />
            </Labelled>
            <Labelled label="Number">
              <input
                className="field font-mono"
                value={f.number}
                onChange={(e) => set({ number: e.target.value })}
              />
            </Labelled>
            <Labelled label="Rev">
              <input
                className="field font-mono"
                value={f.revision}
                onChange={(e) => set({ revision: e.target.value })}
              />
            </Labelled>
          </div>
          <Labelled label="Description">
            <input
              className="field"
              value={f.description}
              onChange={(e) => set({ description: e.target.value })}
            />
          </Labelled>
          <div className="grid grid-cols-[1fr_64px_58px] gap-3">
            <div data-label="Material" className="mb-3">
              <span className="mb-1 block text-[12px] text-pencil">Material</span>
              <MaterialSelect
                label="Material"
                className="field"
                workspace={part.workspace}
                value={f.material ?? ""}
                own={f.materials}
                empty="not chosen yet"
                take={(name, own) =>
                  set({
                    material: name,
                    materials: own ? [...f.materials.filter((m) => m.name !== name), own] : f.materials,
                  })
                }
              />
            </div>
            <Labelled label="Unit">
              <select
                className="field"
                value={f.unit}
                onChange={(e) => set({ unit: e.target.value as "mm" | "in" })}
              >
                <option value="mm">mm</option>
                <option value="in">inch</option>
              </select>
            </Labelled>
            <Labelled label="Mass in">
              <select
                className="field"
                value={f.mass_unit}
                onChange={(e) => {
                  const to = e.target.value as MassUnit;
                  const turn = (text: string) =>
                    text.trim() && Number.isFinite(number(text))
                      ? weight(number(text) * GRAMS_PER[f.mass_unit], to)
                      : text;
                  set({ mass_unit: to, target: turn(f.target), tolerance: turn(f.tolerance) });
                }}
              >
                {Object.keys(GRAMS_PER).map((u) => (
                  <option key={u} value={u}>
                    {u}
                  </option>
                ))}
              </select>
            </Labelled>
          </div>
          <div className="grid grid-cols-2 gap-3">
            <Labelled label={`Target mass, ${f.mass_unit}`}>
              <input
                className="field font-mono"
                value={f.target}
                onChange={(e) => set({ target: e.target.value })}
              />
            </Labelled>
            <Labelled label={`Tolerance, ± ${f.mass_unit}`}>
              <input
                className="field font-mono"
                value={f.tolerance}
                onChange={(e) => set({ tolerance: e.target.value })}
              />
            </Labelled>
          </div>
          <Labelled label="General tolerance, for sizes without their own">
            <input
              className="field font-mono"
              placeholder="ISO 2768-m, or .XX ±.01 .XXX ±.005"
              value={f.general_tolerance}
              onChange={(e) => set({ general_tolerance: e.target.value })}
            />
          </Labelled>
          <Labelled label="Own properties, one a line (finish: anodised)">
            <textarea
              className="field h-[52px] py-1 font-mono text-[12.5px]"
              value={f.own}
              onChange={(e) => set({ own: e.target.value })}
            />
          </Labelled>
        </fieldset>
        {bad && <p className="mb-2 text-red">A target mass is a number above zero.</p>}
        {message?.tone === "red" && <p className="mb-2 text-red">{message.text}</p>}
        {may && (
          <button type="submit" className="btn btn-main" disabled={bad || !f.name.trim()}>
            Keep
          </button>
        )}
      </form>
      {mass && mass.volume > 0 && (
        <dl className="mt-4 grid grid-cols-[120px_1fr] gap-y-1 border-t border-hair pt-3 font-mono text-[12.5px]">
          <dt className="text-pencil">mass</dt>
          <dd>{grams(mass.mass, d.mass_unit)}</dd>
          <dt className="text-pencil">volume</dt>
          <dd>{volumeSaid(mass.volume, d.unit, 3)}</dd>
          <dt className="text-pencil">area</dt>
          <dd>{areaSaid(mass.area, d.unit)}</dd>
          <dt className="text-pencil">centre of mass</dt>
          <dd>
            {mass.centre.map((c) => lengthSaid(Math.abs(c) < 5e-4 ? 0 : c, d.unit).split(" ")[0]).join("  ")}{" "}
            {d.unit}
          </dd>
          {mass.box && (
            <>
              <dt className="text-pencil">box around it</dt>
              <dd>{boxSaid(mass.box, d.unit)}</dd>
            </>
          )}
        </dl>
      )}
      {mass && mass.bodies.length > 1 && (
        <table className="mt-3 w-full border-t border-hair font-mono text-[12.5px]" aria-label="Bodies">
          <thead>
            <tr className="text-left font-cond text-pencil">
              <th className="pt-2 font-normal">body</th>
              <th className="pt-2 text-right font-normal">volume</th>
              <th className="pt-2 text-right font-normal">mass</th>
            </tr>
          </thead>
          <tbody>
            {mass.bodies.map((b) => (
              <tr key={b.id} title={b.box ? `box ${boxSaid(b.box, d.unit)}` : undefined}>
                <td className="pr-2 font-sans">
                  {b.title || `of step ${numberOf(part, b.id.split("x")[0])}`}
                </td>
                <td className="text-right">{volumeSaid(b.volume, d.unit, 1)}</td>
                <td className="pl-2 text-right">{grams(b.mass, d.mass_unit)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </>
  );
}
