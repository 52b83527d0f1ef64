"""Looking at a finished part: measuring what is pointed at."""

import json
from typing import Any, Literal
from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from kernel.made import wait_for
from kernel.queue import ask
from workspaces.access import part_for

router = Router()
Place = tuple[float, float, float]


class PickIn(Schema):
    """A body by its id, and of it a face or edge by its number in the picture, a corner by its place (mm), or the whole.
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
