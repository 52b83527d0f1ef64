"""Bodies taken out."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ...part.document import StepBase
from ..choices import BodyId
from ..kind import Start, StepKind
from ..sentence import Part, Slot, Words

Bodies = Annotated[list[BodyId], Field(min_length=1, max_length=200)]


class RemoveStep(StepBase):
    """Bodies taken out of the part."""

    kind: Literal["remove"] = "remove"
    bodies: Bodies


SENTENCE: tuple[Part, ...] = (Words("Take out"), Slot("bodies", "bodies", "Bodies"))


REMOVE = StepKind(
    RemoveStep,
    SENTENCE,
    starts=(Start("remove", "Take out", "r x", "bodies", {"bodies": []}, "bodies", "bodies"),),
    takes={"bodies": "bodies"},
)
