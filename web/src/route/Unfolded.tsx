/** A step of the route, unfolded: its figures, what became of it, what can be done with it. */
import { type BodyStep, isSketch, type SketchStep, type Step, type StepReport } from "../api/types";
import { run } from "../document/commands";
import { LaidOut } from "../inspect/Guides";
import { FitToSheet } from "../sketch/FitToSheet";
import { loadMotions } from "../sketch/motions";
import { openSketch } from "../sketch/openSketch";
import { ProfileCheck } from "../sketch/ProfileCheck";
import { Suggestions } from "../sketch/Suggestions";
import { kindOf } from "../state/catalogue";
import { type CommandDraft, editable, useBoard } from "../state/store";
import { BodySlots } from "../steps/BodySlots";
import { bodySaid, describeBody, lightBody } from "../steps/bodyActions";
import { firstPointed, startDraft } from "../steps/draft";
import { StepSlots, tone } from "../steps/StepSlots";
import { areaSaid } from "../ui/measures";
import { NotationText } from "../ui/NotationText";
import { Places } from "./AdviceLine";
import { lookAt, stopLooking } from "./advice";
import { SourceLine } from "./SourceLine";
import { StepWords } from "./StepWords";

export const works = (step: Step) => ["bodies", "guide"].includes(kindOf(step).makes);

export function Failure({ step, report }: { step: Step; report: StepReport }) {
  const { offer } = report.offers;
  return (
    <div role="alert" className="ml-[34px] mt-1 border-l-2 border-red pl-2 text-red">
      {report.said} The part stays as it was before this step.
      {offer && editable() && (
        <button
          type="button"
          className="btn ml-2 text-ink"
          onClick={() => run({ do: "set_step", step: step.id, changes: offer.changes })}
        >
          {offer.label}
        </button>
      )}
    </div>
  );
}

export function Unfolded({
  step,
  report,
  old,
}: {
  step: Step;
  report: StepReport | undefined;
  old: boolean;
}) {
  const draft = useBoard((s) => s.draft);
  const solid = works(step);
  if (draft && !draft.fresh && draft.step.id === step.id)
    return (
      <div className="ml-[34px] mt-2">
        <StepSlots />
      </div>
    );
  return (
    <div className="ml-[34px] mt-1.5">
      {step.note && <p className="mb-1 whitespace-pre-line italic text-pencil">{step.note}</p>}
      {isSketch(step) && <SketchUnfolded step={step} />}
      {solid && report?.state === "ok" && (
        <p className={old ? "text-pencil" : tone(report)}>
          {old ? "Working …" : <NotationText text={report.said} />}
        </p>
      )}
      {"source" in step && step.source && <SourceLine step={step} />}
      {kindOf(step).makes === "names" && <BodySlots step={step as BodyStep} />}
      {editable() && (
        <div className="mt-2 flex flex-wrap gap-2">
          {solid && (
            <button
              type="button"
              className="btn btn-main"
              onClick={() => startDraft(step, false, report?.offers.pick ? firstPointed(step) : null)}
            >
              Change
            </button>
          )}
          {solid && <NameBodies step={step} />}
          <button
            type="button"
            className="btn"
            onClick={() => run({ do: "set_step", step: step.id, changes: { suppressed: !step.suppressed } })}
          >
            {step.suppressed ? "Take back in" : "Suppress"}
          </button>
          <StepWords step={step} />
          <LaidOut step={step} />
          {solid && report?.state === "ok" && <Without step={step} />}
          {solid && <Places step={step} />}
          <button type="button" className="btn" onClick={() => run({ do: "delete_step", step: step.id })}>
            Delete
          </button>
        </div>
      )}
    </div>
  );
}

/** The finished part with and without a step: what it would gain and lose. */
function Without({ step }: { step: Step }) {
  const looking = useBoard((s) => s.looking);
  const command: CommandDraft = { do: "set_step", step: step.id, changes: { suppressed: true } };
  const seen = looking === JSON.stringify(command);
  return (
    <button
      type="button"
      className="btn"
      aria-pressed={seen}
      onClick={() => (seen ? stopLooking() : lookAt(command))}
    >
      {seen ? "Stop looking" : "Look without it"}
    </button>
  );
}

/** The bodies a step made; after a split, all that it may have parted. */
function NameBodies({ step }: { step: Step }) {
  const bodies = useBoard((s) => s.build?.bodies) ?? [];
  const parted = step.kind === "split";
  const mine = bodies.filter(
    (b) =>
      b.id.split("x")[0] === step.id ||
      (parted && (step.bodies ?? [b.id]).some((id) => b.id.split("x")[0] === id.split("x")[0])),
  );
  return mine.map((body) => (
    <button
      key={body.id}
      type="button"
      className="btn"
      onPointerEnter={() => lightBody(body.id)}
      onPointerLeave={() => lightBody(null)}
      onClick={() => describeBody(body.id)}
    >
      {mine.length > 1 ? `Name or colour ${bodySaid(body.id)}` : "Name or colour the body"}
    </button>
  ));
}

function SketchUnfolded({ step }: { step: SketchStep }) {
  const unit = useBoard((s) => s.part!.document.unit);
  const state = useBoard((s) => s.part!.sketches[step.id]);
  const open = useBoard((s) => s.sketch === step.id);
  const motions = useBoard((s) => (s.sketch === step.id ? s.motions : null));
  const playing = useBoard((s) => s.playing);
  const sizes = step.sketch?.dimensions ?? [];
  return (
    <>
      {!open && (
        <button type="button" className="btn btn-main" onClick={() => openSketch(step.id)}>
          Open the sketch
        </button>
      )}
      {open && state?.freedom > 0 && (
        <>
          <h3 className="head mb-1 mt-2 text-[11.5px]">What can still move</h3>
          {motions?.map((m, i) => (
            <button
              key={m.said + i}
              type="button"
              className={`block w-full truncate text-left hover:text-red ${playing === i ? "text-red" : ""}`}
              onClick={() => useBoard.setState({ playing: i })}
            >
              {m.said[0].toUpperCase() + m.said.slice(1)}
            </button>
          ))}
          <button type="button" className="btn mt-1.5" onClick={() => loadMotions(true)}>
            {motions ? "Play them again" : "Show what can move"}
          </button>{" "}
          <Suggestions step={step.id} /> <FitToSheet step={step.id} />
        </>
      )}
      {open && state?.freedom === 0 && (step.sketch?.entities?.length ?? 0) > 0 && (
        <p className="mt-1 text-proof">
          Fully constrained. {state.regions.length} closed region{state.regions.length === 1 ? "" : "s"},{" "}
          <span className="font-mono">{areaSaid(state.area, unit)}</span>.
        </p>
      )}
      {open && (step.sketch?.entities?.length ?? 0) > 0 && <ProfileCheck />}
      {open && sizes.length > 0 && (
        <>
          <h3 className="head mb-1 mt-2 text-[11.5px]">
            Sizes, <span className="normal-case">{unit}</span>
          </h3>
          <ul className="font-mono text-[12.5px]">
            {sizes.map((d) => (
              <li key={d.id}>
                <button
                  type="button"
                  className="hover:text-red"
                  onClick={() => useBoard.setState({ chosen: [d.id] })}
                  onDoubleClick={() =>
                    d.driving !== false &&
                    useBoard.setState({
                      field: {
                        dimension: d.id,
                        text: d.expr,
                        at: (d.at as [number, number]) ?? [0, 0],
                        kind: d.kind,
                      },
                      chosen: [d.id],
                    })
                  }
                >
                  {d.name || d.id} = {d.kind === "diameter" ? "Ø" : d.kind === "radius" ? "R" : ""}
                  {d.expr}
                  {d.kind === "angle" && /[\d)]$/.test(d.expr) ? "°" : ""}
                  {d.driving === false ? " (reference)" : ""}
                </button>
              </li>
            ))}
          </ul>
        </>
      )}
    </>
  );
}
