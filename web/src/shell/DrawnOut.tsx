/** A view, a section or the chosen face as a drawing file: what, from where, with hidden lines or without. */
import { useState } from "react";
import { useBoard } from "../state/store";
import { Labelled, Sheet } from "../ui/ui";

interface Props {
  open: boolean;
  onOpenChange: (open: boolean) => void;
  fetchFile: (path: string) => Promise<void>;
}

type What = "view" | "section" | "face";

const SIDES = [
  ["front", "the front", "y"],
  ["top", "above", "z"],
  ["right", "the right", "x"],
  ["left", "the left", "x"],
  ["under", "under", "z"],
  ["back", "behind", "y"],
] as const;

export function DrawnOut({ open, onOpenChange, fetchFile }: Props) {
  const unit = useBoard((s) => s.part!.document.unit ?? "mm");
  const picks = useBoard((s) => s.picks);
  const bodies = useBoard((s) => s.build?.bodies);
  const face = picks.length === 1 && picks[0].kind === "face" ? picks[0] : null;
  const [wanted, setWhat] = useState<What | null>(null);
  const what = wanted ?? (face ? "face" : "view");
  const [side, setSide] = useState("front");
  const [hidden, setHidden] = useState(true);
  const [at, setAt] = useState("0");
  const axis = SIDES.find(([name]) => name === side)![2];
  const place = Number(at.trim().replace(",", "."));
  const bad = what === "section" && (!at.trim() || !Number.isFinite(place));
  const noFace = what === "face" && !face;
  async function write(form: "dxf" | "svg") {
    onOpenChange(false);
    const asked: Record<string, string> =
      what === "face"
        ? { body: bodies?.[face!.body]?.id ?? "", face: String(face!.face) }
        : what === "view"
          ? { side, hidden: String(hidden) }
          : { side, at: String(unit === "in" ? place * 25.4 : place) };
    await fetchFile(`drawn/${what}.${form}?${new URLSearchParams(asked)}`);
  }
  return (
    <Sheet title="A drawing file, 1 : 1" open={open} onOpenChange={onOpenChange}>
      <fieldset className="mb-3 flex gap-4" aria-label="What is drawn">
        {(["view", "section", "face"] as const).map((w) => (
          <label key={w}>
            <input type="radio" name="drawn" checked={what === w} onChange={() => setWhat(w)} />{" "}
            {w === "face" ? "the chosen face" : `a ${w}`}
          </label>
        ))}
      </fieldset>
      {what !== "face" && (
        <Labelled label="Seen from">
          <select className="field" value={side} onChange={(e) => setSide(e.target.value)}>
            {SIDES.map(([name, words]) => (
              <option key={name} value={name}>
                {words}
              </option>
            ))}
          </select>
        </Labelled>
      )}
      {what === "view" && (
        <label className="mb-3 block">
          <input type="checkbox" checked={hidden} onChange={(e) => setHidden(e.target.checked)} /> with hidden
          lines
        </label>
      )}
      {what === "section" && (
        <Labelled label={`Cut at ${axis}, ${unit}`}>
          <input className="field font-mono" value={at} onChange={(e) => setAt(e.target.value)} />
        </Labelled>
      )}
      {noFace && <p className="mb-3 text-pencil">Choose one flat face on the board first.</p>}
      {bad && <p className="mb-3 text-red">Type where the plane cuts, as a number.</p>}
      <div className="flex gap-2">
        <button type="button" className="btn btn-main" disabled={bad || noFace} onClick={() => write("dxf")}>
          DXF
        </button>
        <button type="button" className="btn" disabled={bad || noFace} onClick={() => write("svg")}>
          SVG
        </button>
      </div>
    </Sheet>
  );
}
