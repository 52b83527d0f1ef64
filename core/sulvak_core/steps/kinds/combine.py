"""Bodies united, subtracted or intersected."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ...part.document import StepBase
from ..choices import BodyId
from ..kind import Start, StepKind
from ..sentence import Option, Part, Slot, Words, when

Bodies = Annotated[list[BodyId], Field(min_length=1, max_length=200)]


class CombineStep(StepBase):
    """``body`` united or intersected with ``tools``, or these subtracted from it; they stay too when ``keep``."""

    kind: Literal["combine"] = "combine"
    operation: Literal["union", "subtract", "intersect"] = "union"
    body: BodyId
    tools: Bodies
    keep: bool = False


SENTENCE: tuple[Part, ...] = (
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


COMBINE = StepKind(
    CombineStep,
    SENTENCE,
    starts=(Start("combine", "Combine", "r u", "bodies", {"tools": []}, "body", "bodies"),),
    takes={"body": "body", "others": "tools"},
)
