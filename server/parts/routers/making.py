"""The checks of the shop over HTTP: whether a part leaves its mould, its walls, cutter access, a sound solid."""

import json
from typing import Any, Literal
from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema

from kernel.artifacts import wait_for
from kernel.queue import ask
from sulvak_core.part.shop import CheckName, ShopLimits
from workspaces.access import part_for

router = Router()
SECONDS = 180.0


class ShopFindingOut(Schema):
    """Something a check found: ``value`` against ``limit`` in ``unit``, on which faces (body and number), where (mm);
    the step that would change it, with its number, title and the ``field`` of it. “note”: it wants to be known only."""

    kind: str
    said: str
    value: float | None
    limit: float | None
    unit: str
    faces: list[tuple[str, int]]
    at: tuple[float, float, float] | None
    step: str | None
    step_number: int | None
    step_title: str
    field: str
    worth: Literal["out", "note"]


class ToneBandOut(Schema):
    """A class of places on the part: what it means, how large it is (mm²), how good that is."""

    name: str
    said: str
    area: float
    tone: Literal["good", "fair", "poor", "bad", "plain"]


class CheckedOut(Schema):
    """``paint`` names a file of the part's meshes: “SVP1”, a count n (uint32), corners (n × 9 float32, mm) and values
    (n × 3 float32): the numbers of bands, or of the walls check their thickness in mm."""

    check: CheckName
    passed: bool
    findings: list[ShopFindingOut]
    bands: list[ToneBandOut]
    figures: dict[str, float | str | None]
    paint: str | None


class WorkspaceShopOut(Schema):
    """The limits of the shop that new parts of the workspace begin with, and which checks they have to pass; ``role``:
    of who asks, in the workspace. Owners may change them."""

    shop: ShopLimits
    role: str


@router.get("/parts/{part_id}/workspace-shop", response=WorkspaceShopOut)
def get_workspace_shop(request: HttpRequest, part_id: UUID) -> Any:
    """What the workspace of a part holds its new parts to."""
    part, role = part_for(request.user, part_id)
    return {"shop": part.workspace.shop or ShopLimits().model_dump(mode="json"), "role": role}


@router.post("/parts/{part_id}/workspace-shop", response=WorkspaceShopOut)
def keep_workspace_shop(request: HttpRequest, part_id: UUID, data: ShopLimits) -> Any:
    """Have the new parts of a part's workspace begin with these limits. Parts that are there keep their own."""
    part, role = part_for(request.user, part_id, "owner")
    part.workspace.shop = data.model_dump(mode="json")
    part.workspace.save(update_fields=["shop"])
    return {"shop": part.workspace.shop, "role": role}


@router.get("/parts/{part_id}/checks/{check}", response=CheckedOut)
def get_check(request: HttpRequest, part_id: UUID, check: CheckName) -> Any:
    """One check of the part as it is, against the limits it has."""
    part, _ = part_for(request.user, part_id)
    key = ask(part.pk, part.version, {"do": "check", "check": check})
    late = "The part is still being looked over; ask again in a moment."
    return json.loads(bytes(wait_for(key, SECONDS, late).data))
