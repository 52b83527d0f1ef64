"""Bodies as parts of their own, linked to where they came from, over HTTP."""

import hashlib
import json
from typing import Any
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from ninja import Router, Schema

from kernel.artifacts import wait_for
from kernel.models import Artifact, BuildRecord
from kernel.queue import EXPORT, ask
from sulvak_core.part.errors import Refusal
from sulvak_core.steps.kinds.import_file import BodySource, ImportStep
from sulvak_core.steps.registry import load
from workspaces.access import NotThere, part_for

from ..answers import PartOut
from ..models import PartRecord, StoredFile
from ..opened import opened
from ..service import carry_out
from ..view import part_answer
from .library import MadeOut, create

router = Router()
WAIT = 60.0


def _taken(part: PartRecord, body: str) -> tuple[str, dict[str, Any], BodySource]:
    """A body of a part as a stored STEP file: its SHA-256, what is known of it, and the link back."""
    key = ask(part.pk, part.version, {"do": "body_out", "body": body}, EXPORT)
    told = json.loads(bytes(wait_for(key, WAIT, "Writing this body takes long; try again in a minute.").data))
    row = Artifact.objects.filter(key=told["key"], workspace_id=part.workspace_id).first()
    if row is None:
        raise Refusal("This body could not be saved; try again.")
    data = bytes(row.data)
    digest = hashlib.sha256(data).hexdigest()
    kept = {"media_type": "model/step", "data": data}
    StoredFile.objects.get_or_create(workspace_id=part.workspace_id, sha256=digest, defaults=kept)
    source = BodySource(
        part=str(part.pk),
        name=part.document["name"],
        which=body,
        title=told["title"],
        volume=told["volume"],
        area=told["area"],
        centre=told["centre"],
    )
    return digest, told, source


class BodyPartIn(Schema):
    """The version of the part whose body it is, and what the new part is to be called."""

    version: int
    name: str = ""


class BodyMadeOut(MadeOut):
    """The new part, and the names of those that this body had been made into before."""

    before: list[str]


@router.post("/parts/{part_id}/bodies/{body}/part", response=BodyMadeOut)
def body_as_part(request: HttpRequest, part_id: UUID, body: str, data: BodyPartIn) -> dict[str, Any]:
    """A new part in the same workspace that begins with this body, and knows where it came from."""
    part, _ = part_for(request.user, part_id, "editor")
    if part.version != data.version:
        raise Refusal("The part has changed since; look at it again first.")
    digest, told, source = _taken(part, body)
    held = {"steps": [{"source": {"part": str(part.pk), "which": body}}]}
    others = PartRecord.objects.filter(workspace_id=part.workspace_id, archived=False, document__contains=held)
    before = list(others.values_list("document__name", flat=True)[:5])
    name = data.name.strip() or source.title or f"{source.name}, a body"
    step = ImportStep(id="s1", file=digest, title=f"{name}.step"[-200:], source=source)
    document = load(
        {
            "name": name[:120],
            "description": f"Made of a body of {source.name}.",
            **{k: part.document[k] for k in ("unit", "mass_unit", "projection") if k in part.document},
            "material": told["material"],
            "materials": [m for m in part.document.get("materials", []) if m["name"] == told["material"]],
            "steps": [step.model_dump(mode="json")],
        }
    )
    return {"id": create(part.workspace_id, document).pk, "before": before}


class SourceOut(Schema):
    """Where a step's bodies came from. ``state``: same, moved (the source has changed since), gone (it, or that body
    of it, is not there any more for whoever asks), or waiting (it is just being built)."""

    step: str
    part: str
    state: str
    said: str


@router.get("/parts/{part_id}/sources", response=list[SourceOut])
def sources(request: HttpRequest, part_id: UUID) -> list[dict[str, Any]]:
    """For each step that holds a body of another part: whether that body is still what was taken."""
    part, _ = part_for(request.user, part_id)
    steps = [s for s in opened(part).document.steps if isinstance(s, ImportStep) and s.source]
    return [{"step": s.id, "part": s.source.part, **_now(request, s.source)} for s in steps if s.source]


def _now(request: HttpRequest, source: BodySource) -> dict[str, str]:
    what = f"{source.title or 'a body'} of {source.name}"
    try:
        part, _ = part_for(request.user, UUID(source.part))
    except NotThere:
        return {"state": "gone", "said": f"This was {what}; that part is not there any more."}
    build = BuildRecord.objects.filter(part=part).first()
    if build is None or not build.is_of(part.version):
        return {"state": "waiting", "said": f"This is {what}; that part is just being built."}
    bodies = (build.figures.get("mass") or {}).get("bodies", [])
    now = next((b for b in bodies if b["id"] == source.which), None)
    if now is None:
        return {"state": "gone", "said": f"This was {what}; that body is not in it any more."}
    if source.same(now):
        return {"state": "same", "said": f"This is {what}, as it is there now."}
    return {
        "state": "moved",
        "said": f"This was {what}; there it has changed since: {source.volume:.2f} mm³ then, {now['volume']:.2f} now.",
    }


class RefreshIn(Schema):
    version: int


@router.post("/parts/{part_id}/sources/{step}", response=PartOut)
def take_anew(request: HttpRequest, part_id: UUID, step: str, data: RefreshIn) -> HttpResponse:
    """Take the body as its source has it now; later steps find their faces again in it where they can."""
    part, role = part_for(request.user, part_id, "editor")
    held = opened(part).document.step(step)
    if not isinstance(held, ImportStep) or held.source is None:
        raise Refusal("This step holds no body of another part.")
    try:
        origin, _ = part_for(request.user, UUID(held.source.part))
    except NotThere:
        raise Refusal("The part this body came from is not there any more; what was taken stays.") from None
    if origin.workspace_id != part.workspace_id:
        raise Refusal("The part this body came from is in another workspace now; what was taken stays.")
    digest, _, source = _taken(origin, held.source.which)
    changes = {"file": digest, "source": source.model_dump(mode="json")}
    part = carry_out(part_id, data.version, {"do": "set_step", "step": step, "changes": changes}, request.user).part
    return part_answer(part, role, [f"Taken as it is in {source.name} now."])
