"""All kinds of step, and the document type they make: one source for validation, schema and types."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Annotated, Any

from pydantic import Field, ValidationError

from ..part.document import Part
from ..part.errors import Refusal
from ..part.expressions import Kind, Names
from .body_step import BodyStep
from .extrude_step import ByDepth, ExtrudeStep, Symmetric
from .sketch_step import FacePlane, SketchStep

AnyStep = Annotated[SketchStep | ExtrudeStep | BodyStep, Field(discriminator="kind")]


class Document(Part[AnyStep]):
    """A Sulvak part with all its kinds of step."""


def load(data: Any) -> Document:
    """A document from JSON data. Raises Refusal naming the first place that is wrong."""
    try:
        return Document.model_validate(data)
    except ValidationError as error:
        first = error.errors()[0]
        where = " → ".join(str(k) for k in first["loc"]) or "the file"
        raise Refusal(f"This is not a part as Sulvak writes it: at {where}: {first['msg']}.") from None


def to_json(document: Document) -> dict[str, Any]:
    """The document as plain JSON data."""
    return document.model_dump(mode="json")


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
    if isinstance(step, ExtrudeStep):
        yield step.sketch
    if isinstance(step, SketchStep) and isinstance(step.on, FacePlane):
        yield from {origin.split("/")[0] for origin in step.on.face.origins}
    if isinstance(step, BodyStep):
        yield step.body


def expressions(step: AnyStep) -> Iterator[tuple[str, str, Kind]]:
    """(field, text, kind) of every expression in a step."""
    if isinstance(step, ExtrudeStep) and isinstance(step.extent, ByDepth | Symmetric):
        yield "depth", step.extent.depth, "length"
    if isinstance(step, SketchStep):
        for d in step.sketch.dimensions:
            yield d.id, d.expr, "angle" if d.kind == "angle" else "length"
