import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { get } from "../api/client";
import type { BodyStep, Material } from "../api/types";
import { run } from "./change";
import { editable } from "./store";

/** A body's name, colour and material, as slots. */
export function BodySlots({ step }: { step: BodyStep }) {
  const materials = useQuery({ queryKey: ["materials"], queryFn: () => get<Material[]>("/api/materials") });
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
      <select
        className="slot max-w-[190px]"
        aria-label="Material of the body"
        value={step.material}
        onChange={(e) => set({ material: e.target.value })}
      >
        <option value="">the part's material</option>
        {materials.data?.map((m) => (
          <option key={m.name} value={m.name}>
            {m.name}
          </option>
        ))}
      </select>
    </fieldset>
  );
}
