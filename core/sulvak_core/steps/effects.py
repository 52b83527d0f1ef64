"""What commands do: a document and a command in, a new document out, or a Refusal and nothing changed."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from ..part.errors import ExpressionError
from ..sketch import edit
from . import commands as c
from . import (
    copy_effects,
    drawing_effects,
    part_effects,
    reference_effects,
    route_effects,
    sheet_effects,
    sketch_effects,
)
from .copy_effects import stencils_followed
from .kinds.sketch import SketchStep
from .registry import Document, expressions, names
from .shared import Outcome, values_for, with_step

_EFFECTS: dict[type, Callable[[Document, Any], Outcome]] = {
    **part_effects.EFFECTS,
    **route_effects.EFFECTS,
    **sketch_effects.EFFECTS,
    **copy_effects.EFFECTS,
    **sheet_effects.EFFECTS,
    **drawing_effects.EFFECTS,
    **reference_effects.EFFECTS,
}


def apply(document: Document, command: c.Command) -> Outcome:
    """Carry out a command. Pure: ``document`` is not changed. Raises Refusal."""
    if isinstance(command, c.Together):
        told: list[str] = []
        skipped: list[str] = []
        for one in command.commands:
            made = apply(document, one)
            document, told, skipped = made.document, [*told, *made.said], [*skipped, *made.skipped]
        return Outcome(document, told, skipped)
    outcome = _EFFECTS[type(command)](document, command)
    outcome.document = stencils_followed(document, _follow(document, outcome.document))
    return outcome


def _sketch_values(document: Document) -> dict[str, dict[str, float]]:
    values = values_for(document)
    return {s.id: values.all(s.sketch) for s in document.steps if isinstance(s, SketchStep)}


def _follow(before: Document, after: Document) -> Document:
    """Every sketch whose values changed by what others say is solved again; every expression must work out."""
    if before.values == after.values and before.steps == after.steps and before.unit == after.unit:
        return after
    known = names(after)
    for step in after.steps:
        reference = {d.id for d in step.sketch.dimensions if not d.driving} if isinstance(step, SketchStep) else ()
        for name, text, kind in expressions(step):
            if name in reference:
                continue
            try:
                known.value(text, kind)
            except ExpressionError as error:
                error.detail.setdefault("step", step.id)
                raise
    for value in after.values:
        known.value(value.expr, value.kind)
    old, new = _sketch_values(before), _sketch_values(after)
    values = values_for(after)
    for step in after.steps:
        if isinstance(step, SketchStep) and step.id in old and _moved(old[step.id], new[step.id]):
            previous = before.step(step.id)
            if isinstance(previous, SketchStep) and previous.sketch != step.sketch:
                continue  # the command itself has solved it
            solved = edit.resolve(step.sketch, values).sketch
            after = with_step(after, step.model_copy(update={"sketch": solved}))
    return after


def _moved(old: dict[str, float], new: dict[str, float]) -> bool:
    return any(k in old and old[k] != v for k, v in new.items())
