"""The body step: a body's own name, colour and material."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ...part.document import StepBase, Text
from ..kind import StepKind
from ..sentence import Part, Slot, Words

Colour = Annotated[str, Field(pattern=r"^#[0-9a-fA-F]{6}$")]


class BodyStep(StepBase):
    """Fields left empty stay as they are. ``body`` is a body's id (the step that made it)."""

    kind: Literal["body"] = "body"
    body: Annotated[str, Field(max_length=40)]
    title: Text = ""
    colour: Colour | None = None
    material: Text = ""


SENTENCE: tuple[Part, ...] = (
    Slot("body", "body", "Body"),
    Words(":"),
    Slot("title", "text", "Name of the body", optional=True),
    Slot("colour", "text", "Colour of the body", optional=True),
    Slot("material", "text", "Material of the body", optional=True),
)


BODY = StepKind(
    BodyStep,
    SENTENCE,
    makes="names",
)
