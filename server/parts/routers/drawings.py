"""Drawings from outside taken into a sketch, and sketches taken out as files, over HTTP."""

import hashlib
from typing import Any
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from ninja import File, Router, Schema
from ninja.files import UploadedFile

from kernel.artifacts import wait_for
from kernel.models import Artifact
from kernel.queue import ask_for_drawing
from sulvak_core.exchange.drawing import Chosen, Drawing, DrawingUnit, Layer, entities, outlines
from sulvak_core.part.errors import Refusal
from sulvak_core.sketch.edit import used_numbers
from workspaces.access import part_for

from ..answers import PartOut
from ..models import StoredFile
from ..service import carry_out
from ..uploads import store
from ..view import attachment, part_answer
from .sketches import sketch_in

router = Router()
READING_SECONDS = 60.0
CALLOUTS = 40  # taken at once
READER = 2  # to be raised when the same file is read differently
MEDIA = {"dxf": "image/vnd.dxf", "svg": "image/svg+xml"}


class DrawingOut(Schema):
    """What a file holds: its layers with an outline each (SVG path, y down), notes, sizes, and what was left out."""

    sha256: str
    unit: DrawingUnit | None
    layers: list[Layer]
    outlines: dict[str, str]
    box: tuple[float, float, float, float]
    notes: list[str]
    sizes: list[str]
    left_out: dict[str, int]
    short: int
    fitted: int
    far: tuple[float, float] | None  # where it lay, in its own unit, before it was brought near the origin


def _read(workspace: int, digest: str) -> Drawing:
    stored = StoredFile.objects.filter(workspace_id=workspace, sha256=digest).first()
    if stored is None:
        raise Refusal("This drawing is not here any more; bring the file in again.")
    key = "d" + hashlib.sha256(f"{digest} {READER}".encode()).hexdigest()
    if not Artifact.objects.filter(key=key).exists():
        ask_for_drawing(stored.pk, key)
    made = wait_for(
        key, READING_SECONDS, "Reading this drawing takes very long; take the view you need into its own file."
    )
    return Drawing.model_validate_json(bytes(made.data))


@router.post("/parts/{part_id}/drawings", response=DrawingOut)
def bring(request: HttpRequest, part_id: UUID, file: File[UploadedFile]) -> dict[str, Any]:
    """Read a DXF or SVG file, in a process with limits. Nothing of the part changes."""
    part, _ = part_for(request.user, part_id, "editor")
    too_large = "This drawing is larger than 20 MB; take the view you need into its own file."
    digest = store(part.workspace_id, file, too_large, lambda _: ("application/octet-stream", None)).digest
    drawing = _read(part.workspace_id, digest)
    paths, box = outlines(drawing)
    return {"sha256": digest, **drawing.model_dump(exclude={"shapes"}), "outlines": paths, "box": box}


class PlaceIn(Schema):
    """Which file goes in how. ``callouts`` takes the sizes written on it as callouts of the sheet."""

    version: int
    sha256: str
    chosen: Chosen
    callouts: bool = False


@router.post("/parts/{part_id}/sketches/{step}/drawing", response=PartOut)
def place(request: HttpRequest, part_id: UUID, step: str, data: PlaceIn) -> HttpResponse:
    """Put the chosen layers of a drawing that was read into a sketch, as one change."""
    part, role = part_for(request.user, part_id, "editor")
    _, found = sketch_in(request, part_id, step)
    drawing = _read(part.workspace_id, data.sha256)
    room = 5000 - len(found.sketch.entities)
    made = entities(drawing, data.chosen, used_numbers(found.sketch, []), room)
    changes: list[dict[str, Any]] = [
        {"do": "sketch_add", "step": step, "entities": [e.model_dump(mode="json") for e in made]}
    ]
    said = [f"{len(made):,} lines, arcs and circles brought in."]
    if data.callouts and drawing.sizes:
        known = {str(c["text"]) for c in part.document.get("callouts", [])}
        numbers = [int(c["number"]) for c in part.document.get("callouts", [])]
        idents = [int(str(c["id"])[1:]) for c in part.document.get("callouts", [])]
        fresh = [t for t in dict.fromkeys(drawing.sizes) if t not in known][:CALLOUTS]
        for k, text in enumerate(fresh, 1):
            callout = {"id": f"b{max(idents, default=0) + k}", "number": max(numbers, default=0) + k, "text": text}
            changes.append({"do": "set_callout", "callout": callout})
        said.append("1 size taken as a callout." if len(fresh) == 1 else f"{len(fresh)} sizes taken as callouts.")
    part = carry_out(part_id, data.version, {"do": "together", "commands": changes}, request.user).part
    return part_answer(part, role, said)


@router.get("/parts/{part_id}/sketches/{step}/file/{form}")
def take_out(request: HttpRequest, part_id: UUID, step: str, form: str) -> HttpResponse:
    """A sketch as DXF or SVG, in mm."""
    from sulvak_core.exchange.sketch_out import sketch_dxf, sketch_svg

    document, found = sketch_in(request, part_id, step)
    if form not in MEDIA:
        return HttpResponse(status=404)
    name = f"{document.number or document.name} sketch {document.position(step)}"
    data = sketch_dxf(found.sketch) if form == "dxf" else sketch_svg(found.sketch, name)
    return attachment(data, MEDIA[form], name, form)
