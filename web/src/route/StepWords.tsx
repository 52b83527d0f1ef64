/** The designer's own words for a step: its name, a note, and the group it stands in. */
import { useState } from "react";
import type { Step } from "../api/types";
import { run } from "../document/commands";
import { numberOf, steps, useBoard } from "../state/store";

export function StepWords({ step }: { step: Step }) {
  const [open, setOpen] = useState<"name" | "note" | "group" | null>(null);
  const close = () => setOpen(null);
  if (open === "name") return <Name step={step} close={close} />;
  if (open === "note") return <Note step={step} close={close} />;
  if (open === "group") return <Group step={step} close={close} />;
  return (
    <>
      {(["name", "note", "group"] as const).map((what) => (
        <button key={what} type="button" className="btn" onClick={() => setOpen(what)}>
          {what[0].toUpperCase() + what.slice(1)}
        </button>
      ))}
    </>
  );
}

interface Props {
  step: Step;
  close: () => void;
}

function Name({ step, close }: Props) {
  const [text, setText] = useState(step.name ?? "");
  return (
    <input
      className="field w-[140px]"
      aria-label="Name of the step"
      autoFocus
      value={text}
      onChange={(e) => setText(e.target.value)}
      onBlur={close}
      onKeyDown={(e) => {
        if (e.key === "Enter") run({ do: "set_step", step: step.id, changes: { name: text } }).then(close);
        if (e.key === "Escape") close();
        e.stopPropagation();
      }}
    />
  );
}

function Note({ step, close }: Props) {
  const [text, setText] = useState(step.note ?? "");
  const keep = () => run({ do: "set_step", step: step.id, changes: { note: text.trim() } }).then(close);
  return (
    <div className="w-full">
      <textarea
        className="field w-full"
        aria-label="Note on the step"
        rows={3}
        maxLength={2000}
        autoFocus
        value={text}
        onChange={(e) => setText(e.target.value)}
        onKeyDown={(e) => {
          if (e.key === "Escape") close();
          if (e.key === "Enter" && (e.ctrlKey || e.metaKey)) keep();
          e.stopPropagation();
        }}
      />
      <Buttons keep={keep} close={close} />
    </div>
  );
}

/** From this step on to another, under one heading. */
function Group({ step, close }: Props) {
  const part = useBoard((s) => s.part)!;
  const list = steps(part);
  const onward = list.slice(list.findIndex((s) => s.id === step.id));
  const [name, setName] = useState(step.group ?? "");
  const [last, setLast] = useState(onward[Math.min(1, onward.length - 1)].id);
  const keep = () => run({ do: "group_steps", first: step.id, last, name }).then((done) => done && close());
  return (
    <form
      className="w-full"
      onSubmit={(e) => {
        e.preventDefault();
        keep();
      }}
    >
      <label className="mr-2">
        Group{" "}
        <input
          className="field w-[130px]"
          aria-label="Name of the group"
          autoFocus
          value={name}
          maxLength={120}
          onChange={(e) => setName(e.target.value)}
          onKeyDown={(e) => {
            if (e.key === "Escape") close();
            e.stopPropagation();
          }}
        />
      </label>
      <label>
        from {numberOf(part, step.id)} to{" "}
        <select
          className="slot"
          aria-label="Last step of the group"
          value={last}
          onChange={(e) => setLast(e.target.value)}
        >
          {onward.map((s) => (
            <option key={s.id} value={s.id}>
              {numberOf(part, s.id)} {s.name}
            </option>
          ))}
        </select>
      </label>
      <Buttons keep={keep} close={close} />
    </form>
  );
}

function Buttons({ keep, close }: { keep: () => void; close: () => void }) {
  return (
    <div className="mt-1 flex gap-2">
      <button type="button" className="btn btn-main" onClick={keep}>
        Keep
      </button>
      <button type="button" className="btn" onClick={close}>
        Drop
      </button>
    </div>
  );
}
