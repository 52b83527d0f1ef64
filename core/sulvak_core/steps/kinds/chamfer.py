"""Chamfers of edges."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from ...part.document import AngleText, LengthText, StepBase
from ..choices import Edges
from ..kind import Start, StepKind
from ..sentence import Option, Part, Slot, Words, when


class ChamferStep(StepBase):
    """Edges cut off. ``first`` lies on one face of each edge, ``second`` (or ``angle``) on the other; ``swap``
    exchanges which face that is."""

    kind: Literal["chamfer"] = "chamfer"
    edges: Edges
    form: Literal["equal", "two", "angle"] = "equal"
    first: LengthText = "1"
    second: LengthText = "1"
    angle: AngleText = "45"
    swap: bool = False
    left_out: Edges = Field(default_factory=list)


SENTENCE: tuple[Part, ...] = (
    Words("Chamfer"),
    Slot("edges", "edges", "Edges"),
    Words("by"),
    Slot("first", "length", "Distance"),
    Slot(
        "form",
        "choice",
        "Shape",
        (Option("equal", "on both faces"), Option("two", "on one face and"), Option("angle", "on one face at")),
    ),
    Slot("second", "length", "Second distance", when=when("form", "two")),
    Words("on the other", when("form", "two")),
    Slot("angle", "angle", "Angle", when=when("form", "angle")),
    Slot(
        "swap",
        "flag",
        "Which face",
        (Option("false", "as shown"), Option("true", "faces swapped")),
        when=when("form", "two", "angle"),
    ),
    Slot("left_out", "edges", "Left out", optional=True),
)


CHAMFER = StepKind(
    ChamferStep,
    SENTENCE,
    starts=(Start("chamfer", "Chamfer", "r c", "refine", {"edges": []}, "edges", "body"),),
    takes={"edges": "edges"},
)
