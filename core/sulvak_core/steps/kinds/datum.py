"""The datum step: a plane, an axis or a point to sketch on, mirror about, turn round or measure from."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from ...naming.model import FaceRef
from ...part.document import SignedAngle, SignedLength, StepBase
from ..choices import AxisChoice, PlaneChoice, Points
from ..kind import Start, StepKind
from ..sentence import Option, Part, Slot, Words, when

Form = Literal[
    "offset",
    "angled",
    "middle",
    "points",
    "alongside",
    "tangent",
    "axis",
    "crossing",
    "joining",
    "square",
    "point",
    "between",
    "centre",
    "meeting",
]
AXES: tuple[str, ...] = ("axis", "crossing", "joining", "square")
POINTS: tuple[str, ...] = ("point", "between", "centre", "meeting")
NEEDED: dict[str, int] = {"points": 3, "joining": 2, "between": 2, "alongside": 1, "square": 1, "point": 1}


class DatumStep(StepBase):
    """``offset``: alongside ``plane`` at a distance. ``angled``: ``plane`` turned about ``axis``. ``middle``: half
    way between ``plane`` and ``other`` (between crossing planes the one that halves their angle). ``points``: through
    three points (``corners``). ``alongside``: alongside ``plane``, through a point. ``tangent``: alongside ``plane``,
    touching the round ``face`` on the side the plane faces, or the far one by ``reverse``.

    ``axis``: where ``axis`` lies. ``crossing``: where two planes cross. ``joining``: through two points. ``square``:
    square to ``plane`` through a point.

    ``point``: where a corner or another point is. ``between``: midway between two. ``centre``: of the round edge or
    face that gives ``axis``. ``meeting``: where ``axis`` goes through ``plane``."""

    kind: Literal["datum"] = "datum"
    form: Form = "offset"
    plane: PlaneChoice | None = None
    other: PlaneChoice | None = None
    axis: AxisChoice | None = None
    corners: Points = Field(default_factory=list)
    face: FaceRef | None = None
    reverse: bool = False
    distance: SignedLength = "10"
    angle: SignedAngle = "45"


SENTENCE: tuple[Part, ...] = (
    Slot(
        "form",
        "choice",
        "Kind of datum",
        (
            Option("offset", "Datum plane beside", on="another"),
            Option("angled", "Datum plane at an angle to", on="another"),
            Option("middle", "Datum plane midway between", on="two"),
            Option("points", "Datum plane through", on="three points"),
            Option("alongside", "Datum plane parallel to", on="another, through a point"),
            Option("tangent", "Datum plane alongside", on="another, touching a round face"),
            Option("axis", "Datum axis along", on="an edge or axis"),
            Option("crossing", "Datum axis where", on="two planes cross"),
            Option("joining", "Datum axis through", on="two points"),
            Option("square", "Datum axis square to", on="a plane, through a point"),
            Option("point", "Datum point at", on="a corner or middle"),
            Option("between", "Datum point midway between", on="two points"),
            Option("centre", "Datum point at the centre of", on="a round edge or face"),
            Option("meeting", "Datum point where", on="an axis goes through a plane"),
        ),
    ),
    Slot(
        "plane",
        "plane",
        "Plane",
        when=when("form", "offset", "angled", "middle", "tangent", "crossing", "alongside", "square"),
    ),
    Words("through", when("form", "alongside", "square")),
    Slot("corners", "points", "Three points", when=when("form", "points"), count=3),
    Slot("corners", "points", "Two points", when=when("form", "joining", "between"), count=2),
    Slot("corners", "points", "Point", when=when("form", "alongside", "square", "point"), count=1),
    Words("touching", when("form", "tangent")),
    Slot("face", "face", "Round face", when=when("form", "tangent")),
    Slot(
        "reverse",
        "flag",
        "Which side",
        (Option("false", "on its near side"), Option("true", "on its far side")),
        when=when("form", "tangent"),
    ),
    Words("and", when("form", "middle", "crossing")),
    Slot("other", "plane", "Other plane", when=when("form", "middle", "crossing")),
    Words("cross", when("form", "crossing")),
    Words("at", when("form", "offset")),
    Slot("distance", "length", "Distance", when=when("form", "offset")),
    Words("about", when("form", "angled")),
    Slot("axis", "axis", "Axis", when=when("form", "angled", "axis", "meeting")),
    Slot("axis", "axis", "Round edge or face", when=when("form", "centre")),
    Words("goes through", when("form", "meeting")),
    Slot("plane", "plane", "Plane", when=when("form", "meeting")),
    Words("by", when("form", "angled")),
    Slot("angle", "angle", "Angle", when=when("form", "angled")),
)


TOP = {"kind": "datum", "plane": "top"}

DATUM = StepKind(
    DatumStep,
    SENTENCE,
    makes="guide",
    starts=(Start("datum", "Datum", "b d", "build", {"form": "offset", "plane": TOP}, "distance"),),
    takes={"plane": "plane"},
)
