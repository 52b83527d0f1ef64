"""Meshes held beside a part, over HTTP: brought, held against the part, laid on it."""

import json
from typing import Any, Literal
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from ninja import File, Form, Router, Schema
from ninja.files import UploadedFile

from kernel.artifacts import wait_for
from kernel.queue import EXPORT, ask
from sulvak_core.part.errors import Refusal
from workspaces.access import part_for

from ..answers import PartOut
from ..service import carry_out
from ..uploads import store
from ..view import part_answer

router = Router()
SECONDS = 120.0
LATE = "The mesh is still being measured; ask again in a moment."
SMALL = "This file is larger than 20 MB; export the mesh coarser."


class MeshBroughtIn(Schema):
    """The version of the part the file is brought for."""

    version: int


class WorstPlaceOut(Schema):
    """Where a mesh lies off the part (mm; above zero: outside it), and the face of the part (body and number) that is
    nearest there. ``of``: a place of the mesh, or one of the part that has no mesh near it."""

    at: tuple[float, float, float]
    off: float
    face: tuple[str, int]
    of: Literal["mesh", "part"]


class MeshFiguresOut(Schema):
    """mm, mm², mm³, and shares of the mesh's and the part's surface that lie within the limit of each other."""

    most_outside: float
    most_inside: float
    mean: float
    root_mean_square: float
    mesh_within: float
    part_farthest: float
    part_within: float
    mesh_area: float
    mesh_volume: float | None
    part_volume: float
    triangles: float
    loose_edges: float


class MeshComparedOut(Schema):
    """``on_mesh`` and ``on_part`` name files of the part's meshes as the checks' ``paint`` does, with distances in mm
    at each corner: of the mesh from the part, and of the part's surface to the mesh."""

    figures: MeshFiguresOut
    worst: list[WorstPlaceOut]
    notes: list[str]
    names: list[str]
    on_mesh: str
    on_part: str


class MeshFittedOut(Schema):
    """Where the mesh lies best, as ``set_reference`` takes it; root mean square of its distances (mm) before, after."""

    turn: tuple[float, float, float]
    at: tuple[float, float, float]
    before: float
    after: float


def _any(content: bytes) -> tuple[str, None]:
    for begins, media_type in ((b"glTF", "model/gltf-binary"), (b"PK", "model/3mf")):
        if content.startswith(begins):
            return media_type, None
    return "model/stl", None


@router.post("/parts/{part_id}/meshes", response=PartOut)
def bring_mesh(
    request: HttpRequest, part_id: UUID, file: File[UploadedFile], data: Form[MeshBroughtIn]
) -> HttpResponse:
    """Read a file of triangles in a process with limits and put it beside the part; or change nothing and say why."""
    part, role = part_for(request.user, part_id, "editor")
    brought = store(part.workspace_id, file, SMALL, _any)
    try:
        key = ask(part.pk, part.version, {"do": "mesh_in", "file": brought.digest}, EXPORT)
        found = json.loads(bytes(wait_for(key, SECONDS, "Reading this mesh takes very long; export it coarser.").data))
    except Refusal:
        if brought.fresh:
            brought.stored.delete()
        raise
    name = "".join(ch for ch in (file.name or "") if ch.isprintable())[-200:]
    mesh = {"id": "r1", "file": brought.digest, "name": name, "unit": found["unit"] or "mm"}
    part = carry_out(part_id, data.version, {"do": "add_reference", "mesh": mesh}, request.user).part
    said = [f"{found['triangles']:,} triangles from {name}.", *found["notes"]]
    if found["unit"] is None:
        said.append("The file does not say its unit; it is taken for mm.")
    return part_answer(part, role, said)


def _asked(request: HttpRequest, part_id: UUID, question: dict[str, Any]) -> Any:
    part, _ = part_for(request.user, part_id)
    return json.loads(bytes(wait_for(ask(part.pk, part.version, question), SECONDS, LATE).data))


@router.get("/parts/{part_id}/meshes/{mesh}/compared", response=MeshComparedOut)
def get_compared(request: HttpRequest, part_id: UUID, mesh: str) -> Any:
    """How far a mesh lies off the part, and what of the part it does not cover."""
    found = _asked(request, part_id, {"do": "mesh_compared", "mesh": mesh})
    figures = {k.replace(" ", "_"): v for k, v in found["figures"].items()}
    return {**found, "figures": figures}


@router.post("/parts/{part_id}/meshes/{mesh}/fit", response=MeshFittedOut)
def fit_mesh(request: HttpRequest, part_id: UUID, mesh: str) -> Any:
    """Where a mesh lies on the part best. Nothing is stored."""
    return _asked(request, part_id, {"do": "mesh_fitted", "mesh": mesh})
