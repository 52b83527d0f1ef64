"""A part's document over HTTP: read, changed by commands, undone and redone."""

from typing import Literal
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from ninja import Router, Schema

from sulvak_core.steps.commands import Command
from workspaces.access import part_for, part_role

from ..answers import PartChangesOut, PartOut, RefusedOut
from ..service import Change, carry_out, step_back, step_forward
from ..view import answer, part_answer, part_changes

router = Router()


class SeenIn(Schema):
    """The version of the part that is on the screen, which a change starts from. ``answer`` "changes" asks for what
    has changed since then instead of the whole part, which is told where ``settled`` is no longer what was seen."""

    version: int
    settled: int = 0
    answer: Literal["whole", "changes"] = "whole"


class CommandIn(SeenIn):
    """A command and the version of the part it was given for."""

    command: Command


@router.get("/parts/{part_id}", response=PartOut)
def get_part(request: HttpRequest, part_id: UUID) -> HttpResponse:
    part, role = part_for(request.user, part_id)
    return part_answer(part, role)


@router.post("/parts/{part_id}/commands", response={200: PartOut | PartChangesOut, 422: RefusedOut})
def command(request: HttpRequest, part_id: UUID, data: CommandIn) -> HttpResponse:
    role = part_role(request.user, part_id, "editor")
    raw = data.command.model_dump(mode="json", exclude_unset=True)
    return _told(data, role, carry_out(part_id, data.version, {"do": data.command.do, **raw}, request.user))


@router.post("/parts/{part_id}/undo", response=PartOut | PartChangesOut)
def undo(request: HttpRequest, part_id: UUID, data: SeenIn) -> HttpResponse:
    role = part_role(request.user, part_id, "editor")
    return _told(data, role, step_back(part_id, data.version, request.user))


@router.post("/parts/{part_id}/redo", response=PartOut | PartChangesOut)
def redo(request: HttpRequest, part_id: UUID, data: SeenIn) -> HttpResponse:
    role = part_role(request.user, part_id, "editor")
    return _told(data, role, step_forward(part_id, data.version, request.user))


def _told(asked: SeenIn, role: str | None, done: Change) -> HttpResponse:
    lost = [d.model_dump(mode="json") for d in done.outcome.lost]
    if asked.answer == "changes" and asked.settled == done.part.settled:
        return answer(part_changes(done, role, lost=lost))
    return part_answer(done.part, role, done.outcome.said, lost=lost)
