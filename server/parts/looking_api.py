"""Looking at a finished part: measuring what is pointed at, holding it against another state or part."""

import json
from typing import Any, Literal
from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field, FiniteFloat

from kernel.made import wait_for
from kernel.queue import ask
from sulvak_core.part.errors import Refusal
from workspaces.access import part_for

router = Router()
Place = tuple[FiniteFloat, FiniteFloat, FiniteFloat]


class PickIn(Schema):
    """A body by its id, and of it a face or edge by its number in the picture, a corner by its place (mm), or all.
    ``at``: where a face was pressed."""

    body: str
    kind: Literal["body", "face", "edge", "corner"] = "body"
    index: int = Field(0, ge=0)
    at: Place | None = None


class MeasureIn(Schema):
    picks: list[PickIn] = Field(max_length=2)


class FigureOut(Schema):
    """One figure; ``value`` in mm, mm², mm³, g or degrees, ``text`` as it is read, ``line`` where it lies."""

    name: str
    value: float
    of: str
    text: str
    callout: str
    line: tuple[Place, Place] | None


class MeasuredOut(Schema):
    said: str
    figures: list[FigureOut]


@router.post("/parts/{part_id}/measure", response=MeasuredOut)
def post_measure(request: HttpRequest, part_id: UUID, data: MeasureIn) -> Any:
    """What one or two things pointed at measure on the finished part."""
    part, _ = part_for(request.user, part_id)
    question = {"do": "measure", "picks": [p.dict() for p in data.picks]}
    key = ask(part.pk, part.version, question)
    return json.loads(bytes(wait_for(key, 20.0, "This is still being measured; try again in a moment.").data))


class ChangeOut(Schema):
    """A difference in words; ``step`` is a number on the route, None for what is no step's."""

    step: int | None
    what: str
    before: str
    after: str


class ComparedOut(Schema):
    """``added`` and ``removed`` name meshes; ``volumes`` are theirs in mm³; ``volume`` and ``grams`` of the whole part
    before and after."""

    changes: list[ChangeOut]
    added: list[str]
    removed: list[str]
    volumes: dict[str, float]
    volume: tuple[float, float]
    grams: tuple[float | None, float | None]


@router.get("/parts/{part_id}/compare", response=ComparedOut)
def get_compare(
    request: HttpRequest, part_id: UUID, version: int | None = None, other: UUID | None = None
) -> dict[str, Any]:
    """The part as it is, held against itself at a ``version`` or against an ``other`` part of the workspace."""
    part, _ = part_for(request.user, part_id)
    question: dict[str, Any] = {"do": "compare"}
    if (version is None) == (other is None):
        raise Refusal("Say which version or which other part to compare with.")
    if version is not None:
        if not 0 <= version <= part.version:
            raise Refusal("This part has no such version.")
        question["version"] = version
    else:
        against, _ = part_for(request.user, other)
        if against.workspace_id != part.workspace_id:
            raise Refusal("Only parts of one workspace can be compared.")
        question |= {"part": str(against.pk), "of": against.version}
    late = "The two are still being compared; try again in a moment."
    return dict(json.loads(bytes(wait_for(ask(part.pk, part.version, question), 60.0, late).data)))
