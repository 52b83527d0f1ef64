"""Sheets over HTTP: uploading a drawing and showing its pages."""

import hashlib
from typing import Any, Literal
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from ninja import File, Form, Router, Schema
from ninja.files import UploadedFile

from kernel.artifacts import wait_for
from kernel.models import Artifact
from kernel.queue import ask_for_pages
from sulvak_core.sheet.proposals import proposals
from workspaces.access import part_for

from ..answers import PartOut
from ..models import PartRecord, StoredFile
from ..opened import opened
from ..service import carry_out
from ..sheet_files import recognise
from ..uploads import Brought, store
from ..view import answer, part_answer

router = Router()
PAGE_SECONDS = 40.0
READER = 1  # to be raised when the same file is read differently
SIZES = (1200, 2400, 4800, 9600)  # pixels of a page's longer side
DXF = "image/vnd.dxf"

Share = tuple[float, float]


class ProposedOut(Schema):
    """A text of the sheet: where its letters stand and where a balloon has room (shares of the page from its top left),
    what it means, and the callout that has it already."""

    text: str
    box: tuple[float, float, float, float]
    turn: float
    at: Share
    kind: str
    said: str
    callout: str | None


class ReadingOut(Schema):
    """What a page says. ``general``: the note with the general tolerance; ``scale``: of the paper to the part; ``mm``:
    of the part, a point of the page; ``unit``: of bare numbers, where the page says another than the part's."""

    sizes: list[ProposedOut]
    notes: list[ProposedOut]
    general: str
    scale: float | None
    mm: float | None
    unit: Literal["mm", "in"] | None


def _made(stored: StoredFile, what: str, **asked: Any) -> Artifact:
    """What a kernel process made of a sheet's file; ``what`` names it."""
    named = " ".join([stored.sha256, what, str(READER), *(f"{k}={v}" for k, v in sorted(asked.items()))])
    key = "s" + hashlib.sha256(named.encode()).hexdigest()
    if not Artifact.objects.filter(key=key).exists():
        ask_for_pages(stored.pk, key, {"do": what, **asked})
    return wait_for(key, PAGE_SECONDS, "Reading this sheet takes long; try again in a minute.")


def _sheet(brought: Brought[list[tuple[float, float]] | None], name: str) -> dict[str, Any]:
    """A file as the sheet of a part."""
    stored, pages, looks = brought.stored, brought.found, {}
    if stored.media_type == DXF:
        drawn = _made(stored, "sheet_drawn").head
        pages, looks = [drawn["size"]], {"0": {"scale": drawn["mm"]}}
    elif pages is None:
        pages = _made(stored, "pages").head
    return {
        "name": name[:200],
        "sha256": brought.digest,
        "media_type": stored.media_type,
        "pages": pages,
        "looks": looks,
    }


@router.post("/parts/{part_id}/sheet", response=PartOut)
def upload(request: HttpRequest, part_id: UUID, version: Form[int], file: File[UploadedFile]) -> HttpResponse:
    """Put a drawing (SVG, PNG, JPG, PDF or DXF) beside the model."""
    part, role = part_for(request.user, part_id, "editor")
    # brought as a drawing before, it was not looked at as a sheet
    too_large = "This drawing is larger than 20 MB; save it smaller and try again."
    brought = store(part.workspace_id, file, too_large, recognise, rename=True)
    sheet = _sheet(brought, file.name or "sheet")
    done = carry_out(part_id, version, {"do": "set_sheet", "sheet": sheet}, request.user)
    return part_answer(done.part, role, done.outcome.said)


def _file_of(part: PartRecord, page: int) -> StoredFile | None:
    """The file of a part's sheet, if it has such a page."""
    sheet = opened(part).document.sheet
    if sheet is None or not 0 <= page < len(sheet.pages):
        return None
    return StoredFile.objects.filter(workspace_id=part.workspace_id, sha256=sheet.sha256).first()


@router.get("/parts/{part_id}/sheet/{page}")
def page(request: HttpRequest, part_id: UUID, page: int, longest: int = 0) -> HttpResponse:
    """A page of the sheet as a picture; of a PDF with its longer side ``longest`` pixels, so that it is sharp however
    near it is looked at. An SVG comes with a policy that lets nothing in it run."""
    part, _ = part_for(request.user, part_id)
    stored = _file_of(part, page)
    if stored is None:
        return HttpResponse(status=404)
    if stored.media_type == "application/pdf":
        wanted = next((s for s in SIZES if s >= longest), SIZES[-1])
        data, media_type = bytes(_made(stored, "page", page=page, longest=wanted).data), "image/png"
    elif stored.media_type == DXF:
        data, media_type = bytes(_made(stored, "sheet_drawn").data), "image/svg+xml"
    else:
        data, media_type = bytes(stored.data), stored.media_type
    headers = {
        "Content-Security-Policy": "default-src 'none'; style-src 'unsafe-inline'; sandbox",
        "Cache-Control": "private, max-age=3600",
    }
    return HttpResponse(data, content_type=media_type, headers=headers)


@router.get("/parts/{part_id}/sheet/{page}/reading", response=ReadingOut)
def reading(request: HttpRequest, part_id: UUID, page: int) -> HttpResponse:
    """What stands on a page of a vector sheet: every text that is a size, with what it means and which callout has it
    already; and its notes. A picture is refused with what to do instead."""
    part, _ = part_for(request.user, part_id)
    stored = _file_of(part, page)
    if stored is None:
        return HttpResponse(status=404)
    said = _made(stored, "sheet_reading", page=page).head
    document = opened(part).document
    return answer({**proposals(said, page, document.callouts, document.unit), "mm": said["mm"]})
