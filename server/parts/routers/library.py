"""The library over HTTP: who one is, workspaces, parts as cards, new, import, copy, archive."""

from typing import Any
from uuid import UUID

from django.conf import settings
from django.db import transaction
from django.db.models import Q
from django.http import HttpRequest, HttpResponse
from ninja import File, Form, Router, Schema
from ninja.files import UploadedFile

from kernel.models import BuildRecord, build_card
from kernel.queue import ask_for_build, builds_coming
from sulvak_core.exchange import part_file
from sulvak_core.part.document import OwnMaterial
from sulvak_core.part.errors import Refusal
from sulvak_core.part.materials import density_of
from sulvak_core.part.shop import beginning
from sulvak_core.sketch.freedom import freedom
from sulvak_core.steps.kinds.sketch import SketchStep
from sulvak_core.steps.registry import Document, load, to_json
from sulvak_core.steps.shared import values_for
from sulvak_server import room
from workspaces.access import part_for, workspace_for
from workspaces.materials import keep as keep_materials
from workspaces.materials import offered
from workspaces.models import Membership, WorkspaceMaterial

from ..models import PartRecord, StoredFile
from ..opened import opened
from ..uploads import bounded, slot

router = Router()

CARD_FORM = 1  # another number when cards tell something else of a document
MOST_PAGES = 1_000_000
MOST_WORDS = 20


class WorkspaceOut(Schema):
    id: int
    name: str
    role: str


class MeOut(Schema):
    name: str | None
    workspaces: list[WorkspaceOut]
    demo: dict[str, str] | None


class CardOut(Schema):
    id: UUID
    workspace: int
    name: str
    number: str
    revision: str
    material: str
    archived: bool
    has_sheet: bool
    steps: int
    freedom: int | None
    proven: int
    callouts: int
    failed: int
    mass: float | None
    target: float | None
    within: bool | None
    picture: int | None
    building: bool


class PageOut(Schema):
    """Some of a workspace's parts: ``page`` of pages of ``size``, of ``total`` parts in all."""

    parts: list[CardOut]
    total: int
    page: int
    size: int


class NewPart(Schema):
    workspace: int
    name: str
    number: str = ""
    unit: str = "mm"
    material: str = ""
    own: OwnMaterial | None = None  # a density of its own, in place of a material of the list


class MadeOut(Schema):
    id: UUID


class MaterialOut(Schema):
    """A material; ``density`` in g/cm³. ``own`` is what a part is given to be made of one of the workspace's own."""

    name: str
    density: float
    source: str
    family: str
    own: OwnMaterial | None


@router.get("/me", response=MeOut, auth=None)
def me(request: HttpRequest) -> dict[str, Any]:
    """Who is signed in; the demo's sign-in when the server runs the demo."""
    demo = {"name": "wren", "password": "kite-and-ballast"} if settings.DEMO else None
    if not request.user.is_authenticated:
        return {"name": None, "workspaces": [], "demo": demo}
    rows = Membership.objects.filter(user=request.user).select_related("workspace").order_by("workspace__name")
    found = [{"id": m.workspace_id, "name": m.workspace.name, "role": m.role} for m in rows]
    return {"name": request.user.get_username(), "workspaces": found, "demo": demo}


@router.get("/materials", response=list[MaterialOut])
def materials(request: HttpRequest, workspace: int | None = None) -> list[Any]:
    """What a part of the workspace can be made of: its own materials first, then the library."""
    if workspace is not None:
        workspace_for(request.user, workspace)
    return offered(workspace)


class ForgetIn(Schema):
    name: str


@router.post("/workspaces/{workspace}/materials/forget", response=list[MaterialOut])
def forget_material(request: HttpRequest, workspace: int, data: ForgetIn) -> list[Any]:
    """No longer offer a material of the workspace's own; parts that are made of it keep it."""
    workspace_for(request.user, workspace, "editor")
    WorkspaceMaterial.objects.filter(workspace_id=workspace, name=data.name).delete()
    return offered(workspace)


def _summary(document: Document) -> dict[str, Any]:
    """What a card tells of a document."""
    values = values_for(document)
    left: int | None = None
    for step in document.steps:
        if isinstance(step, SketchStep) and step.sketch.entities:
            left = (left or 0) + freedom(step.sketch, values.all(step.sketch), with_motions=False).count
    return {
        "name": document.name,
        "number": document.number,
        "revision": document.revision,
        "material": document.material,
        "has_sheet": document.sheet is not None,
        "steps": len(document.steps),
        "freedom": left,
        "target": document.target_mass.grams if document.target_mass else None,
    }


def _summaries(parts: list[PartRecord]) -> None:
    """See to it that parts carry what their cards tell; what is worked out is kept for the next time."""
    old = {p.pk: p for p in parts if p.card is None or p.card_version != p.version or p.card.get("form") != CARD_FORM}
    for pk, version, data in PartRecord.objects.filter(pk__in=old).values_list("pk", "version", "document"):
        part = old[pk]
        part.card = {**_summary(load(data)), "form": CARD_FORM}
        if room.short():
            continue  # looking goes on where nothing can be stored
        PartRecord.objects.filter(pk=pk, version=version).update(card=part.card, card_version=version)


def _card(part: PartRecord, build: dict[str, Any] | None, building: bool) -> dict[str, Any]:
    return {
        **{k: v for k, v in part.card.items() if k != "form"},
        "id": part.pk,
        "workspace": part.workspace_id,
        "archived": part.archived,
        **(build["card"] if build else build_card({})),
        "picture": build["version"] if build and build["drawn"] else None,
        "building": building,
    }


def _builds(parts: list[PartRecord]) -> dict[UUID, dict[str, Any]]:
    """Of the newest build of each part, what its card tells."""
    rows = BuildRecord.objects.filter(part__in=parts).values("part_id", "version", "card", drawn=~Q(outline=""))
    return {row["part_id"]: row for row in rows}


@router.get("/workspaces/{workspace}/parts", response=PageOut)
def parts(
    request: HttpRequest, workspace: int, search: str = "", archived: bool = False, page: int = 1, size: int = 48
) -> dict[str, Any]:
    """The parts of a workspace as cards, those changed last first; ``search``: words that are all in name, number,
    description or material. ``page`` counts from 1; ``size`` is at most 200."""
    workspace_for(request.user, workspace)
    size, page = max(1, min(size, 200)), max(1, min(page, MOST_PAGES))
    rows = PartRecord.objects.filter(workspace_id=workspace, archived=archived)
    for word in search.lower().split()[:MOST_WORDS]:
        rows = rows.filter(words__contains=word)
    shown = list(rows.defer("document").order_by("-changed", "pk")[(page - 1) * size : page * size])
    _summaries(shown)
    builds, coming = _builds(shown), builds_coming([p.pk for p in shown])
    cards = [_card(p, builds.get(p.pk), p.pk in coming) for p in shown]
    return {"parts": cards, "total": rows.count(), "page": page, "size": size}


@router.get("/parts/{part_id}/picture")
def picture(request: HttpRequest, part_id: UUID) -> HttpResponse:
    """The part's outline as SVG."""
    part, _ = part_for(request.user, part_id)
    record = BuildRecord.objects.filter(part=part).only("outline").first()
    if record is None or not record.outline:
        return HttpResponse(status=404)
    svg = record.outline.replace("<path ", '<path fill="none" stroke="#1E2A44" stroke-width="1.1" ', 1)
    return HttpResponse(svg, content_type="image/svg+xml", headers={"Cache-Control": "private, max-age=60"})


def create(workspace_id: int, document: Document) -> PartRecord:
    """A new part with this document, waiting for its first build."""
    with transaction.atomic():
        data = to_json(document)
        keep_materials(workspace_id, data.get("materials") or [])
        part = PartRecord.objects.create(workspace_id=workspace_id, document=data)
        ask_for_build(part.pk)
    return part


@router.post("/parts", response=MadeOut)
def new_part(request: HttpRequest, data: NewPart) -> dict[str, Any]:
    workspace, _ = workspace_for(request.user, data.workspace, "editor")
    if not data.name.strip():
        raise Refusal("Give the part a name first.")
    if data.material and not data.own and density_of(data.material) is None:
        raise Refusal("Choose a material from the list, or give a density of its own.")
    if data.unit not in ("mm", "in"):
        raise Refusal("The unit of a part is mm or in.")
    fields: dict[str, Any] = {"name": data.name.strip(), "number": data.number, "unit": data.unit}
    fields["material"] = data.own.name if data.own else data.material
    if data.own:
        fields["materials"] = [data.own.model_dump()]
    fields["shop"] = workspace.shop or beginning(data.unit).model_dump(mode="json")
    return {"id": create(data.workspace, load(fields)).pk}


@router.post("/parts/import", response=MadeOut)
def import_part(request: HttpRequest, workspace: Form[int], file: File[UploadedFile]) -> dict[str, Any]:
    """A part file made by Sulvak, or written by hand after docs/part-file.md."""
    workspace_for(request.user, workspace, "editor")
    bounded(file, "This file is larger than 20 MB; a part file is far smaller.")
    with slot():
        document = part_file.read(file.read())
    there = [s for s in document.sheets() if _has_file(workspace, s.sha256, s.media_type)]
    if len(there) < len(document.sheets()):  # a page that is not there would give its number to another
        document = document.model_copy(update={"sheet": None, "further": []})
    meshes = StoredFile.objects.filter(workspace_id=workspace, sha256__in=[m.file for m in document.references])
    kept = set(meshes.values_list("sha256", flat=True))
    document = document.model_copy(update={"references": [m for m in document.references if m.file in kept]})
    return {"id": create(workspace, document).pk}


def _has_file(workspace: int, sha256: str, media_type: str) -> bool:
    return StoredFile.objects.filter(workspace_id=workspace, sha256=sha256, media_type=media_type).exists()


class CopyIn(Schema):
    name: str = ""
    empty: bool = False


@router.post("/parts/{part_id}/copy", response=MadeOut)
def copy_part(request: HttpRequest, part_id: UUID, data: CopyIn) -> dict[str, Any]:
    """A copy as a part of its own; ``empty`` keeps the sheet and its callouts but no steps."""
    part, _ = part_for(request.user, part_id, "editor")
    document = opened(part).document
    update: dict[str, Any] = {"name": data.name.strip() or f"{document.name} copy"}
    if data.empty:
        loose = [b.model_copy(update={"link": None}) for b in document.callouts]
        update |= {"steps": [], "hold": None, "values": [], "callouts": loose}
    fresh = load({**to_json(document.model_copy(update=update))})
    return {"id": create(part.workspace_id, fresh).pk}


class ArchiveIn(Schema):
    archived: bool


@router.post("/parts/{part_id}/archive", response=MadeOut)
def archive(request: HttpRequest, part_id: UUID, data: ArchiveIn) -> dict[str, Any]:
    part, _ = part_for(request.user, part_id, "editor")
    part.archived = data.archived
    part.save(update_fields=["archived"])
    return {"id": part.pk}
