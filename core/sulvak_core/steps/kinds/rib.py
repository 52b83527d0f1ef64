"""The rib step: an open line thickened to both sides until it meets the body."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ...part.document import LengthText, StepBase, StepId
from ..kind import Start, StepKind
from ..sentence import Option, Part, Slot, Words


class RibStep(StepBase):
    """Every open chain of the sketch becomes a rib, half the ``thickness`` to either side of its lines.

    Its outer edge lies in the sketch's plane. From there it runs against the sketch's normal (``reverse``: along it),
    and at both ends of the chain straight on, until it meets the body.
    """

    kind: Literal["rib"] = "rib"
    sketch: StepId
    thickness: LengthText
    reverse: bool = False
    bodies: Annotated[list[str], Field(max_length=200)] | None = None


SENTENCE: tuple[Part, ...] = (
    Words("Rib of"),
    Slot("thickness", "length", "Thickness"),
    Words("along the lines of"),
    Slot("sketch", "sketch", "Sketch"),
    Slot("reverse", "flag", "Direction", (Option("false", "down to the part"), Option("true", "turned round"))),
)

RIB = StepKind(
    RibStep,
    SENTENCE,
    starts=(Start("rib", "Rib", "b b", "build", {"thickness": "2"}, "thickness", "sketch"),),
    source="lines",
    downwards=True,
    repeatable=True,
)
