"""Effects of the commands that copy in a sketch: patterns, moving and pasting, stencils."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from pydantic import ValidationError

from ..part.errors import Refusal
from ..sketch import edit, pattern, place, stencil
from ..sketch.edit import Values
from . import commands as c
from .kinds.sketch import SketchStep
from .registry import Document
from .shared import Outcome, altered, sketch_step, title, values_for, with_sketch


def _changed(document: Document, ident: str, work: Callable[[SketchStep, Values], edit.Edit]) -> Outcome:
    step = sketch_step(document, ident)
    made = work(step, values_for(document))
    return Outcome(with_sketch(document, step, made.sketch), made.said, made.skipped)


def _pattern(document: Document, command: c.SketchPattern) -> Outcome:
    def work(step: SketchStep, values: Values) -> edit.Edit:
        if command.about is not None:
            return pattern.circular(step.sketch, values, command.ids, command.about, command.counts[0], command.angle)
        if command.start is None:
            raise Refusal("Show where the pattern starts and where its first copy goes.")
        spacings, angles = (typed or [""] * len(command.ends) for typed in (command.spacings, command.angles))
        return pattern.linear(
            step.sketch, values, command.ids, command.start, command.ends, command.counts, spacings, angles
        )

    return _changed(document, command.step, work)


def repattern(document: Document, command: c.SketchRepattern) -> Outcome:
    def work(step: SketchStep, values: Values) -> edit.Edit:
        if command.let_go:
            return pattern.let_go(step.sketch, command.pattern)
        try:
            return pattern.change(step.sketch, values, command.pattern, command.changes)
        except ValidationError as error:
            raise Refusal(f"This pattern cannot take that: {error.errors()[0]['msg']}.") from None

    return _changed(document, command.step, work)


def _turn(values: Values, text: str) -> float:
    return values.evaluate(text, "angle") if text.strip() else 0.0


def _move(document: Document, command: c.SketchMove) -> Outcome:
    def work(step: SketchStep, values: Values) -> edit.Edit:
        scale = values.evaluate(command.scale, "number") if command.scale.strip() else 1.0
        if not 0 < scale <= 1e4:
            raise Refusal("A scale is more than zero, and at most 10000.")
        t = place.Transform(command.base, command.to, _turn(values, command.turn), scale)
        return (place.copy if command.copy_it else place.move)(step.sketch, values, command.ids, t)

    return _changed(document, command.step, work)


def _paste(document: Document, command: c.SketchPaste) -> Outcome:
    part = place.Fragment(command.entities, command.constraints, command.dimensions)
    t = place.Transform(command.base, command.to)
    return _changed(document, command.step, lambda step, values: place.paste(step.sketch, values, part, t))


def _stencil(document: Document, command: c.SketchStencil) -> Outcome:
    step = sketch_step(document, command.step)
    if step.stencil:
        raise Refusal("This is a stencil already; make another of a sketch that uses it.")
    number = document.used + 1
    for s in document.steps:
        number = max(number, int(s.id[1:]) + 1)
    ident = f"s{number}"
    own, made = stencil.taken(step.sketch, values_for(document), command.ids, command.at, ident)
    fresh = SketchStep(id=ident, on=step.on, sketch=own, stencil=command.name)
    at = next(i for i, s in enumerate(document.steps) if s.id == step.id)
    after = with_sketch(document, step, made.sketch)
    steps = [*after.steps[:at], fresh, *after.steps[at:]]
    return Outcome(altered(after, steps=steps, used=number), made.said)


def _placement(document: Document, command: c.SketchPlacement) -> Outcome:
    source = sketch_step(document, command.stencil)
    if not source.stencil:
        raise Refusal(f"{title(document, source)} is no stencil; make one of a selection first.")
    if document.position(command.stencil) >= document.position(command.step):
        raise Refusal("A stencil is placed in sketches after it; move it further up the route.")

    def work(step: SketchStep, values: Values) -> edit.Edit:
        shape, turn = source.sketch.entities, _turn(values, command.turn)
        return stencil.put_in(step.sketch, values, source.id, shape, command.at, turn, command.onto or "")

    return _changed(document, command.step, work)


def _let_go(document: Document, command: c.SketchLetGo) -> Outcome:
    return _changed(document, command.step, lambda step, _: stencil.let_go(step.sketch, command.placement))


def stencils_followed(before: Document, after: Document) -> Document:
    """Every placement of a stencil that has changed is made after it again, and its sketch solved."""
    values = values_for(after)
    for source in after.steps:
        if not isinstance(source, SketchStep) or not source.stencil:
            continue
        old = before.step(source.id)
        if isinstance(old, SketchStep) and old.sketch.entities == source.sketch.entities:
            continue
        for step in after.steps:
            if isinstance(step, SketchStep) and any(p.stencil == source.id for p in step.sketch.placements):
                fresh = stencil.followed(step.sketch, source.id, source.sketch.entities)
                if fresh is not step.sketch:
                    solved = edit.resolve(fresh, values).sketch
                    after = with_sketch(after, step, solved)
    return after


EFFECTS: dict[type, Callable[[Document, Any], Outcome]] = {
    c.SketchPattern: _pattern,
    c.SketchRepattern: repattern,
    c.SketchMove: _move,
    c.SketchPaste: _paste,
    c.SketchStencil: _stencil,
    c.SketchPlacement: _placement,
    c.SketchLetGo: _let_go,
}
