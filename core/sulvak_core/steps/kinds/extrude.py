"""The extrude step: a profile moved square to its plane, to add material, cut it away, or start a new body."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ...naming.model import FaceRef
from ...part.document import LengthText, SignedAngle, SignedLength, StepBase, StepId, Strict
from ...sketch.regions import RegionPick
from ..choices import AxisChoice
from ..kind import Start, StepKind
from ..sentence import Option, Part, Slot, When, Words, when


class ByDepth(Strict):
    kind: Literal["depth"] = "depth"
    depth: LengthText


class Symmetric(Strict):
    """Half of ``depth`` to either side of the sketch."""

    kind: Literal["symmetric"] = "symmetric"
    depth: LengthText


class TwoDepths(Strict):
    """``depth`` one way and ``back`` the other."""

    kind: Literal["two_depths"] = "two_depths"
    depth: LengthText
    back: LengthText


class ThroughAll(Strict):
    kind: Literal["through_all"] = "through_all"


class ThroughBoth(Strict):
    """All the way through to either side of the sketch."""

    kind: Literal["through_both"] = "through_both"


class ToNext(Strict):
    """As far as the next face of the part that the whole profile meets."""

    kind: Literal["to_next"] = "to_next"


class ToFace(Strict):
    """As far as a face carried on beyond its edges; ``offset`` stops before it, or after it when negative."""

    kind: Literal["to_face"] = "to_face"
    face: FaceRef
    offset: SignedLength = "0"


Extent = Annotated[
    ByDepth | Symmetric | TwoDepths | ThroughAll | ThroughBoth | ToNext | ToFace, Field(discriminator="kind")
]


class ExtrudeStep(StepBase):
    """``regions`` None takes the sketch's profile as a drafter means it: outside in, islands left out.

    ``reverse`` goes against the sketch's normal. A cut goes into the part by itself when the sketch
    lies on a face: there ``reverse`` false means into the material. ``taper`` narrows what is extruded away from
    the sketch (widens it when negative). With a ``wall`` an open chain, or the outline of a region, becomes a wall
    of that thickness: to its ``wall_side``. ``along`` leans what is extruded to run along an edge or axis; depths stay
    square to the sketch.
    """

    kind: Literal["extrude"] = "extrude"
    sketch: StepId
    regions: Annotated[list[RegionPick], Field(max_length=500)] | None = None
    operation: Literal["add", "cut", "intersect", "new"] = "add"
    extent: Extent
    reverse: bool = False
    taper: SignedAngle = "0"
    wall: Annotated[str, Field(max_length=200, json_schema_extra={"quantity": "length"})] = ""
    wall_side: Literal["middle", "left", "right"] = "middle"
    along: AxisChoice | None = None
    bodies: Annotated[list[str], Field(max_length=200)] | None = None


OPERATIONS = (
    Option("add", "Extrude"),
    Option("cut", "Cut"),
    Option("intersect", "Intersect with"),
    Option("new", "Extrude as a new body"),
)

SENTENCE: tuple[Part, ...] = (
    Slot("operation", "choice", "Operation", OPERATIONS),
    Slot("regions", "regions", "Regions"),
    Slot("sketch", "sketch", "Sketch"),
    Slot(
        "extent.kind",
        "choice",
        "Extent",
        (
            Option("depth", "by", (("depth", "10"),)),
            Option("symmetric", "symmetric by", (("depth", "10"),)),
            Option("two_depths", "both ways by", (("depth", "10"), ("back", "5"))),
            Option("through_all", "through all"),
            Option("through_both", "through all, both ways"),
            Option("to_next", "to the next face"),
            Option("to_face", "to a face", (("face", ""), ("offset", "0"))),
        ),
    ),
    Slot("extent.depth", "length", "Depth", when=when("extent.kind", "depth", "symmetric", "two_depths")),
    Words("and back by", when("extent.kind", "two_depths")),
    Slot("extent.back", "length", "Depth back", when=when("extent.kind", "two_depths")),
    Slot("extent.face", "face", "Face to reach", when=when("extent.kind", "to_face")),
    Slot("extent.offset", "length", "Short of it by", when=when("extent.kind", "to_face"), optional=True),
    Slot(
        "reverse",
        "flag",
        "Direction",
        (Option("false", "straight on"), Option("true", "turned round")),
        when=when("extent.kind", "depth", "two_depths", "through_all", "to_next"),
    ),
    Words("along", when("along.set", "true")),
    Slot("along", "axis", "Along an edge", optional=True),
    Slot("taper", "angle", "Taper", optional=True),
    Slot("wall", "length", "Thin wall", optional=True),
    Slot(
        "wall_side",
        "choice",
        "Side of the wall",
        (Option("middle", "about the line"), Option("left", "left of it"), Option("right", "right of it")),
        when=(When("wall.set", ("true",)),),
    ),
    Slot("bodies", "bodies", "Of bodies", optional=True, when=when("operation", "add", "cut", "intersect")),
)


DEPTH = {"kind": "depth", "depth": "10"}

EXTRUDE = StepKind(
    ExtrudeStep,
    SENTENCE,
    starts=(
        Start("extrude", "Extrude", "b e", "build", {"operation": "add", "extent": DEPTH}, "extent.depth", "sketch"),
        Start("cut", "Cut", "b c", "build", {"operation": "cut", "extent": DEPTH}, "extent.depth", "sketch"),
    ),
    source="regions",
    repeatable=True,
)
