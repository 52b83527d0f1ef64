"""A part's history over HTTP: what was done, versions with a name, going back to one."""

from typing import Any
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from ninja import Field, Router, Schema

from workspaces.access import part_for, part_role

from ..answers import HistoryOut, PartOut
from ..service import described, name_version, restore
from ..view import part_answer

router = Router()


@router.get("/parts/{part_id}/history", response=list[HistoryOut])
def history(request: HttpRequest, part_id: UUID, named: bool = False) -> list[dict[str, Any]]:
    """The last 200 changes, the newest first; ``named`` gives all versions with a name instead."""
    part, _ = part_for(request.user, part_id)
    names = dict(part.names.values_list("version", "name"))
    entries = part.log.select_related("user").order_by("-version")
    entries = entries.filter(version__in=names) if named else entries[:200]
    return [{**described(e), "name": names.get(e.version, "")} for e in entries]


class VersionIn(Schema):
    version: int
    name: str = Field("", max_length=80)


@router.post("/parts/{part_id}/versions", response=list[HistoryOut])
def name_a_version(request: HttpRequest, part_id: UUID, data: VersionIn) -> list[dict[str, Any]]:
    """Name a version, so that it is found again."""
    part, _ = part_for(request.user, part_id, "editor")
    name_version(part, data.version, data.name, request.user)
    return history(request, part_id)


class RestoreIn(Schema):
    version: int
    to: int


@router.post("/parts/{part_id}/restore", response=PartOut)
def go_back(request: HttpRequest, part_id: UUID, data: RestoreIn) -> HttpResponse:
    """Make the part as it was after version ``to``; ``version`` is the one the client saw."""
    role = part_role(request.user, part_id, "editor")
    return part_answer(restore(part_id, data.version, data.to, request.user), role)
