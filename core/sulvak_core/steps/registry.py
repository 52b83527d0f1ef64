"""All kinds of step, and the document type they make: one source for validation, schema and types."""

from __future__ import annotations

import weakref
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Annotated, Any, Generic, TypeVar

from pydantic import Field, ValidationError

from ..part.document import Part
from ..part.errors import Refusal, validation_words
from ..part.expressions import Kind, Names
from ..part.migrations import migrate
from ..sketch.components import sharing
from ..sketch.edit import pattern_values
from . import walk
from .kinds import KINDS
from .kinds.body import BodyStep
from .kinds.chamfer import ChamferStep
from .kinds.combine import CombineStep
from .kinds.datum import DatumStep
from .kinds.draft import DraftStep
from .kinds.extrude import ExtrudeStep
from .kinds.fillet import FilletStep
from .kinds.hole import HoleStep
from .kinds.import_file import ImportStep
from .kinds.move import MoveStep
from .kinds.pattern import PatternStep
from .kinds.remove import RemoveStep
from .kinds.revolve import RevolveStep
from .kinds.rib import RibStep
from .kinds.shell import ShellStep
from .kinds.sketch import SketchStep
from .kinds.split import SplitStep
from .kinds.text import TextStep
from .sentence import Part as Words

T = TypeVar("T")

AnyStep = Annotated[
    SketchStep
    | ExtrudeStep
    | RevolveStep
    | RibStep
    | HoleStep
    | TextStep
    | PatternStep
    | FilletStep
    | ChamferStep
    | DraftStep
    | ShellStep
    | CombineStep
    | SplitStep
    | MoveStep
    | RemoveStep
    | DatumStep
    | ImportStep
    | BodyStep,
    Field(discriminator="kind"),
]

BY_KIND = {k.kind: k for k in KINDS}


class Document(Part[AnyStep]):
    """A Sulvak part with all its kinds of step."""


@dataclass(frozen=True)
class Opened:
    """A document beside the JSON data it is written as, member by member. Neither is ever changed in place."""

    data: dict[str, Any]
    document: Document


def load(data: Any, like: Opened | None = None) -> Document:
    """A document from JSON data of any format there was. Raises Refusal naming the first place that is wrong.

    Steps that stand in ``like`` with the same data are taken from there instead of being read again.
    """
    try:
        data = migrate(data)
        if like is not None and isinstance(data, dict) and isinstance(data.get("steps"), list):
            known = _by_id(like)
            data = {**data, "steps": [_known(raw, known) for raw in data["steps"]]}
        document = Document.model_validate(data)
    except ValidationError as error:
        where, what = validation_words(error.errors()[0])
        raise Refusal(f"This is not a part as Sulvak writes it: at {where or 'its beginning'}, {what}.") from None
    return document if like is None else _sharing(document, like.document)


def _by_id(opened: Opened) -> dict[str, tuple[Any, AnyStep]]:
    """Each step and its data."""
    return {step.id: (raw, step) for raw, step in zip(opened.data["steps"], opened.document.steps, strict=True)}


def _sharing(document: Document, like: Document) -> Document:
    """The document with what its sketches have in common with those of ``like`` as the same objects."""
    drawn = {s.id: s for s in like.steps if isinstance(s, SketchStep)}
    steps = list(document.steps)
    for i, step in enumerate(steps):
        other = drawn.get(step.id)
        if isinstance(step, SketchStep) and other is not None and other is not step:
            steps[i] = step.model_copy(update={"sketch": sharing(step.sketch, other.sketch)})
    return document.model_copy(update={"steps": steps})


def _known(raw: Any, known: dict[str, tuple[Any, AnyStep]]) -> Any:
    """A step of ``known`` whose data are ``raw``; ``raw`` itself where there is none."""
    ident = raw.get("id") if isinstance(raw, dict) else None
    found = known.get(ident) if isinstance(ident, str) else None
    return found[1] if found is not None and found[0] == raw else raw


def to_json(document: Document, like: Opened | None = None) -> dict[str, Any]:
    """The document as plain JSON data. Steps that ``like`` has too, and what its sketches have in common with it, share
    their data with it; nobody changes those."""
    if like is None:
        return document.model_dump(mode="json")
    before = _by_id(like)
    data = document.model_dump(mode="json", exclude={"steps"})
    data["steps"] = [_written(s, *before.get(s.id, ({}, None))) for s in document.steps]
    return data


_LISTS = ("entities", "constraints", "dimensions")


def _written(step: AnyStep, raw: dict[str, Any], before: AnyStep | None) -> dict[str, Any]:
    """A step as plain data. What it shares with the step that stood ``before`` under its id, all of it or entities and
    ties, shares its data with that one's, ``raw``."""
    if step is before:
        return raw
    if not isinstance(step, SketchStep) or not isinstance(before, SketchStep):
        return step.model_dump(mode="json")
    data = step.model_dump(mode="json", exclude={"sketch": set(_LISTS)})
    lists: dict[str, list[Any]] = {}
    for name in _LISTS:
        known = {id(x): r for x, r in zip(getattr(before.sketch, name), raw["sketch"][name], strict=True)}
        lists[name] = [known.get(id(x)) or x.model_dump(mode="json") for x in getattr(step.sketch, name)]
    data["sketch"] = lists | data["sketch"]
    return data


def names(document: Document) -> Names:
    """Named values and named dimensions, ready to work out expressions."""
    texts: dict[str, tuple[str, Kind]] = {v.name: (v.expr, v.kind) for v in document.values}
    for step in document.steps:
        if isinstance(step, SketchStep):
            for d in step.sketch.dimensions:
                if d.name:
                    texts[d.name] = (d.expr, "angle" if d.kind == "angle" else "length")
    return Names(texts, document.unit)


def needs(step: AnyStep) -> Iterator[str]:
    """Ids of the steps a step is built on."""
    return iter(_NEEDED(step))


def _needs(step: AnyStep) -> Iterator[str]:
    if isinstance(step, SketchStep):
        yield from (p.stencil for p in step.sketch.placements)
    yield from walk.named_steps(step)


def _needed(step: AnyStep) -> list[str]:
    return list(dict.fromkeys(n for n in _needs(step) if n != step.id))


def expressions(step: AnyStep) -> Iterator[tuple[str, str, Kind]]:
    """(field, text, kind) of every expression in a step."""
    return iter(_EXPRESSED(step))


def _expressed(step: AnyStep) -> Iterator[tuple[str, str, Kind]]:
    for name, text, kind, _ in walk.expressions(step):
        yield name, text, kind
    if isinstance(step, SketchStep):
        for d in step.sketch.dimensions:
            yield d.id, d.expr, "angle" if d.kind == "angle" else "length"
        for p in step.sketch.patterns:
            for name, text, kind in pattern_values(p):
                yield f"{p.id}.{name}", text, kind


class _Known(Generic[T]):
    """What was made of steps that are about: they are never changed in place, and asked the same with every change of
    another."""

    def __init__(self, make: Callable[[AnyStep], T]) -> None:
        self.make = make
        self.known: dict[int, tuple[weakref.ref[AnyStep], T]] = {}

    def __call__(self, step: AnyStep) -> T:
        number = id(step)
        found = self.known.get(number)
        if found is not None and found[0]() is step:
            return found[1]
        made = self.make(step)
        self.known[number] = (weakref.ref(step, lambda _: self.known.pop(number, None)), made)
        return made


_NEEDED = _Known(_needed)
_EXPRESSED = _Known(lambda step: list(_expressed(step)))


def sentence_of(step: AnyStep) -> tuple[Words, ...]:
    """The sentence a kind of step is said in."""
    return BY_KIND[step.kind].sentence
