"""The datum step: a plane or an axis to sketch on, mirror about or turn round."""

from __future__ import annotations

from typing import Literal

from ..part.document import SignedAngle, SignedLength, StepBase
from .choices import AxisChoice, PlaneChoice
from .sentence import Option, Part, Slot, Words, when


class DatumStep(StepBase):
    """``offset``: alongside ``plane`` at a distance. ``angled``: ``plane`` turned about ``axis``. ``middle``: half
    way between ``plane`` and ``other`` (between crossing planes the one that halves their angle). ``axis``: where
    ``axis`` lies, or where two planes cross."""

    kind: Literal["datum"] = "datum"
    form: Literal["offset", "angled", "middle", "axis", "crossing"] = "offset"
    plane: PlaneChoice | None = None
    other: PlaneChoice | None = None
    axis: AxisChoice | None = None
    distance: SignedLength = "10"
    angle: SignedAngle = "45"


SENTENCE: tuple[Part, ...] = (
    Slot(
        "form",
        "choice",
        "Kind of datum",
        (
            Option("offset", "Datum plane beside"),
            Option("angled", "Datum plane at an angle to"),
            Option("middle", "Datum plane midway between"),
            Option("axis", "Datum axis along"),
            Option("crossing", "Datum axis where"),
        ),
    ),
    Slot("plane", "plane", "Plane", when=when("form", "offset", "angled", "middle", "crossing")),
    Words("and", when("form", "middle", "crossing")),
    Slot("other", "plane", "Other plane", when=when("form", "middle", "crossing")),
    Words("cross", when("form", "crossing")),
    Words("at", when("form", "offset")),
    Slot("distance", "length", "Distance", when=when("form", "offset")),
    Words("about", when("form", "angled")),
    Slot("axis", "axis", "Axis", when=when("form", "angled", "axis")),
    Words("by", when("form", "angled")),
    Slot("angle", "angle", "Angle", when=when("form", "angled")),
)
