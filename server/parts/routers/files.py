"""A part as a file over HTTP: its own format, STEP, STL, 3MF, glTF."""

import json
from typing import Annotated, Literal
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from ninja import Query, Router, Schema
from pydantic import Field, FiniteFloat

from kernel.artifacts import wait_for
from kernel.queue import ask, ask_for_export
from sulvak_core.exchange import part_file
from sulvak_core.part.document import Side
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


class DrawnIn(Schema):
    """Of a face its ``body`` and number; from which ``side`` a view or section is seen; ``at`` which coordinate of the
    part's axis along the look a section cuts (mm); with ``hidden`` lines or without."""

    body: str = ""
    face: int = Field(0, ge=0)
    side: Side = "front"
    at: FiniteFloat = 0.0
    hidden: bool = True


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


@router.get("/parts/{part_id}/drawn/{what}.{form}")
def get_drawn(
    request: HttpRequest,
    part_id: UUID,
    what: Literal["face", "view", "section"],
    form: Literal["dxf", "svg"],
    asked: Query[DrawnIn],
) -> HttpResponse:
    """A flat face in its true shape, a view from a side, or a section square to it, 1 : 1."""
    part, _ = part_for(request.user, part_id)
    key = ask(part.pk, part.version, {"do": "drawn", "what": what, "form": form, **asked.dict()})
    late = "This is still being drawn; try again in a moment."
    text = json.loads(bytes(wait_for(key, EXPORT_SECONDS, late).data))
    name = {"face": "face", "view": asked.side, "section": f"section-{asked.side}"}[what]
    media_type = "image/vnd.dxf" if form == "dxf" else "image/svg+xml"
    return attachment(text.encode(), media_type, part.document["name"], f"{name}.{form}")
