"""A part's document over HTTP: read, changed by commands, undone and redone."""

from uuid import UUID

from django.http import HttpRequest, HttpResponse
from ninja import Router, Schema

from sulvak_core.steps.commands import Command
from workspaces.access import part_for

from ..answers import PartOut
from ..service import carry_out, step_back, step_forward
from ..view import part_answer

router = Router()


class CommandIn(Schema):
    """A command and the version of the part it was given for."""

    version: int
    command: Command


class SeenIn(Schema):
    version: int


@router.get("/parts/{part_id}", response=PartOut)
def get_part(request: HttpRequest, part_id: UUID) -> HttpResponse:
    part, role = part_for(request.user, part_id)
    return part_answer(part, role)


@router.post("/parts/{part_id}/commands", response=PartOut)
def command(request: HttpRequest, part_id: UUID, data: CommandIn) -> HttpResponse:
    _, role = part_for(request.user, part_id, "editor")
    raw = data.command.model_dump(mode="json", exclude_unset=True)
    part, outcome = carry_out(part_id, data.version, {"do": data.command.do, **raw}, request.user)
    lost = [d.model_dump(mode="json") for d in outcome.lost]
    return part_answer(part, role, outcome.said, lost=lost)


@router.post("/parts/{part_id}/undo", response=PartOut)
def undo(request: HttpRequest, part_id: UUID, data: SeenIn) -> HttpResponse:
    _, role = part_for(request.user, part_id, "editor")
    return part_answer(step_back(part_id, data.version, request.user), role)


@router.post("/parts/{part_id}/redo", response=PartOut)
def redo(request: HttpRequest, part_id: UUID, data: SeenIn) -> HttpResponse:
    _, role = part_for(request.user, part_id, "editor")
    return part_answer(step_forward(part_id, data.version, request.user), role)
