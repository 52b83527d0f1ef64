"""What was built of a part over HTTP: its newest build, its state at a step, meshes; what kinds of step there are."""

from typing import Any, Literal
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from ninja import Router

from kernel.artifacts import wait_for
from kernel.models import Artifact, BuildRecord
from kernel.queue import ask_for_build, ask_for_state, build_is_coming
from sulvak_core.part.errors import Refusal
from sulvak_core.steps.catalogue import catalogue
from workspaces.access import part_for

from ..answers import BuildOut, CatalogueOut, StateOut
from ..opened import opened

router = Router()


@router.get("/parts/{part_id}/build", response=BuildOut)
def get_build(request: HttpRequest, part_id: UUID) -> dict[str, Any]:
    part, _ = part_for(request.user, part_id)
    record = BuildRecord.objects.filter(part=part).first()
    ready = record is not None and record.is_of(part.version)
    if not ready and not build_is_coming(part.pk):
        ask_for_build(part.pk)
    if record is None:
        return {"version": -1, "ready": False}  # a part as it began is version 0
    # what the workspace cannot be given (pictures of before it was told whose they are) is made anew, not offered
    kept = Artifact.objects.filter(key__in=record.bodies, workspace_id=part.workspace_id)
    heads = {a.key: a.head for a in kept.only("key", "head")}
    return {
        **record.figures,
        "version": record.version,
        "ready": ready,
        "bodies": [{"key": key, **heads[key]} for key in record.bodies if key in heads],
    }


@router.get("/parts/{part_id}/at/{step}", response=StateOut)
def get_state(request: HttpRequest, part_id: UUID, step: str, side: Literal["before", "after"] = "before") -> Any:
    """The bodies as a step finds them, or leaves them."""
    part, _ = part_for(request.user, part_id)
    if opened(part).document.step(step) is None:
        raise Refusal("This step is no longer in the route.")
    key = ask_for_state(part.pk, part.version, step, side)
    keys = wait_for(key, 30.0, "The part is still being worked out; try again in a moment.").head
    heads = {a.key: a.head for a in Artifact.objects.filter(key__in=keys).only("key", "head")}
    return {"bodies": [{"key": k, **heads[k]} for k in keys if k in heads]}


@router.get("/step-kinds", response=CatalogueOut)
def step_kinds(request: HttpRequest) -> dict[str, Any]:
    return catalogue()


@router.get("/parts/{part_id}/mesh/{key}")
def get_mesh(request: HttpRequest, part_id: UUID, key: str) -> HttpResponse:
    """A body's packed mesh (see sulvak_core.solid.mesh); its key never means anything else."""
    part, _ = part_for(request.user, part_id)
    shown = Artifact.objects.filter(workspace_id=part.workspace_id, kind__in=("mesh", "preview", "answer-mesh"))
    row = shown.filter(key=key).first()
    if row is None:
        return HttpResponse(status=404)
    response = HttpResponse(bytes(row.data), content_type="application/octet-stream")
    response["Cache-Control"] = "private, max-age=31536000, immutable"
    return response
