"""Bodies parted by a plane, a face or a sketch."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ...naming.model import FaceRef
from ...part.document import StepBase, StepId
from ..choices import BodyId, PlaneChoice
from ..kind import Start, StepKind
from ..sentence import Option, Part, Slot, Words, when

Bodies = Annotated[list[BodyId], Field(min_length=1, max_length=200)]


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


SENTENCE: tuple[Part, ...] = (
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


TOP = {"kind": "datum", "plane": "top"}

SPLIT = StepKind(
    SplitStep,
    SENTENCE,
    starts=(Start("split", "Split", "r t", "bodies", {"plane": TOP}, "plane", "body"),),
)
