import { useEffect, useState } from "react";
import type { BodyStep } from "../api/types";
import { run } from "../document/commands";
import { type CommandDraft, editable, useBoard } from "../state/store";
import { MaterialSelect } from "../ui/MaterialSelect";

/** A body's name, colour and material, as slots. */
export function BodySlots({ step }: { step: BodyStep }) {
  const part = useBoard((s) => s.part)!;
  const [title, setTitle] = useState(step.title);
  useEffect(() => setTitle(step.title), [step.title]);
  const set = (changes: Record<string, unknown>) => run({ do: "set_step", step: step.id, changes });
  return (
    <fieldset disabled={!editable()} className="leading-[2.1]">
      named{" "}
      <input
        className="slot w-[130px]"
        aria-label="Name of the body"
        value={title}
        onChange={(e) => setTitle(e.target.value)}
        onBlur={() => title !== step.title && set({ title })}
        onKeyDown={(e) => {
          if (e.key === "Enter") e.currentTarget.blur();
          e.stopPropagation();
        }}
      />{" "}
      in{" "}
      <input
        type="color"
        aria-label="Colour of the body"
        className="h-6 w-9 align-middle"
        value={step.colour ?? "#c4bbaa"}
        onChange={(e) => set({ colour: e.target.value })}
      />{" "}
      of{" "}
      <MaterialSelect
        label="Material of the body"
        className="slot max-w-[190px]"
        workspace={part.workspace}
        value={step.material ?? ""}
        own={part.document.materials ?? []}
        empty="the part's material"
        take={(name, own) => {
          const made: CommandDraft = { do: "set_step", step: step.id, changes: { material: name } };
          const others = (part.document.materials ?? []).filter((m) => m.name !== name);
          const first: CommandDraft = {
            do: "set_part",
            changes: { materials: own ? [...others, own] : others },
          };
          run(own ? { do: "together", commands: [first, made] } : made);
        }}
      />
    </fieldset>
  );
}
