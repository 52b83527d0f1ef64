"""Steps on whole bodies: combining, splitting, moving, taking out; their names and colours."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ..naming.model import FaceRef
from ..part.document import SignedAngle, SignedLength, StepBase, StepId
from .choices import AxisChoice, BodyId, PlaneChoice
from .sentence import Option, Part, Slot, Words, when

Bodies = Annotated[list[BodyId], Field(min_length=1, max_length=200)]


class CombineStep(StepBase):
    """``body`` united or intersected with ``tools``, or these subtracted from it; they stay too when ``keep``."""

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
        (Option("union", "Unite"), Option("subtract", "Subtract from"), Option("intersect", "Intersect")),
    ),
    Slot("body", "body", "Body"),
    Words("with", when("operation", "union", "intersect")),
    Words("the tool", when("operation", "subtract")),
    Slot("tools", "bodies", "Other bodies"),
    Slot("keep", "flag", "Others", (Option("false", "used up in it"), Option("true", "kept as well"))),
)


class SplitStep(StepBase):
    """Bodies parted by a plane, by a ``face`` carried on beyond its edges, or by the ``outline`` of a sketch carried
    through them square to it: closed regions, or an open chain carried on straight beyond its ends. ``keep`` says which
    pieces stay: those in front of the plane or flat face (within a round face, inside the outline, to the left of a
    chain), those behind (outside, to the right), or both."""

    kind: Literal["split"] = "split"
    bodies: Annotated[list[BodyId], Field(max_length=200)] | None = None
    by: Literal["plane", "face", "sketch"] = "plane"
    plane: PlaneChoice | None = None
    face: FaceRef | None = None
    outline: StepId | None = None
    keep: Literal["both", "front", "back"] = "both"


SPLIT: tuple[Part, ...] = (
    Words("Split"),
    Slot("bodies", "bodies", "Bodies", optional=True, empty="all bodies"),
    Slot(
        "by",
        "choice",
        "Split by",
        (Option("plane", "at"), Option("face", "where it meets"), Option("sketch", "along the outline of")),
    ),
    Slot("plane", "plane", "Plane", when=when("by", "plane")),
    Slot("face", "face", "Face", when=when("by", "face")),
    Words("carried on,", when("by", "face")),
    Slot("outline", "sketch", "Sketch", when=when("by", "sketch")),
    Slot(
        "keep",
        "choice",
        "What stays",
        (
            Option("both", "keeping both sides"),
            Option("front", "keeping what lies in front"),
            Option("back", "keeping what lies behind"),
        ),
        when=when("by", "plane"),
    ),
    Slot(
        "keep",
        "choice",
        "What stays",
        (
            Option("both", "keeping both sides"),
            Option("front", "keeping what lies before it, or within a round one"),
            Option("back", "keeping what lies behind it, or outside a round one"),
        ),
        when=when("by", "face"),
    ),
    Slot(
        "keep",
        "choice",
        "What stays",
        (
            Option("both", "keeping both sides"),
            Option("front", "keeping what lies inside, or left of a chain"),
            Option("back", "keeping what lies outside, or right of a chain"),
        ),
        when=when("by", "sketch"),
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
