/** What belongs together on the sheet and in the middle: a callout lights its faces, a face, step or size its callouts. */
import { useMemo } from "react";
import type { Callout, Verdict } from "../api/types";
import { onBuildShown } from "../document/builds";
import { board, type State, useBoard } from "../state/store";

const NONE: Callout[] = [];

type Shown = { id: string; edges: { faces: number[] }[] };

/** Ids of the callouts that speak of what is chosen: faces and edges of the part, a size of the open sketch, the unfolded step. */
export function spokenOf(
  s: Pick<State, "picks" | "chosen" | "sketch" | "openStep" | "callout">,
  callouts: Callout[],
  verdicts: Verdict[],
  bodies: Shown[],
): Set<string> {
  const faces = new Set(
    s.picks.flatMap((p) => {
      const body = bodies[p.body];
      const beside = p.kind === "face" ? [p.face] : (body?.edges[p.edge]?.faces ?? []);
      return beside.map((face) => `${body?.id} ${face}`);
    }),
  );
  const measured = verdicts.filter((v) =>
    (v.faces ?? []).some(([body, face]) => faces.has(`${body} ${face}`)),
  );
  const linked = callouts.filter(
    (c) =>
      s.sketch
        ? c.link?.step === s.sketch && s.chosen.includes(c.link.field)
        : s.callout === null && s.openStep !== null && c.link?.step === s.openStep, // a pressed callout unfolds its step
  );
  return new Set([...measured.map((v) => v.callout), ...linked.map((c) => c.id)]);
}

export function useSpokenOf(): Set<string> {
  const picks = useBoard((s) => s.picks);
  const chosen = useBoard((s) => s.chosen);
  const sketch = useBoard((s) => s.sketch);
  const openStep = useBoard((s) => s.openStep);
  const callout = useBoard((s) => s.callout);
  const callouts = useBoard((s) => s.part?.document.callouts ?? NONE);
  const build = useBoard((s) => s.build);
  return useMemo(
    () =>
      spokenOf(
        { picks, chosen, sketch, openStep, callout },
        callouts,
        build?.callouts ?? [],
        board().scene?.bodies() ?? [],
      ),
    [picks, chosen, sketch, openStep, callout, callouts, build],
  );
}

/** Light faces of the part, each by its body and number; those that are not shown stay dark. */
export function lightFaces(faces: [string, number][]) {
  const scene = board().scene;
  const bodies = (scene?.bodies() ?? []).map((b) => b.id);
  scene?.light(
    faces.flatMap(([body, face]) => (bodies.includes(body) ? [[bodies.indexOf(body), face]] : [])),
  );
}

/** Light the faces that the chosen callout was measured on. */
export function lightCallout() {
  const { callout, build } = board();
  lightFaces(build?.callouts?.find((v) => v.callout === callout)?.faces ?? []);
}

useBoard.subscribe((now, before) => {
  if (now.callout !== before.callout || now.hidden !== before.hidden) lightCallout();
});
onBuildShown(lightCallout);
