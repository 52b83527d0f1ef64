"""Bodies moved and turned."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ...part.document import SignedAngle, SignedLength, StepBase
from ..choices import AxisChoice, BodyId
from ..kind import Start, StepKind
from ..sentence import Option, Part, Slot, Words, when

Bodies = Annotated[list[BodyId], Field(min_length=1, max_length=200)]


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


SENTENCE: tuple[Part, ...] = (
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


MOVE = StepKind(
    MoveStep,
    SENTENCE,
    starts=(Start("move", "Move", "r m", "bodies", {"bodies": []}, "bodies", "body"),),
    takes={"bodies": "bodies"},
)
