"""Steps that treat edges and faces: rounds, chamfers, draft, shell."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from ..part.document import AngleText, LengthText, StepBase, Strict
from .choices import BodyId, Edges, Faces, PlaneChoice
from .sentence import Group, Option, Part, Slot, Words, when


class RoundGroup(Strict):
    """Edges rounded with one radius."""

    edges: Edges
    radius: LengthText


class FilletStep(StepBase):
    """Edges rounded, inside and outside ones alike, each along with what runs on smoothly from it.

    ``left_out``: edges taken out again of what the rules choose.
    """

    kind: Literal["fillet"] = "fillet"
    groups: Annotated[list[RoundGroup], Field(min_length=1, max_length=50)]
    left_out: Edges = Field(default_factory=list)


FILLET: tuple[Part, ...] = (
    Words("Round"),
    Group(
        "groups",
        (Slot("edges", "edges", "Edges"), Words("with R"), Slot("radius", "length", "Radius")),
        "another radius",
    ),
    Slot("left_out", "edges", "Left out", optional=True),
)


class ChamferStep(StepBase):
    """Edges cut off. ``first`` lies on one face of each edge, ``second`` (or ``angle``) on the other; ``swap``
    exchanges which face that is."""

    kind: Literal["chamfer"] = "chamfer"
    edges: Edges
    form: Literal["equal", "two", "angle"] = "equal"
    first: LengthText = "1"
    second: LengthText = "1"
    angle: AngleText = "45"
    swap: bool = False
    left_out: Edges = Field(default_factory=list)


CHAMFER: tuple[Part, ...] = (
    Words("Chamfer"),
    Slot("edges", "edges", "Edges"),
    Words("by"),
    Slot("first", "length", "Distance"),
    Slot(
        "form",
        "choice",
        "Shape",
        (Option("equal", "on both faces"), Option("two", "on one face and"), Option("angle", "on one face at")),
    ),
    Slot("second", "length", "Second distance", when=when("form", "two")),
    Words("on the other", when("form", "two")),
    Slot("angle", "angle", "Angle", when=when("form", "angle")),
    Slot(
        "swap",
        "flag",
        "Which face",
        (Option("false", "as shown"), Option("true", "faces swapped")),
        when=when("form", "two", "angle"),
    ),
    Slot("left_out", "edges", "Left out", optional=True),
)


class DraftGroup(Strict):
    """Faces drafted by one angle, about a ``neutral`` plane of their own or that of the step."""

    faces: Faces
    angle: AngleText
    neutral: PlaneChoice | None = None


class DraftStep(StepBase):
    """Faces inclined about where they meet the ``neutral`` plane, narrowing along the pull: ``away`` from the plane to
    the side each face stands on (one on both sides: into the part behind a face, along the normal of a datum plane),
    ``along`` the plane's normal (outward, of a face) or ``against`` it. ``outward`` widens instead. ``split``: faces
    are parted at the neutral plane; beyond it they incline by ``other`` the other way."""

    kind: Literal["draft"] = "draft"
    neutral: PlaneChoice
    pull: Literal["away", "along", "against"] = "away"
    groups: Annotated[list[DraftGroup], Field(min_length=1, max_length=50)]
    outward: bool = False
    split: bool = False
    other: AngleText = "2"

    @model_validator(mode="before")
    @classmethod
    def _of_before(cls, data: Any) -> Any:
        """Parts stored before the pull could be said: ``reverse`` turned it from the way into the part behind a face,
        or along the normal of a datum plane."""
        if isinstance(data, dict) and "reverse" in data:
            data = dict(data)
            neutral = data.get("neutral")
            kind = neutral.get("kind") if isinstance(neutral, dict) else getattr(neutral, "kind", None)
            turned = data.pop("reverse") is True
            data["pull"] = "along" if turned == (kind == "face") else "against"
        return data


DRAFT: tuple[Part, ...] = (
    Words("Draft"),
    Group(
        "groups",
        (
            Slot("faces", "faces", "Faces"),
            Words("by"),
            Slot("angle", "angle", "Angle"),
            Words("about", when("neutral.set", "true")),
            Slot("neutral", "plane", "Own neutral plane", optional=True),
        ),
        "another angle",
    ),
    Words("from"),
    Slot("neutral", "plane", "Neutral plane"),
    Slot(
        "pull",
        "choice",
        "Pull",
        (
            Option("away", "pulled away from it"),
            Option("along", "pulled the way it faces"),
            Option("against", "pulled against the way it faces"),
        ),
    ),
    Slot("outward", "flag", "Sense", (Option("false", "narrowing"), Option("true", "widening"))),
    Slot("split", "flag", "Parting", (Option("false", "on one side"), Option("true", "parted there, beyond it by"))),
    Slot("other", "angle", "Angle beyond", when=when("split", "true")),
)


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


SHELL: tuple[Part, ...] = (
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
