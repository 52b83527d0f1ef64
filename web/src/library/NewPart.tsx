/** A part made new, or as a copy of another. */
import { type FormEvent, useState } from "react";
import { useNavigate } from "react-router";
import { post, type Refused } from "../api/client";
import type { Card, OwnMaterial } from "../api/types";
import { MaterialSelect } from "../ui/MaterialSelect";
import { Labelled, Sheet } from "../ui/ui";

export function NewPart({
  open,
  onOpenChange,
  workspace,
}: {
  open: boolean;
  onOpenChange: (o: boolean) => void;
  workspace: number;
}) {
  const [fields, setFields] = useState({
    name: "",
    number: "",
    unit: "mm",
    material: "",
    own: null as OwnMaterial | null,
  });
  const [said, setSaid] = useState("");
  const navigate = useNavigate();
  const set = (change: Partial<typeof fields>) => setFields({ ...fields, ...change });
  async function make(event: FormEvent) {
    event.preventDefault();
    try {
      const made = await post<{ id: string }>("/api/parts", { workspace, ...fields });
      navigate(`/parts/${made.id}`);
    } catch (error) {
      setSaid((error as Refused).sentence);
    }
  }
  return (
    <Sheet title="New part" open={open} onOpenChange={onOpenChange}>
      <form onSubmit={make}>
        <Labelled label="Name">
          <input className="field" value={fields.name} onChange={(e) => set({ name: e.target.value })} />
        </Labelled>
        <Labelled label="Part number">
          <input
            className="field font-mono"
            value={fields.number}
            onChange={(e) => set({ number: e.target.value })}
          />
        </Labelled>
        <div className="grid grid-cols-[110px_1fr] gap-3">
          <Labelled label="Unit">
            <select className="field" value={fields.unit} onChange={(e) => set({ unit: e.target.value })}>
              <option value="mm">mm</option>
              <option value="in">inch</option>
            </select>
          </Labelled>
          <div>
            <span className="mb-1 block text-[12px] text-pencil">Material</span>
            <MaterialSelect
              label="Material"
              className="field"
              workspace={workspace}
              value={fields.own?.name ?? fields.material}
              own={fields.own ? [fields.own] : []}
              empty="not chosen yet"
              take={(name, own) => set({ material: own ? "" : name, own })}
            />
          </div>
        </div>
        {said && (
          <p role="alert" className="mb-3 text-red">
            {said}
          </p>
        )}
        <button type="submit" className="btn btn-main" disabled={!fields.name.trim()}>
          Make the part
        </button>
      </form>
    </Sheet>
  );
}

export function CopyPart({ card, onClose }: { card: Card; onClose: () => void }) {
  const [name, setName] = useState(`${card.name} copy`);
  const [empty, setEmpty] = useState(card.steps === 0);
  const [said, setSaid] = useState("");
  const navigate = useNavigate();
  async function make(event: FormEvent) {
    event.preventDefault();
    try {
      const made = await post<{ id: string }>(`/api/parts/${card.id}/copy`, { name, empty });
      navigate(`/parts/${made.id}`);
    } catch (error) {
      setSaid((error as Refused).sentence);
    }
  }
  return (
    <Sheet title={`Copy ${card.name}`} open onOpenChange={(o) => !o && onClose()}>
      <form onSubmit={make}>
        <Labelled label="Name of the copy">
          <input className="field" value={name} onChange={(e) => setName(e.target.value)} />
        </Labelled>
        <label className="mb-3 flex items-center gap-2">
          <input type="checkbox" checked={empty} onChange={(e) => setEmpty(e.target.checked)} />
          Sheet and callouts only, to be modelled from nothing
        </label>
        {said && (
          <p role="alert" className="mb-3 text-red">
            {said}
          </p>
        )}
        <button type="submit" className="btn btn-main" disabled={!name.trim()}>
          Copy
        </button>
      </form>
    </Sheet>
  );
}
