"""The pattern step: steps or bodies repeated in rows, round an axis, or mirrored."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ...part.document import AngleText, CountText, LengthText, StepBase, StepId
from ..choices import AxisChoice, BodyId, Faces, PlaneChoice
from ..kind import Start, StepKind
from ..sentence import Option, Part, Slot, Words, when

Left = tuple[Annotated[int, Field(ge=0, le=5000)], Annotated[int, Field(ge=0, le=5000)]]


class PatternStep(StepBase):
    """Copies of ``of`` (steps that add or cut), of ``faces`` (all of a hole, pocket or boss, wherever it came from) or
    of whole ``bodies``. Counts have the original among them.

    ``spacing`` is from one to the next, or over all copies when ``measure`` is total. ``left_out`` names places
    (along the first and the second direction, 0 the original) that stay empty. ``afresh``: a copy's extent is
    worked out where it stands, instead of copying what came out for the original.
    """

    kind: Literal["pattern"] = "pattern"
    form: Literal["linear", "circular", "mirror"] = "linear"
    of: Annotated[list[StepId], Field(max_length=200)] = Field(default_factory=list)
    faces: Faces = Field(default_factory=list)
    bodies: Annotated[list[BodyId], Field(max_length=200)] = Field(default_factory=list)
    along: AxisChoice | None = None
    count: CountText = "3"
    spacing: LengthText = "10"
    reverse: bool = False
    second: AxisChoice | None = None
    second_count: CountText = "2"
    second_spacing: LengthText = "10"
    second_reverse: bool = False
    measure: Literal["spacing", "total"] = "spacing"
    angle: AngleText = "360"
    plane: PlaneChoice | None = None
    left_out: Annotated[list[Left], Field(max_length=5000)] = Field(default_factory=list)
    afresh: bool = False
    join: bool = True


_LINEAR = when("form", "linear")
_SECOND = (*when("form", "linear"), *when("second.set", "true"))

SENTENCE: tuple[Part, ...] = (
    Slot(
        "form",
        "choice",
        "Kind of pattern",
        (Option("linear", "Repeat in rows"), Option("circular", "Repeat round"), Option("mirror", "Mirror")),
    ),
    Slot("of", "steps", "Steps to repeat", optional=True),
    Slot("faces", "faces", "Faces to repeat", optional=True),
    Slot("bodies", "bodies", "Bodies to repeat", optional=True),
    Words("along", _LINEAR),
    Words("about", when("form", "circular")),
    Slot("along", "axis", "Axis", when=when("form", "linear", "circular")),
    Slot("count", "count", "Count", when=when("form", "linear", "circular")),
    Words("times", when("form", "linear", "circular")),
    Slot(
        "measure",
        "choice",
        "Counted",
        (Option("spacing", "each by"), Option("total", "over")),
        when=when("form", "linear", "circular"),
    ),
    Slot("spacing", "length", "Spacing", when=_LINEAR),
    Slot("angle", "angle", "Angle", when=when("form", "circular")),
    Slot(
        "reverse",
        "flag",
        "Direction",
        (Option("false", "straight on"), Option("true", "turned round")),
        when=when("form", "linear", "circular"),
    ),
    Words("and along", _SECOND),
    Slot("second", "axis", "Second direction", optional=True, when=_LINEAR),
    Slot("second_count", "count", "Second count", when=_SECOND),
    Words("times by", _SECOND),
    Slot("second_spacing", "length", "Second spacing", when=_SECOND),
    Slot(
        "second_reverse",
        "flag",
        "Second way",
        (Option("false", "straight on"), Option("true", "turned round")),
        when=_SECOND,
    ),
    Words("about", when("form", "mirror")),
    Slot("plane", "plane", "Plane", when=when("form", "mirror")),
    Slot("left_out", "grid", "Left out", optional=True, when=when("form", "linear", "circular")),
    Slot(
        "afresh",
        "flag",
        "Extents",
        (Option("false", "copied as they are"), Option("true", "worked out where each stands")),
        when=when("of.set", "true"),
    ),
    Slot(
        "join",
        "flag",
        "Bodies",
        (Option("true", "joined to the part"), Option("false", "bodies of their own")),
        when=when("bodies.set", "true"),
    ),
)


X = {"kind": "axis", "axis": "x"}
RIGHT = {"kind": "datum", "plane": "right"}

PATTERN = StepKind(
    PatternStep,
    SENTENCE,
    starts=(
        Start("pattern", "Pattern", "b p", "build", {"form": "linear", "along": X}, "of", "body"),
        Start("mirror", "Mirror", "b m", "build", {"form": "mirror", "plane": RIGHT}, "of", "body"),
    ),
    repeatable=True,
    takes={"steps": "of", "faces": "faces", "axis": "along"},
)
