"""Steps on whole bodies: combining, splitting, moving, taking out; their names and colours."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ..part.document import SignedAngle, SignedLength, StepBase
from .choices import AxisChoice, BodyId, PlaneChoice
from .sentence import Option, Part, Slot, Words, when

Bodies = Annotated[list[BodyId], Field(min_length=1, max_length=200)]


class CombineStep(StepBase):
    """``body`` united with, lessened by or cut down to ``tools``; those stay too when ``keep``."""

    kind: Literal["combine"] = "combine"
    operation: Literal["union", "subtract", "intersect"] = "union"
    body: BodyId
    tools: Bodies
    keep: bool = False


COMBINE: tuple[Part, ...] = (
    Slot(
        "operation",
        "choice",
        "Operation",
        (Option("union", "Unite"), Option("subtract", "Lessen"), Option("intersect", "Cut down")),
    ),
    Slot("body", "body", "Body"),
    Words("with", when("operation", "union")),
    Words("by", when("operation", "subtract")),
    Words("to what it shares with", when("operation", "intersect")),
    Slot("tools", "bodies", "Other bodies"),
    Slot("keep", "flag", "Others", (Option("false", "which are used up"), Option("true", "which stay"))),
)


class SplitStep(StepBase):
    """Bodies parted by a plane. ``keep`` says which pieces stay: those in front of it, behind it, or both."""

    kind: Literal["split"] = "split"
    bodies: Annotated[list[BodyId], Field(max_length=200)] | None = None
    plane: PlaneChoice
    keep: Literal["both", "front", "back"] = "both"


SPLIT: tuple[Part, ...] = (
    Words("Split"),
    Slot("bodies", "bodies", "Bodies", optional=True, empty="all bodies"),
    Words("at"),
    Slot("plane", "plane", "Plane"),
    Slot(
        "keep",
        "choice",
        "What stays",
        (
            Option("both", "keeping both sides"),
            Option("front", "keeping what lies in front"),
            Option("back", "keeping what lies behind"),
        ),
    ),
)


class MoveStep(StepBase):
    """Bodies turned by ``angle`` about ``axis`` and then moved by ``x``, ``y``, ``z``; or copies of them."""

    kind: Literal["move"] = "move"
    bodies: Bodies
    x: SignedLength = "0"
    y: SignedLength = "0"
    z: SignedLength = "0"
    axis: AxisChoice | None = None
    angle: SignedAngle = "0"
    copied: bool = False


MOVE: tuple[Part, ...] = (
    Slot("copied", "flag", "What", (Option("false", "Move"), Option("true", "Copy"))),
    Slot("bodies", "bodies", "Bodies"),
    Words("by X"),
    Slot("x", "length", "X"),
    Words("Y"),
    Slot("y", "length", "Y"),
    Words("Z"),
    Slot("z", "length", "Z"),
    Words("turned about", when("axis.set", "true")),
    Slot("axis", "axis", "Axis", optional=True),
    Words("by", when("axis.set", "true")),
    Slot("angle", "angle", "Angle", when=when("axis.set", "true")),
)


class RemoveStep(StepBase):
    """Bodies taken out of the part."""

    kind: Literal["remove"] = "remove"
    bodies: Bodies


REMOVE: tuple[Part, ...] = (Words("Take out"), Slot("bodies", "bodies", "Bodies"))
