/**
 * What the sheet says and the open sketch does not have yet. Unlike suggestions these move what is drawn: how far is
 * told, and where things go is drawn over the board before anything is pressed.
 */
import { useQuery } from "@tanstack/react-query";
import { useEffect } from "react";
import { get, type Refused } from "../api/client";
import type { components } from "../api/schema.gen";
import type { Entity } from "../api/types";
import { editable, useBoard } from "../state/store";
import { lengthSaid } from "../ui/measures";
import { Balloon } from "../ui/ui";
import { Waiting } from "../ui/Waiting";
import { takeSuggestions } from "./takeSuggestions";

type Fit = components["schemas"]["FitOut"];
type Move = components["schemas"]["MoveOut"];

const close = () => useBoard.setState({ fitting: false, fitted: null, shown: [] });

export function FitToSheet({ step }: { step: string }) {
  const on = useBoard((s) => s.fitting);
  const open = useBoard((s) => (s.part?.document.callouts ?? []).some((c) => !c.link));
  if (!editable() || !open) return null;
  if (!on)
    return (
      <button
        type="button"
        className="btn mt-1.5"
        title="Lay the sizes of the sheet on what is drawn; it moves, and is shown before"
        onClick={() => useBoard.setState({ fitting: true, suggesting: false })}
      >
        Fit to the sheet
      </button>
    );
  return <Fitting step={step} />;
}

function Fitting({ step }: { step: string }) {
  const part = useBoard((s) => s.part)!;
  const answer = useQuery({
    queryKey: ["fit", part.id, part.version, step],
    queryFn: ({ signal }) => get<Fit>(`/api/parts/${part.id}/sketches/${step}/fit`, signal),
    retry: false,
  });
  const found = answer.data;
  useEffect(() => {
    useBoard.setState({ fitted: found ? (found.entities as Entity[]) : null });
    return () => useBoard.setState({ fitted: null });
  }, [found]);
  return (
    <section aria-label="Fit to the sheet" className="mt-2 border-l-2 border-ochre pl-2">
      <div className="flex items-baseline">
        <h3 className="head mb-1 text-[11.5px]">Fit to the sheet</h3>
        <span className="grow" />
        <button type="button" className="font-cond text-[12.5px] text-pencil underline" onClick={close}>
          Close
        </button>
      </div>
      {answer.isFetching && <Waiting words="Laying the sheet's sizes on the sketch" stop={close} />}
      {answer.error && !answer.isFetching && (
        <p className="text-red">
          {(answer.error as Refused).sentence ?? "This could not be asked; try again."}
        </p>
      )}
      {found && !answer.isFetching && <Found step={step} found={found} />}
    </section>
  );
}

function Found({ step, found }: { step: string; found: Fit }) {
  const unit = useBoard((s) => s.part!.document.unit);
  const callouts = useBoard((s) => s.part!.document.callouts ?? []);
  const number = (id: string) => callouts.find((c) => c.id === id)?.number ?? 0;
  const { moves, missing, unplaced } = found;
  const all = async () => {
    if (await takeSuggestions(step, moves, found.entities as Entity[])) close();
  };
  return (
    <>
      {moves.length === 0 && <p>No size of the sheet that is still open belongs to this sketch.</p>}
      {moves.length > 0 && (
        <p className="mb-1 text-pencil">
          In green, where everything would be: up to{" "}
          <span className="font-mono text-ink">{lengthSaid(found.reach, unit, 2)}</span> from where it is
          drawn. Nothing is turned over.{" "}
          {found.left === 0 ? "Nothing is free then." : `${found.left} free then.`}
        </p>
      )}
      {moves.length > 0 && (
        <button type="button" className="btn btn-main mb-1" onClick={all}>
          Move and take all {moves.length}
        </button>
      )}
      <ol>
        {moves.map((m) => (
          <Row
            key={[...m.constraints, ...m.dimensions][0].id}
            step={step}
            move={m}
            unit={unit}
            number={m.callout ? number(m.callout) : null}
            whole={found.entities as Entity[]}
          />
        ))}
      </ol>
      {missing.length > 0 && (
        <>
          <h4 className="head mb-0.5 mt-2 text-[11.5px]">What the sheet does not say</h4>
          <ul>
            {missing.map((m) => (
              <li key={m.said}>
                <button
                  type="button"
                  className="w-full text-left hover:text-red focus:text-red"
                  onClick={() => useBoard.setState({ chosen: m.refs.filter(own) })}
                  onPointerEnter={() => useBoard.setState({ shown: m.refs })}
                  onPointerLeave={() => useBoard.setState({ shown: [] })}
                >
                  {m.said}
                </button>
              </li>
            ))}
          </ul>
        </>
      )}
      {unplaced.length > 0 && (
        <p className="mt-1 text-pencil">
          Of no use in this sketch: {unplaced.length === 1 ? "callout" : "callouts"}{" "}
          {unplaced
            .map(number)
            .sort((a, b) => a - b)
            .join(", ")}
          .
        </p>
      )}
    </>
  );
}

const own = (ref: string) => ref !== "origin" && ref !== "x" && ref !== "y";

interface RowProps {
  step: string;
  move: Move;
  unit: string;
  number: number | null;
  whole: Entity[]; // where everything is with all of them
}

function Row({ step, move, unit, number, whole }: RowProps) {
  const alone = move.alone as Entity[] | null;
  const show = () => useBoard.setState({ shown: move.refs, fitted: alone ?? whole });
  const unshow = () => useBoard.setState({ shown: [], fitted: whole });
  return (
    <li>
      <button
        type="button"
        className="flex w-full items-center gap-2 py-0.5 text-left enabled:hover:text-red enabled:focus:text-red"
        disabled={!alone}
        title={alone ? "Take this one only" : "This one holds only together with those above it"}
        onPointerEnter={show}
        onPointerLeave={unshow}
        onFocus={show}
        onBlur={unshow}
        onClick={() => takeSuggestions(step, [move], alone!)}
      >
        {number !== null && <Balloon number={number} size={17} />}
        <span className="min-w-0 grow">{move.said[0].toUpperCase() + move.said.slice(1)}</span>
        <span className="shrink-0 font-mono text-[12px] text-pencil">
          {!move.takes
            ? "ref"
            : !alone
              ? "with all"
              : move.moves < 5e-4
                ? "stays"
                : `↔ ${lengthSaid(move.moves, unit, 2)}`}
        </span>
      </button>
    </li>
  );
}
