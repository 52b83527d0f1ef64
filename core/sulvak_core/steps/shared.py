"""What all effects of commands share: their outcome, finding steps, putting changed ones back."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any, Literal

from ..part.document import Callout
from ..part.errors import ExpressionError, Refusal
from ..part.expressions import Kind
from ..sheet.general_tolerance import read as read_general
from ..sheet.notation import parse
from ..sheet.requirement import Requirement
from ..sheet.worked_out import told, used, worked_out
from ..sketch.edit import Values
from ..sketch.model import Dimension, Sketch
from .kinds.sketch import SketchStep
from .registry import AnyStep, Document, names


@dataclass
class Outcome:
    """The new document and what is worth telling about the change."""

    document: Document
    said: list[str] = field(default_factory=list)
    skipped: list[str] = field(default_factory=list)
    lost: list[Dimension] = field(default_factory=list)  # sizes of a sketch that went, as they could stay for reference


def read_callout(document: Document, callout: Callout, above: tuple[str, ...] = ()) -> Requirement:
    """What a callout asks for. Its bare numbers are in the unit it was written in, whatever the part's is by now.

    ``above``: the worked-out callouts on the way to this one; what goes round in a circle is a note.
    """
    unit = callout.unit or document.unit
    if callout.worked:
        try:
            return worked_out(callout.worked, _others(document, (*above, callout.id)), unit)
        except ExpressionError:
            return Requirement(kind="note")
    r = _with_general(document, parse(callout.text, unit))
    bare = unit != document.unit and r.kind in ("linear", "radius", "diameter", "chamfer")
    return (
        r.model_copy(update={"typed": f"{r.typed} {unit}"})
        if bare and not r.typed.endswith(("mm", "in", '"', "″"))
        else r
    )


def _others(document: Document, above: tuple[str, ...]) -> Callable[[str], Requirement | None]:
    """How the callouts that one is worked out from are read."""

    def other(ident: str) -> Requirement | None:
        found = next((b for b in document.callouts if b.id == ident), None)
        return None if found is None or ident in above else read_callout(document, found, above)

    return other


def how_it_came(document: Document, callout: Callout) -> str:
    """The arithmetic of a worked-out callout in figures: “110 − 18 − 18”; empty for any other."""
    if not callout.worked:
        return ""
    other = _others(document, (callout.id,))
    ids = used(callout.worked)
    numbers = {b.id: b.number for b in document.callouts}
    return told(callout.worked, numbers, {i: r for i in ids if (r := other(i)) is not None})


def _with_general(document: Document, r: Requirement) -> Requirement:
    """A size without limits of its own has the general ones."""
    exempt = r.nominal is None or r.kind in ("note", "thread") or r.toleranced or r.reference or r.basic
    general = None if exempt else read_general(document.general_tolerance, document.unit)
    if general is None or r.nominal is None:
        return r
    sort: Literal["linear", "broken", "angle"] = "linear"
    if r.kind in ("angle", "chamfer"):
        sort = "angle" if r.kind == "angle" else "broken"
    by = general.of(r.nominal, sort, r.decimals)
    return r.model_copy(update={"upper": by, "lower": -by, "toleranced": True, "general": True}) if by else r


def values_for(document: Document) -> Values:
    """How a document's dimensions are worked out."""
    known = names(document)
    kinds: dict[str, Kind] = {"angle": "angle", "number": "number"}
    return Values(lambda text, kind: known.value(text, kinds.get(kind, "length")), document.unit)


def altered(document: Document, **update: Any) -> Document:
    """A copy with some fields replaced."""
    return document.model_copy(update=update)


def with_step(document: Document, step: AnyStep) -> Document:
    """A copy with ``step`` in the place of the step of its id."""
    return altered(document, steps=[step if s.id == step.id else s for s in document.steps])


def with_sketch(document: Document, step: SketchStep, sketch: Sketch, **update: Any) -> Document:
    """A copy with another sketch in a step; what tied it to edges that are no longer in it goes."""
    there = set(sketch.given)
    projections = [p for p in step.projections if p.entity in there]
    return with_step(document, step.model_copy(update={"sketch": sketch, "projections": projections, **update}))


def step_of(document: Document, ident: str) -> AnyStep:
    """The step of this id. Raises Refusal if it is gone."""
    step = document.step(ident)
    if step is None:
        raise Refusal("This step is no longer in the route.", step=ident)
    return step


def sketch_step(document: Document, ident: str) -> SketchStep:
    """The sketch of this id. Raises Refusal if it is gone or another kind of step."""
    step = step_of(document, ident)
    if not isinstance(step, SketchStep):
        raise Refusal(f"Step {document.position(ident)} is not a sketch.", step=ident)
    return step


def title(document: Document, step: AnyStep) -> str:
    """A step's short name in sentences."""
    return step.name or f"{step.kind.capitalize()} {document.position(step.id)}"
