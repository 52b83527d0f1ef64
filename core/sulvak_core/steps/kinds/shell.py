"""A body hollowed out."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ...part.document import LengthText, StepBase, Strict
from ..choices import BodyId, Faces
from ..kind import Start, StepKind
from ..sentence import Group, Option, Part, Slot, Words


class WallGroup(Strict):
    """Faces with a wall of their own thickness."""

    faces: Faces
    thickness: LengthText


class ShellStep(StepBase):
    """A body hollowed to a wall; open where ``faces`` are taken off, closed all round without any."""

    kind: Literal["shell"] = "shell"
    faces: Faces = Field(default_factory=list)
    thickness: LengthText = "2"
    side: Literal["inside", "outside", "both"] = "inside"
    own: Annotated[list[WallGroup], Field(max_length=50)] = Field(default_factory=list)
    body: BodyId | None = None


SENTENCE: tuple[Part, ...] = (
    Words("Shell to a wall of"),
    Slot("thickness", "length", "Wall"),
    Slot(
        "side",
        "choice",
        "Side",
        (Option("inside", "inwards"), Option("outside", "outwards"), Option("both", "half to either side")),
    ),
    Words("open at"),
    Slot("faces", "faces", "Open faces", optional=True, empty="nothing"),
    Group(
        "own",
        (Slot("faces", "faces", "Faces"), Words("with"), Slot("thickness", "length", "Own wall")),
        "a wall of its own",
    ),
    Slot("body", "body", "Body", optional=True),
)


SHELL = StepKind(
    ShellStep,
    SENTENCE,
    starts=(Start("shell", "Shell", "r s", "refine", {"faces": []}, "faces", "body"),),
    takes={"faces": "faces"},
)
