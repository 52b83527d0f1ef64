"""Solids from outside taken into a part, over HTTP."""

import json
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
READING_SECONDS = 90.0


class ImportIn(Schema):
    """The version of the part the file is brought for, and the step it becomes."""

    version: int
    step: str


def _begins_as_step(content: bytes) -> tuple[str, None]:
    if not content[:4000].lstrip(b"\xef\xbb\xbf \t\r\n").startswith(b"ISO-10303-21"):
        raise Refusal("This is not a STEP file: it does not begin with ISO-10303-21.")
    return "model/step", None


@router.post("/parts/{part_id}/solids", response=PartOut)
def bring_solids(request: HttpRequest, part_id: UUID, file: File[UploadedFile], data: Form[ImportIn]) -> HttpResponse:
    """Read a STEP file in a process with limits and take its bodies in as a new step; or change nothing and say why."""
    part, role = part_for(request.user, part_id, "editor")
    brought = store(
        part.workspace_id, file, "This file is larger than 20 MB; export the one part you need.", _begins_as_step
    )
    digest = brought.digest
    try:
        key = ask(part.pk, part.version, {"do": "step_in", "file": digest}, EXPORT)
        late = "Reading this file takes very long; export the one part you need."
        found = json.loads(bytes(wait_for(key, READING_SECONDS, late).data))["bodies"]
    except Refusal:
        if brought.fresh:
            brought.stored.delete()
        raise
    title = "".join(ch for ch in (file.name or "") if ch.isprintable())[-200:]
    step = {"kind": "import", "id": data.step, "file": digest, "title": title}
    part = carry_out(part_id, data.version, {"do": "add_step", "step": step}, request.user).part
    count = len(found)
    return part_answer(part, role, [f"{count} {'body' if count == 1 else 'bodies'} taken in from {title}."])
