"""Sheets over HTTP: uploading a drawing and showing its pages."""

import hashlib
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from ninja import File, Form, Router
from ninja.files import UploadedFile

from kernel.artifacts import wait_for
from kernel.models import Artifact
from kernel.queue import ask_for_pages
from workspaces.access import part_for

from ..answers import PartOut
from ..models import StoredFile
from ..opened import opened
from ..service import carry_out
from ..sheet_files import recognise
from ..uploads import store
from ..view import part_answer

router = Router()
PAGE_SECONDS = 40.0


def _made(stored: StoredFile, page: int | None) -> Artifact:
    """What a kernel process made of a PDF: its page sizes, or one page."""
    key = "s" + hashlib.sha256(f"{stored.sha256} {page}".encode()).hexdigest()
    if not Artifact.objects.filter(key=key).exists():
        ask_for_pages(stored.pk, key, page)
    return wait_for(key, PAGE_SECONDS, "Reading this PDF takes long; try again in a minute.")


@router.post("/parts/{part_id}/sheet", response=PartOut)
def upload(request: HttpRequest, part_id: UUID, version: Form[int], file: File[UploadedFile]) -> HttpResponse:
    """Put a drawing (SVG, PNG, JPG or PDF) beside the model."""
    part, role = part_for(request.user, part_id, "editor")
    # brought as a drawing before, it was not looked at as a sheet
    too_large = "This drawing is larger than 20 MB; save it smaller and try again."
    brought = store(part.workspace_id, file, too_large, recognise, rename=True)
    pages = brought.found if brought.found is not None else _made(brought.stored, None).head
    media_type = brought.stored.media_type
    sheet = {"name": (file.name or "sheet")[:200], "sha256": brought.digest, "media_type": media_type, "pages": pages}
    done = carry_out(part_id, version, {"do": "set_sheet", "sheet": sheet}, request.user)
    return part_answer(done.part, role, done.outcome.said)


@router.get("/parts/{part_id}/sheet/{page}")
def page(request: HttpRequest, part_id: UUID, page: int) -> HttpResponse:
    """A page of the sheet as a picture. An SVG comes with a policy that lets nothing in it run."""
    part, _ = part_for(request.user, part_id)
    sheet = opened(part).document.sheet
    if sheet is None or not 0 <= page < len(sheet.pages):
        return HttpResponse(status=404)
    stored = StoredFile.objects.filter(workspace_id=part.workspace_id, sha256=sheet.sha256).first()
    if stored is None:
        return HttpResponse(status=404)
    if stored.media_type == "application/pdf":
        data, media_type = bytes(_made(stored, page).data), "image/png"
    else:
        data, media_type = bytes(stored.data), stored.media_type
    headers = {
        "Content-Security-Policy": "default-src 'none'; style-src 'unsafe-inline'; sandbox",
        "Cache-Control": "private, max-age=3600",
    }
    return HttpResponse(data, content_type=media_type, headers=headers)
