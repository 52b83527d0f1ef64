"""A part as a file over HTTP: its own format, STEP, STL, 3MF, glTF."""

from typing import Annotated
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from ninja import Query, Router

from kernel.artifacts import wait_for
from kernel.queue import ask_for_export
from sulvak_core.exchange import part_file
from sulvak_core.part.errors import Refusal
from workspaces.access import part_for

from ..opened import opened
from ..view import attachment

router = Router()
EXPORT_SECONDS = 60.0
KINDS = {
    "step": ("model/step", "step"),
    "step242": ("model/step", "step"),
    "stl": ("model/stl", "stl"),
    "stl-text": ("model/stl", "stl"),
    "3mf": ("model/3mf", "3mf"),
    "glb": ("model/gltf-binary", "glb"),
}


@router.get("/parts/{part_id}/file")
def get_file(request: HttpRequest, part_id: UUID) -> HttpResponse:
    """The part's own file (docs/part-file.md)."""
    part, _ = part_for(request.user, part_id)
    document = opened(part).document
    return attachment(part_file.write(document).encode(), "application/json", document.name, "sulvak.json")


@router.get("/parts/{part_id}/export/{form}")
def get_export(
    request: HttpRequest,
    part_id: UUID,
    form: str,
    deviation: Annotated[float | None, Query(None, ge=0.001, le=10, allow_inf_nan=False)] = None,
) -> HttpResponse:
    """The part as it is now, written by a kernel worker: STEP (step: AP214, step242: AP242), STL (stl, stl-text), 3mf
    or glb. ``deviation``: how far in mm triangles may lie off the part (a thousandth of its size); the answer's headers
    X-Triangles and X-Deviation tell how many there are and how far off."""
    part, _ = part_for(request.user, part_id)
    if form not in KINDS:
        raise Refusal("Sulvak writes STEP, STL, 3MF and GLB here.")
    media_type, ending = KINDS[form]
    key = ask_for_export(part, form, deviation)
    row = wait_for(key, EXPORT_SECONDS, "Writing this file takes long; try again in a minute.")
    answer = attachment(bytes(row.data), media_type, part.document["name"], ending)
    if row.head:
        answer["X-Triangles"] = str(row.head["triangles"])
        answer["X-Deviation"] = f"{row.head['deviation']:.6g}"
    return answer
