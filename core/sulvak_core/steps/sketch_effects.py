"""Effects of the commands on a sketch."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from pydantic import ValidationError

from ..part.errors import Refusal
from ..part.expressions import check_name, names_in
from ..sketch import edit, mirror, shape
from ..sketch.edit import Values
from ..sketch.mend import mend
from ..sketch.model import Dimension
from ..sketch.offset import offset
from ..sketch.trim import extend, split, trim_all
from . import commands as c
from .kinds.sketch import SketchStep
from .part_effects import renamed
from .registry import Document, expressions, names
from .shared import Outcome, altered, sketch_step, values_for, with_sketch, with_step


def _edited(
    document: Document, step: SketchStep, change: Callable[[Values], edit.Edit], known: Document | None = None
) -> Outcome:
    """``known`` is the document whose names count, where the change itself brings names."""
    result = change(values_for(known or document))
    return Outcome(with_sketch(document, step, result.sketch), result.said, result.skipped, result.lost)


def _named_twice(document: Document, name: str) -> None:
    if name:
        check_name(name)
        if name in names(document).texts:
            raise Refusal(f"“{name}” is taken; choose another name.")


def _sketch_add(document: Document, command: c.SketchAdd) -> Outcome:
    step = sketch_step(document, command.step)
    for d in command.dimensions:
        _named_twice(document, d.name)
    inferred = frozenset(command.inferred)
    named = {"dimensions": [*step.sketch.dimensions, *command.dimensions]}
    known = with_step(document, step.model_copy(update={"sketch": step.sketch.model_copy(update=named)}))
    if command.projections:
        fresh = {e.id for e in command.entities}
        if not all(p.entity in fresh for p in command.projections):
            raise Refusal("An edge of the part comes with the line or curve that stands for it.")
        given = step.sketch.model_copy(update={"given": [*step.sketch.given, *(p.entity for p in command.projections)]})
        step = step.model_copy(update={"sketch": given, "projections": [*step.projections, *command.projections]})
    return _edited(
        document,
        step,
        lambda values: edit.add(
            step.sketch, values, command.entities, command.constraints, command.dimensions, inferred, command.shown
        ),
        known,
    )


def sketch_dimension(document: Document, command: c.SketchDimension) -> Outcome:
    step = sketch_step(document, command.step)
    if {"id", "refs"} & set(command.changes):
        raise Refusal("What a dimension measures cannot be changed; delete it and set a new one.")
    old = next((d for d in step.sketch.dimensions if d.id == command.dimension), None)
    name = command.changes.get("name", "")
    if old and name and name != old.name:
        _named_twice(document, str(name))
        if old.name:
            document = renamed(document, old.name, str(name))
            step = sketch_step(document, command.step)
    if old and old.name and name == "" and "name" in command.changes:
        users = [s for s in document.steps for _, text, _ in expressions(s) if old.name in names_in(text)]
        if users:
            raise Refusal(f"“{old.name}” is used in step {document.position(users[0].id)}; change that first.")
    try:
        fresh = [
            Dimension.model_validate({**d.model_dump(), **command.changes}) if d.id == command.dimension else d
            for d in step.sketch.dimensions
        ]
        known = with_step(
            document, step.model_copy(update={"sketch": step.sketch.model_copy(update={"dimensions": fresh})})
        )
        return _edited(
            document, step, lambda v: edit.change_dimension(step.sketch, v, command.dimension, command.changes), known
        )
    except ValidationError as error:
        raise Refusal(f"This dimension cannot take that: {error.errors()[0]['msg']}.") from None


def _sketch_drag(document: Document, command: c.SketchDrag) -> Outcome:
    step = sketch_step(document, command.step)
    return _edited(
        document, step, lambda values: edit.drag(step.sketch, values, command.ref, command.to, command.shown)
    )


def _sketch_delete(document: Document, command: c.SketchDelete) -> Outcome:
    step = sketch_step(document, command.step)
    gone = set(edit.removal(step.sketch, set(command.ids)).ties)
    for d in step.sketch.dimensions:
        if d.id in gone and d.name:
            users = [s for s in document.steps if any(d.name in names_in(t) for f, t, _ in expressions(s) if f != d.id)]
            if users:
                raise Refusal(f"“{d.name}” is used in step {document.position(users[0].id)}; change that first.")
    callouts = [
        b.model_copy(update={"link": None}) if b.link and b.link.step == step.id and b.link.field in gone else b
        for b in document.callouts
    ]
    outcome = _edited(document, step, lambda values: edit.delete(step.sketch, set(command.ids)))
    outcome.document = altered(outcome.document, callouts=callouts)
    return outcome


def _sketch_construction(document: Document, command: c.SketchConstruction) -> Outcome:
    step = sketch_step(document, command.step)
    return _edited(document, step, lambda values: edit.construction(step.sketch, set(command.ids), command.on))


def _sketch_fillet(document: Document, command: c.SketchFillet) -> Outcome:
    step = sketch_step(document, command.step)
    return _edited(document, step, lambda values: shape.fillet(step.sketch, values, command.corners, command.radius))


def _sketch_chamfer(document: Document, command: c.SketchChamfer) -> Outcome:
    step = sketch_step(document, command.step)
    bevel = shape.Bevel(command.distance, command.second.strip(), command.angle.strip())
    return _edited(document, step, lambda values: shape.chamfer(step.sketch, values, command.corners, bevel))


def _sketch_mirror(document: Document, command: c.SketchMirror) -> Outcome:
    step = sketch_step(document, command.step)
    return _edited(document, step, lambda values: mirror.mirror(step.sketch, values, command.ids, command.about))


def _sketch_offset(document: Document, command: c.SketchOffset) -> Outcome:
    step = sketch_step(document, command.step)
    return _edited(
        document, step, lambda values: offset(step.sketch, values, command.ids, command.distance, command.at)
    )


def _sketch_trim(document: Document, command: c.SketchTrim) -> Outcome:
    step = sketch_step(document, command.step)
    places = [(command.entity, command.at), *((p.entity, p.at) for p in command.then)]
    outcome = _edited(document, step, lambda values: trim_all(step.sketch, values, places))
    return _without_lost_links(outcome, step.id)


def _sketch_at(document: Document, command: c.SketchExtend | c.SketchSplit) -> Outcome:
    """Extend or split an entity where it was pointed at."""
    step = sketch_step(document, command.step)
    work = extend if isinstance(command, c.SketchExtend) else split
    outcome = _edited(document, step, lambda values: work(step.sketch, values, command.entity, command.at))
    return _without_lost_links(outcome, step.id)


def _sketch_text(document: Document, command: c.SketchText) -> Outcome:
    step = sketch_step(document, command.step)
    return _edited(document, step, lambda values: shape.rewrite(step.sketch, values, command.entity, command.text))


def _sketch_mend(document: Document, command: c.SketchMend) -> Outcome:
    step = sketch_step(document, command.step)
    made = mend(step.sketch, values_for(document), command.tolerance, command.kinds, command.keys)
    return _without_lost_links(Outcome(with_sketch(document, step, made.sketch), made.said), step.id)


def _without_lost_links(outcome: Outcome, step: str) -> Outcome:
    """Callouts that fed a size that is gone feed nothing any more."""
    sketch = sketch_step(outcome.document, step).sketch
    left = {d.id for d in sketch.dimensions}
    callouts = [
        b.model_copy(update={"link": None}) if b.link and b.link.step == step and b.link.field not in left else b
        for b in outcome.document.callouts
    ]
    outcome.document = altered(outcome.document, callouts=callouts)
    return outcome


EFFECTS: dict[type, Callable[[Document, Any], Outcome]] = {
    c.SketchAdd: _sketch_add,
    c.SketchDimension: sketch_dimension,
    c.SketchDrag: _sketch_drag,
    c.SketchDelete: _sketch_delete,
    c.SketchConstruction: _sketch_construction,
    c.SketchFillet: _sketch_fillet,
    c.SketchMirror: _sketch_mirror,
    c.SketchTrim: _sketch_trim,
    c.SketchExtend: _sketch_at,
    c.SketchSplit: _sketch_at,
    c.SketchOffset: _sketch_offset,
    c.SketchChamfer: _sketch_chamfer,
    c.SketchText: _sketch_text,
    c.SketchMend: _sketch_mend,
}
