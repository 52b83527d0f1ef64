/** The route sheet: steps as sentences, unfolding in place, with the hold point across. */
import { useEffect, useLayoutEffect, useRef, useState } from "react";
import { isSketch, type Step, type StepReport } from "../api/types";
import { trueUpTo } from "../document/builds";
import { run } from "../document/commands";
import { openSketch } from "../sketch/openSketch";
import { kindOf } from "../state/catalogue";
import { editable, steps, useBoard } from "../state/store";
import { startDraft } from "../steps/draft";
import { StepSlots } from "../steps/StepSlots";
import { changeSaid } from "../ui/measures";
import { NotationText } from "../ui/NotationText";
import { AdviceLine } from "./AdviceLine";
import { begins, flipped, GroupHead, headOf, membersFrom } from "./GroupHead";
import { useHeldRow } from "./heldRow";
import { chooseAlso, SeveralSteps } from "./SeveralSteps";
import { Failure, Unfolded, works } from "./Unfolded";

export function RoutePanel() {
  const part = useBoard((s) => s.part)!;
  const build = useBoard((s) => s.build);
  const draft = useBoard((s) => s.draft);
  const sketch = useBoard((s) => s.sketch);
  const list = steps(part);
  const sure = useBoard(trueUpTo);
  const reports = new Map((build?.steps ?? []).map((r) => [r.id, r]));
  const bodies = build?.bodies?.length ?? 0;
  const holdAt = part.document.hold ? list.findIndex((s) => s.id === part.document.hold) : list.length - 1;
  const [over, setOver] = useState<number | null>(null);
  const [folded, setFolded] = useState<ReadonlySet<string>>(new Set());
  const held = useHeldRow();
  const drop = (e: React.DragEvent, index: number) => {
    setOver(null);
    const kind = e.dataTransfer.getData("text/sulvak");
    if (kind === "hold" && index > 0) run({ do: "set_hold", step: list[index - 1].id });
    else if (kind.startsWith("s")) run({ do: "move_step", step: kind, before: list[index]?.id ?? null });
  };
  /** Where a row would be put: before the row under the pointer, or after it in its lower half. */
  const landing = (e: React.DragEvent, index: number) => {
    const box = e.currentTarget.getBoundingClientRect();
    return e.clientY > box.top + box.height / 2 ? index + 1 : index;
  };
  const target = (index: number) => ({
    onDragOver: (e: React.DragEvent) => {
      e.preventDefault();
      setOver(landing(e, index));
    },
    onDragLeave: () => setOver(null),
    onDrop: (e: React.DragEvent) => drop(e, landing(e, index)),
  });
  const gap = (index: number) => (
    <div className={`pointer-events-none ${over === index ? "h-[4px] bg-red" : "h-[1px] bg-hair"}`} />
  );
  return (
    <aside aria-label="Route" className="flex min-h-0 flex-col bg-panel">
      <div className="flex h-9 shrink-0 items-center px-3.5">
        <h2 className="head">Route</h2>
        <span className="grow" />
        <button
          type="button"
          className="mr-3 font-cond text-[12.5px] text-pencil underline"
          title="All values and sizes of the part (k v)"
          onClick={() => useBoard.setState({ leaf: "values" })}
        >
          values
        </button>
        <span className="font-cond text-[12px] text-pencil">
          {list.length} step{list.length === 1 ? "" : "s"} · {bodies} bod{bodies === 1 ? "y" : "ies"}
        </span>
      </div>
      {build?.broken && (
        <p className="mx-3.5 mb-2 border border-red bg-redwash p-2 text-red">{build.broken}</p>
      )}
      {build?.troubles?.map((t) => (
        <p key={t} className="mx-3.5 mb-2 border border-ochre p-2 text-ochre">
          {t}
        </p>
      ))}
      <ol
        ref={held.list}
        className="min-h-0 grow overflow-auto"
        aria-label="Steps"
        onPointerDownCapture={held.press}
        onPointerLeave={held.leave}
      >
        <li aria-hidden="true" style={{ height: held.above }} />
        {list.map((step, i) => (
          <li key={step.id} data-step={step.id} {...target(i)}>
            {gap(i)}
            {begins(list, i) && (
              <GroupHead
                members={membersFrom(list, i)}
                first={i}
                reports={reports}
                folded={folded.has(step.id)}
                onFold={() => setFolded(flipped(folded, step.id))}
              />
            )}
            {!folded.has(headOf(list, i)) && (
              <Row step={step} index={i} held={i > holdAt} report={reports.get(step.id)} old={i >= sure} />
            )}
            {i === holdAt && (list.length > 1 || part.document.hold) && (
              <HoldPoint index={i} count={list.length} />
            )}
          </li>
        ))}
        <li aria-hidden="true">{gap(list.length)}</li>
        {draft?.fresh && (
          <li className="border-l-[3px] border-red px-3 py-3">
            <span className="mr-4 font-mono text-[13px] text-red">new</span>
            <StepSlots />
          </li>
        )}
        {!draft && (
          <li className="px-3.5 py-3 text-pencil">
            {sketch
              ? "The sketch is open: draw in it, size it, then extrude or cut it; Finish leaves it. "
              : list.length
                ? "Next: sketch on a face, or extrude a profile. "
                : "The route is empty. Start with the base: sketch on the plane its best view is drawn on, then extrude. "}
            <span className="font-mono">/</span> finds every action.
          </li>
        )}
      </ol>
      <SeveralSteps />
    </aside>
  );
}

let followed = false; // the hold point is on its way, moved by keys

function HoldPoint({ index, count }: { index: number; count: number }) {
  const part = useBoard((s) => s.part)!;
  const on = part.document.hold !== null && part.document.hold !== undefined;
  const list = steps(part);
  // keys may come faster than answers: each goes on from where the one before is heading
  const heading = useRef(index);
  useEffect(() => {
    heading.current = index;
  }, [index]);
  const slider = useRef<HTMLDivElement>(null);
  useLayoutEffect(() => {
    if (followed) slider.current?.focus(); // moved by keys it is another row's, and the next key is meant for it
    followed = false;
  }, []);
  const move = (by: number) => {
    const to = heading.current + by;
    if (to < 0 || to >= count) return;
    heading.current = to;
    followed = true;
    run({ do: "set_hold", step: list[to].id }).then((done) => {
      if (!done) followed = false;
    });
  };
  return (
    <div
      ref={slider}
      role="slider"
      tabIndex={0}
      aria-label="Hold point"
      aria-valuemin={10}
      aria-valuemax={10 * count}
      aria-valuenow={10 * (index + 1)}
      aria-valuetext={`after step ${10 * (index + 1)}`}
      draggable={editable()}
      onDragStart={(e) => e.dataTransfer.setData("text/sulvak", "hold")}
      onKeyDown={(e) => {
        if (e.key === "ArrowUp") move(-1);
        if (e.key === "ArrowDown") move(1);
      }}
      title="The build stops here. Drag it, or use the arrow keys."
      className={`relative h-[16px] cursor-ns-resize ${on ? "text-red" : "text-faint hover:text-red"}`}
    >
      <span className={`absolute left-0 right-0 top-[7px] h-[2px] ${on ? "bg-red" : "bg-red/40"}`} />
      <span className="absolute right-6 top-0 bg-panel px-2 font-cond text-[11px] font-semibold tracking-wider">
        HOLD POINT
      </span>
    </div>
  );
}

function Row({
  step,
  index,
  held,
  report,
  old,
}: {
  step: Step;
  index: number;
  held: boolean;
  report: StepReport | undefined;
  old: boolean; // the report is of the part before the last change
}) {
  const openStep = useBoard((s) => s.openStep);
  const draft = useBoard((s) => s.draft);
  const sketch = useBoard((s) => s.sketch);
  const callouts = useBoard((s) => s.part!.document.callouts ?? []);
  const lit = useBoard((s) => s.callout);
  const advice = useBoard((s) => s.advice.find((a) => a.step === step.id));
  const open = openStep === step.id;
  const failed = report?.state === "failed" && !old;
  const usesLit = callouts.some((c) => c.id === lit && c.link?.step === step.id);
  const tone = held || step.suppressed ? "text-faint" : "";
  const unit = useBoard((s) => s.part!.document.unit);
  const massUnit = useBoard((s) => s.part!.document.mass_unit);
  const change = changeOf(report);
  const largest = useBoard((s) => Math.max(0, ...(s.build?.steps ?? []).map((r) => Math.abs(changeOf(r)))));
  const also = useBoard((s) => s.also.includes(step.id));
  const press = (e: React.MouseEvent) => {
    if (!draft && (e.shiftKey || e.ctrlKey || e.metaKey)) return chooseAlso(step.id, e.shiftKey);
    useBoard.setState({ also: [] });
    if (open && sketch !== step.id && !draft) useBoard.setState({ openStep: null });
    else if (!draft) useBoard.setState({ openStep: step.id });
  };
  return (
    <div
      aria-current={also || undefined}
      className={`border-l-[3px] py-2 pl-3 pr-3.5 ${also ? "border-red bg-redwash" : open ? "border-red" : usesLit ? "border-red bg-redwash" : "border-transparent"} ${tone}`}
      draggable={editable() && !open}
      onDragStart={(e) => e.dataTransfer.setData("text/sulvak", step.id)}
    >
      <div className="flex items-start gap-3">
        <button
          type="button"
          aria-expanded={open}
          className="flex min-w-0 grow gap-4 text-left"
          onClick={press}
          onDoubleClick={() =>
            isSketch(step) ? openSketch(step.id) : works(step) && startDraft(step, false)
          }
        >
          <span className={`font-mono text-[13px] ${open || failed ? "text-red" : "text-pencil"}`}>
            {10 * (index + 1)}
          </span>
          <span className={`min-w-0 ${failed ? "text-red" : ""} ${step.suppressed ? "line-through" : ""}`}>
            <Sentence step={step} report={report} />
          </span>
        </button>
        <span
          className={`relative shrink-0 pt-[1px] text-right font-mono text-[12px] ${old ? "italic text-faint" : "text-pencil"}`}
          title={old ? "Of the part before the last change; the new figure is on its way" : undefined}
        >
          {changeSaid(report?.mass_change ?? null, report?.volume_change ?? null, massUnit, unit)}
          {change && largest > 0 && !old ? <MassBar share={change / largest} /> : null}
        </span>
      </div>
      {failed && <Failure step={step} report={report!} />}
      {advice && !old && <AdviceLine advice={advice} />}
      {open && <Unfolded step={step} report={report} old={old} />}
    </div>
  );
}

/** The change a step makes, in g; in mm³ while no material is chosen. */
const changeOf = (r: StepReport | undefined) => r?.mass_change ?? r?.volume_change ?? 0;

/** How much a step added (to the right, green) or took away (red), against the step that changed most. */
function MassBar({ share }: { share: number }) {
  return (
    <span className="block h-[3px] w-[54px] bg-hair" aria-hidden="true">
      <span
        className={`block h-full ${share > 0 ? "bg-proof" : "bg-red"}`}
        style={{ width: `${Math.max(2, Math.abs(share) * 54)}px`, marginLeft: "auto" }}
      />
    </span>
  );
}

/** Whether a step works on the part or beside it, so that its values are changed in its sentence. */

function Sentence({ step, report }: { step: Step; report: StepReport | undefined }) {
  const state = useBoard((s) => s.part!.sketches[step.id]);
  const { called } = kindOf(step);
  const words = report?.sentence ?? called[0].toUpperCase() + called.slice(1);
  return (
    <>
      {step.name && <b className="font-semibold">{step.name}: </b>}
      <NotationText text={words} />
      {isSketch(step) && state && (
        <span className={state.freedom ? "text-red" : ""}>
          , {step.sketch?.entities?.length ? state.said : "nothing drawn yet"}
        </span>
      )}
    </>
  );
}
