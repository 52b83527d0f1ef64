"""What can be asked of a sketch over HTTP: its free motions, what would finish it, its profile check."""

import json
from typing import Annotated, Any
from uuid import UUID

from django.http import HttpRequest
from ninja import Query, Router, Schema

from kernel.artifacts import wait_for
from kernel.queue import ask
from sulvak_core.naming.model import CutRef, EdgeRef, GuideRef, SilhouetteRef
from sulvak_core.part.errors import Refusal
from sulvak_core.sketch.model import AnyEntity, Constraint, Dimension
from sulvak_core.steps.kinds.sketch import SketchStep
from sulvak_core.steps.registry import Document
from sulvak_core.steps.sketch_view import checked, mending, motions, suggestions
from sulvak_core.steps.value_table import free_name, value_table
from workspaces.access import part_for

from ..opened import opened

router = Router()
Tolerance = Annotated[float | None, Query(gt=0, le=100)]


def sketch_in(request: HttpRequest, part_id: UUID, step: str) -> tuple[Document, SketchStep]:
    """A part's document and one of its sketches, for who may see them."""
    part, _ = part_for(request.user, part_id)
    document = opened(part).document
    found = document.step(step)
    if not isinstance(found, SketchStep):
        raise Refusal("This sketch is no longer in the route.")
    return document, found


class MotionOut(Schema):
    said: str
    entities: list[str]
    points: dict[str, tuple[float, float]]
    radii: dict[str, float]


@router.get("/parts/{part_id}/sketches/{step}/motions", response=list[MotionOut])
def free_motions(request: HttpRequest, part_id: UUID, step: str) -> list[dict[str, Any]]:
    return motions(*sketch_in(request, part_id, step))


class SuggestionOut(Schema):
    said: str
    takes: int
    moves: float
    refs: list[str]
    constraints: list[Constraint]
    dimensions: list[Dimension]
    callout: str | None


class SuggestionsOut(Schema):
    suggestions: list[SuggestionOut]
    left: int
    tolerance: float


@router.get("/parts/{part_id}/sketches/{step}/suggestions", response=SuggestionsOut)
def suggest_finish(request: HttpRequest, part_id: UUID, step: str, tolerance: Tolerance = None) -> dict[str, Any]:
    """Constraints and sizes that would leave nothing free, in the order to take them."""
    return suggestions(*sketch_in(request, part_id, step), tolerance)


class FindingOut(Schema):
    key: str
    kind: str
    at: tuple[float, float]
    refs: list[str]
    size: float
    said: str
    mends: bool


class CheckOut(Schema):
    """What the profile check finds; ``counts`` by kind."""

    tolerance: float
    curves: int
    regions: int
    counts: dict[str, int]
    findings: list[FindingOut]


@router.get("/parts/{part_id}/sketches/{step}/check", response=CheckOut)
def check_profile(request: HttpRequest, part_id: UUID, step: str, tolerance: Tolerance = None) -> dict[str, Any]:
    """Gaps, near misses, duplicates and the like, located; ``tolerance`` in mm."""
    return checked(*sketch_in(request, part_id, step), tolerance)


class MendingOut(Schema):
    """What mending would do: entities as they would be, those that would go, counts before and after."""

    changed: list[AnyEntity]
    gone: list[str]
    before: dict[str, int]
    after: dict[str, int]
    said: list[str]


@router.get("/parts/{part_id}/sketches/{step}/mending", response=MendingOut)
def preview_mending(
    request: HttpRequest,
    part_id: UUID,
    step: str,
    tolerance: Tolerance = None,
    key: Annotated[list[str] | None, Query(max_length=5000)] = None,
) -> dict[str, Any]:
    """What ``sketch_mend`` would do with these findings (all that can be mended without ``key``); nothing is stored."""
    return mending(*sketch_in(request, part_id, step), tolerance, key)


class EdgeOnOfferOut(Schema):
    """An edge of the part that a sketch can use: a reference, and the entity it would be in the sketch's plane."""

    of: EdgeRef | CutRef | SilhouetteRef | GuideRef
    entity: AnyEntity
    in_plane: bool
    cut: bool
    silhouette: bool


@router.get("/parts/{part_id}/sketches/{step}/edges", response=list[EdgeOnOfferOut])
def edges_on_offer(request: HttpRequest, part_id: UUID, step: str) -> list[dict[str, Any]]:
    """The part's edges as the sketch sees them, those in its plane first, and where its plane cuts faces."""
    part, _ = part_for(request.user, part_id)
    sketch_in(request, part_id, step)
    key = ask(part.pk, part.version, {"do": "edges", "step": step})
    row = wait_for(key, 20.0, "The part's edges are still being worked out; try again in a moment.")
    return list(json.loads(bytes(row.data)))


class ValueOut(Schema):
    """A value of the part: a named one, a dimension or a step's field; ``used`` tells what speaks of its name,
    ``callout`` the one it is from."""

    name: str
    what: str
    kind: str
    expr: str
    value: float | None
    step: str | None
    path: str
    driving: bool
    nameable: bool
    used: list[str]
    callout: str | None


class ValuesOut(Schema):
    values: list[ValueOut]
    free: str  # a name that nothing has yet


@router.get("/parts/{part_id}/values", response=ValuesOut)
def all_values(request: HttpRequest, part_id: UUID) -> dict[str, Any]:
    """Every value of the part with its expression and where it is used."""
    part, _ = part_for(request.user, part_id)
    document = opened(part).document
    return {"values": value_table(document), "free": free_name(document)}
