"""The revolve step: a profile turned about an axis."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ...part.document import AngleText, StepBase, StepId
from ...sketch.regions import RegionPick
from ..choices import AxisChoice
from ..kind import Start, StepKind
from ..sentence import Option, Part, Slot, Words


class RevolveStep(StepBase):
    """``angle`` is counted right-handed about the axis, half of it to either side when ``symmetric``."""

    kind: Literal["revolve"] = "revolve"
    sketch: StepId
    regions: Annotated[list[RegionPick], Field(max_length=500)] | None = None
    operation: Literal["add", "cut", "intersect", "new"] = "add"
    axis: AxisChoice
    angle: AngleText = "360"
    symmetric: bool = False
    reverse: bool = False
    bodies: Annotated[list[str], Field(max_length=200)] | None = None


SENTENCE: tuple[Part, ...] = (
    Slot(
        "operation",
        "choice",
        "Operation",
        (
            Option("add", "Revolve"),
            Option("cut", "Cut by revolving"),
            Option("intersect", "Intersect with a revolved"),
            Option("new", "Revolve as a new body"),
        ),
    ),
    Slot("regions", "regions", "Regions"),
    Slot("sketch", "sketch", "Sketch"),
    Words("about"),
    Slot("axis", "axis", "Axis"),
    Words("by"),
    Slot("angle", "angle", "Angle"),
    Slot("symmetric", "flag", "Sides", (Option("false", "to one side"), Option("true", "half to either side"))),
    Slot("reverse", "flag", "Direction", (Option("false", "straight on"), Option("true", "turned round"))),
    Slot("bodies", "bodies", "Of bodies", optional=True),
)


REVOLVE = StepKind(
    RevolveStep,
    SENTENCE,
    starts=(Start("revolve", "Revolve", "b r", "build", {"axis": {"kind": "line", "line": "y"}}, "angle", "sketch"),),
    source="regions",
    repeatable=True,
    takes={"centre_line": "axis"},
)
