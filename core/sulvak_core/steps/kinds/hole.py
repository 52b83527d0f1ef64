"""The hole step: drilled where a sketch has points, plain, counterbored, countersunk or tapped."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ...part.document import AngleText, LengthText, StepBase, StepId
from ...sketch.model import Ref
from ..kind import Start, StepKind
from ..sentence import Option, Part, Slot, Words, when


class HoleStep(StepBase):
    """``points`` None drills at every point and every circle's centre of the sketch that is no construction.

    ``size`` is a thread's designation from the tables (``M5``, ``1/4-20``), or empty for a free ``diameter``.
    ``fit`` says what a sized hole is for: a bolt to pass through (ISO 273) or a thread to be tapped.
    ``depth`` goes to the shoulder of the drill's point. Holes go into the part, away from the side the sketch
    is seen from; ``reverse`` turns that round.
    """

    kind: Literal["hole"] = "hole"
    sketch: StepId
    points: Annotated[list[Ref], Field(max_length=2000)] | None = None
    form: Literal["plain", "counterbore", "countersink", "tapped"] = "plain"
    size: Annotated[str, Field(max_length=20)] = ""
    fit: Literal["close", "medium", "coarse"] = "medium"
    diameter: LengthText = "5"
    end: Literal["blind", "through", "next"] = "through"
    depth: LengthText = "10"
    tip: Literal["point", "flat"] = "point"
    tip_angle: AngleText = "118"
    bore_diameter: LengthText = "10"
    bore_depth: LengthText = "5"
    sink_diameter: LengthText = "10"
    sink_angle: AngleText = "90"
    thread_depth: Annotated[str, Field(max_length=200, json_schema_extra={"quantity": "length"})] = ""
    reverse: bool = False
    bodies: Annotated[list[str], Field(max_length=200)] | None = None


SENTENCE: tuple[Part, ...] = (
    Slot(
        "form",
        "choice",
        "Kind of hole",
        (
            Option("plain", "Drill"),
            Option("counterbore", "Drill and counterbore"),
            Option("countersink", "Drill and countersink"),
            Option("tapped", "Drill and tap"),
        ),
    ),
    Slot("size", "size", "Size", optional=True),
    Slot(
        "fit",
        "choice",
        "Fit",
        (Option("close", "close fit"), Option("medium", "medium fit"), Option("coarse", "coarse fit")),
        when=(*when("size.set", "true"), *when("form", "plain", "counterbore", "countersink")),
    ),
    Words("⌀", when("size.set", "false")),
    Slot("diameter", "length", "Diameter", when=when("size.set", "false")),
    Slot(
        "end",
        "choice",
        "How deep",
        (Option("through", "through all"), Option("blind", "to a depth of"), Option("next", "to the next face")),
    ),
    Slot("depth", "length", "Depth", when=when("end", "blind")),
    Slot(
        "tip",
        "choice",
        "Bottom",
        (Option("point", "with a drill point of"), Option("flat", "with a flat bottom")),
        when=when("end", "blind"),
    ),
    Slot("tip_angle", "angle", "Point angle", when=(*when("end", "blind"), *when("tip", "point"))),
    Words("⌴ ⌀", when("form", "counterbore")),
    Slot("bore_diameter", "length", "Counterbore", when=when("form", "counterbore")),
    Words("↧", when("form", "counterbore")),
    Slot("bore_depth", "length", "Counterbore depth", when=when("form", "counterbore")),
    Words("⌵ ⌀", when("form", "countersink")),
    Slot("sink_diameter", "length", "Countersink", when=when("form", "countersink")),
    Words("×", when("form", "countersink")),
    Slot("sink_angle", "angle", "Countersink angle", when=when("form", "countersink")),
    Words("thread", when("form", "tapped")),
    Slot("thread_depth", "length", "Thread depth", optional=True, empty="all the way", when=when("form", "tapped")),
    Words("at the points of"),
    Slot("sketch", "sketch", "Sketch"),
    Slot("reverse", "flag", "Direction", (Option("false", "straight on"), Option("true", "turned round"))),
    Slot("bodies", "bodies", "Of bodies", optional=True),
)


HOLE = StepKind(
    HoleStep,
    SENTENCE,
    starts=(Start("hole", "Hole", "b h", "build", {}, "diameter", "sketch"),),
    source="points",
    downwards=True,
    repeatable=True,
)
