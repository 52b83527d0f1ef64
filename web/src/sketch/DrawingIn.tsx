/** A drawing from outside (DXF, SVG) read, looked at by layers, and put into the open sketch. */
import { useRef, useState } from "react";
import { post, type Refused, upload } from "../api/client";
import type { components } from "../api/schema.gen";
import type { Part } from "../api/types";
import { fit } from "../camera/viewControl";
import { applyPart, inTurn } from "../document/commands";
import { board, showMessage, useBoard } from "../state/store";
import { Labelled } from "../ui/ui";

type Drawing = components["schemas"]["DrawingOut"];
type Chosen = components["schemas"]["Chosen"];

const UNITS = { mm: "mm", cm: "cm", m: "m", in: "inch", ft: "foot" } as const;
const PLACES = {
  "as drawn": "where it is drawn",
  corner: "lower left corner on the origin",
  centre: "middle on the origin",
} as const;

export function DrawingIn() {
  const part = useBoard((s) => s.part)!;
  const sketch = useBoard((s) => s.sketch);
  const input = useRef<HTMLInputElement>(null);
  const [busy, setBusy] = useState("");
  const [trouble, setTrouble] = useState("");
  const [drawing, setDrawing] = useState<Drawing | null>(null);
  const [name, setName] = useState("");
  async function read(file: File) {
    setBusy(`Reading ${file.name} …`);
    setTrouble("");
    setDrawing(null);
    try {
      setDrawing(await upload<Drawing>(`/api/parts/${part.id}/drawings`, { file }));
      setName(file.name);
    } catch (error) {
      setTrouble((error as Refused).sentence);
    } finally {
      setBusy("");
    }
  }
  if (!sketch) return <p className="text-pencil">Open the sketch that the drawing should go into.</p>;
  return (
    <>
      <p className="mb-2 text-pencil">
        Lines, arcs and circles of a DXF or SVG file become sketch geometry. Nothing is closed or moved: the
        profile check tells what to mend.
      </p>
      <input
        ref={input}
        type="file"
        accept=".dxf,.svg"
        className="sr-only"
        aria-label="DXF or SVG file"
        onChange={(e) => {
          const file = e.target.files?.[0];
          e.target.value = "";
          if (file) read(file);
        }}
      />
      <button type="button" className="btn" disabled={busy !== ""} onClick={() => input.current?.click()}>
        {drawing ? "Another file" : "Choose the file"}
      </button>
      {busy && (
        <p role="status" className="mt-2 text-pencil">
          {busy}
        </p>
      )}
      {trouble && (
        <p role="alert" className="mt-2 border border-red bg-redwash p-2 text-red">
          {trouble}
        </p>
      )}
      {drawing && <Choosing key={drawing.sha256} drawing={drawing} name={name} sketch={sketch} />}
    </>
  );
}

function Choosing({ drawing, name, sketch }: { drawing: Drawing; name: string; sketch: string }) {
  const part = useBoard((s) => s.part)!;
  const [layers, setLayers] = useState(drawing.layers.filter((l) => l.shown).map((l) => l.name));
  const [unit, setUnit] = useState<keyof typeof UNITS>(drawing.unit ?? part.document.unit);
  const [place, setPlace] = useState<keyof typeof PLACES>("as drawn");
  const [dashed, setDashed] = useState(true);
  const [callouts, setCallouts] = useState(drawing.sizes.length > 0);
  const [busy, setBusy] = useState(false);
  const count = drawing.layers.reduce((n, l) => n + (layers.includes(l.name) ? l.count : 0), 0);
  const [w, h] = [drawing.box[2], drawing.box[3]];
  async function put() {
    setBusy(true);
    const chosen: Chosen = { layers, unit, place, dashed, scale: 1 };
    await inTurn(async () => {
      try {
        const after = await post<Part>(`/api/parts/${part.id}/sketches/${sketch}/drawing`, {
          version: board().part!.version,
          sha256: drawing.sha256,
          chosen,
          callouts,
        });
        applyPart(after);
        useBoard.setState({ leaf: null, checking: true, tolerance: null });
        showMessage(after.said?.join(" ") ?? "", "proof");
        fit();
      } catch (error) {
        showMessage((error as Refused).sentence, "red");
      }
    });
    setBusy(false);
  }
  return (
    <section aria-label="What to take">
      <p className="mt-3 font-medium">{name}</p>
      <Picture drawing={drawing} layers={layers} />
      <p className="font-mono text-[12.5px] text-pencil">
        {short(w)} × {short(h)} {drawing.unit ?? "units"}
      </p>
      <fieldset className="my-2">
        <legend className="head text-[11.5px]">Layers</legend>
        {drawing.layers.map((l) => (
          <label key={l.name} className="flex items-baseline gap-2">
            <input
              type="checkbox"
              checked={layers.includes(l.name)}
              onChange={(e) =>
                setLayers(e.target.checked ? [...layers, l.name] : layers.filter((n) => n !== l.name))
              }
            />
            <span className="min-w-0 grow truncate">{l.name}</span>
            <span className="font-mono text-[12.5px] text-pencil">{l.count}</span>
          </label>
        ))}
      </fieldset>
      <div className="grid grid-cols-[100px_1fr] gap-2">
        <Labelled label={drawing.unit ? "Unit" : "Unit (the file tells none)"}>
          <select
            className="field"
            value={unit}
            onChange={(e) => setUnit(e.target.value as keyof typeof UNITS)}
          >
            {Object.entries(UNITS).map(([key, words]) => (
              <option key={key} value={key}>
                {words}
              </option>
            ))}
          </select>
        </Labelled>
        <Labelled label="Put it">
          <select
            className="field"
            value={place}
            onChange={(e) => setPlace(e.target.value as keyof typeof PLACES)}
          >
            {Object.entries(PLACES).map(([key, words]) => (
              <option key={key} value={key}>
                {words}
              </option>
            ))}
          </select>
        </Labelled>
      </div>
      <label className="flex items-baseline gap-2">
        <input type="checkbox" checked={dashed} onChange={(e) => setDashed(e.target.checked)} />
        centre and hidden lines as construction lines
      </label>
      {drawing.sizes.length > 0 && (
        <label className="flex items-baseline gap-2" title={drawing.sizes.join(", ")}>
          <input type="checkbox" checked={callouts} onChange={(e) => setCallouts(e.target.checked)} />
          its {drawing.sizes.length} sizes as callouts
        </label>
      )}
      <Told drawing={drawing} />
      <button type="button" className="btn btn-main mt-2" disabled={busy || !count} onClick={put}>
        {busy ? "Putting it in …" : `Put ${count} into the sketch`}
      </button>
    </section>
  );
}

const short = (v: number) => Number(v.toPrecision(6));

function Picture({ drawing, layers }: { drawing: Drawing; layers: string[] }) {
  const [x, y, w, h] = drawing.box;
  const pad = 0.04 * Math.max(w, h, 1e-6);
  return (
    <svg
      viewBox={`${x - pad} ${y - pad} ${w + 2 * pad} ${h + 2 * pad}`}
      className="my-1 h-[170px] w-full border border-hair bg-white"
      role="img"
      aria-label="The drawing"
    >
      {Object.entries(drawing.outlines).map(([layer, path]) => (
        <path
          key={layer}
          d={path}
          fill="none"
          className={layers.includes(layer) ? "stroke-ink" : "stroke-hair"}
          strokeWidth="1"
          vectorEffect="non-scaling-stroke"
        />
      ))}
    </svg>
  );
}

/** What was not taken, and what was taken differently. */
function Told({ drawing }: { drawing: Drawing }) {
  const left = Object.entries(drawing.left_out).map(([kind, n]) => `${n} ${kind}`);
  return (
    <div className="mt-2 text-[12.5px] text-pencil">
      {left.length > 0 && <p>Left out: {left.join(", ")}.</p>}
      {drawing.far && (
        <p>
          It lies far from its origin, at {short(drawing.far[0])}, {short(drawing.far[1])}; it comes in beside
          it.
        </p>
      )}
      {drawing.short > 0 && <p>{drawing.short} without length left out.</p>}
      {drawing.fitted > 0 && <p>{drawing.fitted} ellipses or free curves taken as runs of arcs.</p>}
      {drawing.notes.length > 0 && <p>Notes on it: {drawing.notes.slice(0, 6).join(" · ")}</p>}
    </div>
  );
}
