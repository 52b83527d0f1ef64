/** A body's own name, colour and material: the step that says them, made when it is first asked for. */

import { run } from "../document/commands";
import type { Action } from "../state/action";
import { working } from "../state/mode";
import { board, editable, freshStep, holding, numberOf, showMessage, steps, useBoard } from "../state/store";

/** What a body is called: its own name, or the step that made it, its pieces told apart. */
export function bodySaid(id: string): string {
  const { part, build } = board();
  const title = build?.bodies?.find((b) => b.id === id)?.title;
  const [step, piece] = id.split("x");
  return title || `body of step ${numberOf(part, step)}${piece ? `, piece ${piece}` : ""}`;
}

/** Open the step that names and colours a body, made at the end of the route if there is none. */
export const describeBody = (id: string) => holding(opened(id));

async function opened(id: string) {
  const known = steps(board().part).filter((s) => s.kind === "body" && s.body === id);
  const last = known[known.length - 1];
  const body = board().build?.bodies?.find((b) => b.id === id);
  if (!last && !editable()) return;
  const step = last?.id ?? freshStep();
  const made =
    last || (await run({ do: "add_step", step: { kind: "body", id: step, body: id, colour: body?.colour } }));
  if (!made) return;
  useBoard.setState({ openStep: step, leaf: null });
  setTimeout(() => {
    const field = document.querySelector<HTMLInputElement>("[aria-label='Name of the body']");
    field?.scrollIntoView({ block: "nearest" });
    field?.focus();
    field?.select();
  });
}

/** The body that all that is chosen belongs to, or null. */
export function chosenBody() {
  const { picks, scene } = board();
  const bodies = scene?.bodies() ?? [];
  const ids = new Set(picks.map((p) => bodies[p.body]?.id));
  return ids.size === 1 ? (bodies[picks[0].body] ?? null) : null;
}

/** Light a body on the board while something that speaks of it is pointed at; null lets go. */
export function lightBody(id: string | null) {
  const { scene, picks } = board();
  const at = (scene?.bodies() ?? []).findIndex((b) => b.id === id);
  const faces = at < 0 ? [] : scene!.bodies()[at].faces;
  scene?.mark(
    null,
    at < 0 ? picks : faces.map((_, face) => ({ kind: "face", body: at, face, at: undefined as never })),
  );
}

/** An action for naming what is chosen, and one for every body of the part. */
export const bodyActions = (): Action[] => [
  {
    id: "body-words",
    words: "Name, colour, material of the body",
    keys: "b w",
    group: "pick",
    when: () => editable() && !working() && chosenBody() !== null,
    run: () => describeBody(chosenBody()!.id),
  },
  ...(board().build?.bodies ?? []).map(
    (b): Action => ({
      id: `body ${b.id}`,
      words: bodySaid(b.id)[0].toUpperCase() + bodySaid(b.id).slice(1),
      also: "body name colour material",
      keys: "",
      group: "body",
      when: () => editable() && !working(),
      run: () => describeBody(b.id),
    }),
  ),
];

const DATA = [
  ["Name", "rename title"],
  ["Number", "part number"],
  ["Rev", "revision"],
  ["Description", ""],
  ["Material", "density weight mass alloy"],
  ["Unit", "inch millimetre mm"],
  ["Target mass", "weight goal"],
  ["Tolerance", "mass band"],
  ["Own properties", "finish custom"],
] as const;

/** Rows for each kind of part data. */
export const DATA_ACTIONS: Action[] = [
  ...DATA.map(
    ([label, also]): Action => ({
      id: `data ${label}`,
      words:
        { Rev: "Revision", Number: "Part number", Tolerance: "Tolerance of the mass" }[label as "Rev"] ??
        label,
      also: `part data ${also}`,
      keys: "",
      group: "part data",
      when: () => board().part !== null,
      run: () => {
        useBoard.setState({ leaf: "data" });
        setTimeout(() => {
          const at = `[data-label^="${label}"] :is(input, select, textarea)`;
          document.querySelector<HTMLElement>(at)?.focus();
        }, 30);
      },
    }),
  ),
  {
    id: "data figures",
    words: "Mass, volume, area, box around the part",
    also: "part data figures centre bounding weight",
    keys: "",
    group: "part data",
    when: () => board().part !== null,
    run: () => {
      useBoard.setState({ leaf: "data" });
      if (!board().build?.mass?.volume) showMessage("There is no solid yet to be weighed.");
    },
  },
];
