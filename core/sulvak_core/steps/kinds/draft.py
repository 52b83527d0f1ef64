"""Faces leaned for release from a mould."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from ...part.document import AngleText, StepBase, Strict
from ..choices import Faces, PlaneChoice
from ..kind import Start, StepKind
from ..sentence import Group, Option, Part, Slot, Words, when


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


SENTENCE: tuple[Part, ...] = (
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


TOP = {"kind": "datum", "plane": "top"}
LEAN = {"faces": [], "angle": "2"}

DRAFT = StepKind(
    DraftStep,
    SENTENCE,
    starts=(Start("draft", "Draft", "r d", "refine", {"neutral": TOP, "groups": [LEAN]}, "groups.0.faces", "body"),),
    takes={"faces": "groups.0.faces"},
)
