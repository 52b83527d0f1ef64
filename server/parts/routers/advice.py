"""What the order adviser says of a part over HTTP."""

import json
from typing import Any
from uuid import UUID

from django.http import HttpRequest
from ninja import Router

from kernel.artifacts import wait_for
from kernel.queue import ADVICE, ask
from sulvak_core.part.errors import Refusal
from workspaces.access import part_for

from ..answers import AdviceOut, PlaceOut
from ..opened import opened

router = Router()


@router.get("/parts/{part_id}/advice", response=list[AdviceOut])
def get_advice(request: HttpRequest, part_id: UUID) -> list[dict[str, Any]]:
    """What the order adviser says of the part as it is now."""
    part, _ = part_for(request.user, part_id)
    key = ask(part.pk, part.version, {"do": "advice", "step": ""}, ADVICE)
    row = wait_for(key, 60.0, "The order adviser is still at work; try again in a moment.")
    return list(json.loads(bytes(row.data)))


@router.get("/parts/{part_id}/advice/{step}", response=list[PlaceOut])
def get_places(request: HttpRequest, part_id: UUID, step: str) -> list[dict[str, Any]]:
    """Every place a step could take on the route, each tried."""
    part, _ = part_for(request.user, part_id)
    if opened(part).document.step(step) is None:
        raise Refusal("This step is no longer in the route.")
    key = ask(part.pk, part.version, {"do": "advice", "step": step}, ADVICE)
    row = wait_for(key, 60.0, "The places are still being tried; try again in a moment.")
    return list(json.loads(bytes(row.data)))
