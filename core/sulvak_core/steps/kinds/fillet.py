"""Rounds of edges."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ...part.document import LengthText, StepBase, Strict
from ..choices import Edges
from ..kind import Start, StepKind
from ..sentence import Group, Part, Slot, Words


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


SENTENCE: tuple[Part, ...] = (
    Words("Round"),
    Group(
        "groups",
        (Slot("edges", "edges", "Edges"), Words("with R"), Slot("radius", "length", "Radius")),
        "another radius",
    ),
    Slot("left_out", "edges", "Left out", optional=True),
)


ROUND = {"edges": [], "radius": "2"}

FILLET = StepKind(
    FilletStep,
    SENTENCE,
    called="round",
    starts=(Start("fillet", "Round", "r f", "refine", {"groups": [ROUND]}, "groups.0.edges", "body"),),
    takes={"edges": "groups.0.edges"},
)
