"""The text step: letters engraved into a face or raised on it, without a sketch of their own."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ...naming.model import FaceRef
from ...part.document import LengthText, SignedAngle, SignedLength, StepBase
from ..kind import Start, StepKind
from ..sentence import Option, Part, Slot, Words


class TextStep(StepBase):
    """The middle of the text stands ``x`` to the right and ``y`` up from the middle of the face, as the face's view
    reads; on a round face both are walked along it. ``height`` is that of the capitals. ``depth`` is square to the
    face everywhere, on a round one too."""

    kind: Literal["text"] = "text"
    operation: Literal["engrave", "raise"] = "engrave"
    text: Annotated[str, Field(min_length=1, max_length=200)] = "A"
    face: FaceRef | None = None
    height: LengthText = "5"
    depth: LengthText = "0.5"
    x: SignedLength = "0"
    y: SignedLength = "0"
    angle: SignedAngle = "0"


SENTENCE: tuple[Part, ...] = (
    Slot("operation", "choice", "Text is", (Option("engrave", "Engrave"), Option("raise", "Raise"))),
    Slot("text", "text", "Letters"),
    Words("on"),
    Slot("face", "face", "Face"),
    Words(","),
    Slot("height", "length", "Height of the capitals"),
    Words("high and"),
    Slot("depth", "length", "Depth"),
    Words("deep,"),
    Slot("x", "length", "To the right of the middle"),
    Words("right and"),
    Slot("y", "length", "Up from the middle"),
    Words("up from its middle, turned by"),
    Slot("angle", "angle", "Turned by"),
)


TEXT = StepKind(
    TextStep,
    SENTENCE,
    starts=(Start("text", "Text", "b t", "build", {}, "face", "body"),),
    repeatable=True,
)
