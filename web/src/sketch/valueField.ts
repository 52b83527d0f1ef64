/** The value of a dimension that is being made or changed: how what is typed is read, and how it is kept. */
import { run } from "../document/commands";
import { typedAs, unprefixed } from "../geometry/typed";
import { board, type CommandDraft, freshId, useBoard, type ValueField } from "../state/store";

/** “grip = 12” names the size while it is typed. */
export function spelled(field: ValueField): { named: string; value: string } {
  const found = field.nameless ? null : /^\s*([A-Za-z_]\w*)\s*=(?!=)\s*(.*)$/.exec(field.text);
  return found ? { named: found[1], value: found[2] } : { named: "", value: field.text };
}

/** What the field changes of a dimension that is there. */
function changes(field: ValueField) {
  const { named, value } = spelled(field);
  const typed = value.trim();
  const also = named ? { name: named } : {};
  const kind = field.kind === "radius" || field.kind === "diameter" ? typedAs(typed) : null;
  return kind ? { ...also, expr: unprefixed(typed), kind } : { ...also, expr: typed };
}

/** Keep what stands in the open field; true if it was taken. ``name``: as typed beside it. */
export async function keepValue(name = ""): Promise<boolean> {
  const { field, part, sketch } = board();
  if (!field || !part) return false;
  const { named, value } = spelled(field);
  const feeds =
    field.callout && field.text === part.callouts[field.callout]?.typed ? field.callout : undefined;
  const made = field.dimension ? null : field.make!(value, named || name);
  const sized = made?.do === "sketch_add" ? made.dimensions?.[0].id : undefined;
  const id = field.dimension ?? sized ?? freshId("d");
  const command: CommandDraft = made ?? {
    do: "sketch_dimension",
    step: sketch!,
    dimension: id,
    changes: changes(field),
  };
  if (!(await run(command))) return false;
  useBoard.setState({ field: null, chosen: [] });
  if (feeds) await run({ do: "link_callout", callout: feeds, step: sketch!, field: id });
  return true;
}
