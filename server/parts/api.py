"""A part over HTTP: its document, commands, undo, builds, meshes and files."""

import json
import unicodedata
from functools import lru_cache
from typing import Annotated, Any, Literal
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from django.utils.http import content_disposition_header
from ninja import Field, Query, Router, Schema

from kernel.made import wait_for
from kernel.models import Artifact, BuildRecord
from kernel.queue import ADVICE, ask, ask_for_build, ask_for_export, ask_for_state, build_is_coming
from sulvak_core.exchange import part_file
from sulvak_core.part.errors import Refusal
from sulvak_core.sheet.notation import said
from sulvak_core.steps.catalogue import catalogue
from sulvak_core.steps.commands import Command
from sulvak_core.steps.registry import Document, load
from sulvak_core.steps.shared import read_callout
from sulvak_core.steps.sheet_effects import hole_asked
from sulvak_core.steps.sketch_step import SketchStep
from sulvak_core.steps.sketch_view import sketch_view
from workspaces.access import part_for

from .log import carry_out, described, name_version, next_ways, restore, step_back, step_forward
from .models import PartRecord

router = Router()
EXPORT_SECONDS = 60.0


class CommandIn(Schema):
    """A command and the version of the part it was given for."""

    version: int
    command: Command


class SeenIn(Schema):
    version: int


class RegionOut(Schema):
    path: str
    around: list[str]
    at: tuple[float, float]
    area: float
    default: bool


class SketchOut(Schema):
    """A sketch's state: freedom, loose entities, closed regions, what its dimensions measure, ties in words."""

    freedom: int
    loose: list[str]
    said: str
    regions: list[RegionOut]
    open_ends: list[tuple[float, float]]
    letters: dict[str, str]
    area: float
    measures: dict[str, float]
    words: dict[str, str]


class CalloutOut(Schema):
    """``hole``: the fields of a hole step that the callout asks for; empty when it is no hole's."""

    kind: str
    said: str
    typed: str
    hole: dict[str, str]


class HistoryOut(Schema):
    version: int
    kind: str
    what: str
    who: str
    at: str
    name: str = ""


class PartOut(Schema):
    id: UUID
    workspace: int
    version: int
    role: str | None
    undoes: HistoryOut | None  # what undo would take back
    redoes: HistoryOut | None  # the undoing that redo would take back
    can_undo: bool
    can_redo: bool
    document: Document
    sketches: dict[str, SketchOut]
    callouts: dict[str, CalloutOut]
    lost: list[dict[str, Any]] = []  # sizes that went with the last command, as reference sizes
    said: list[str] = []


class FaceOut(Schema):
    origins: list[str]
    ring: list[str]
    near: tuple[float, float, float]
    said: str
    measure: str
    kind: str
    normal: tuple[float, float, float] | None
    area: float


class EdgeOut(Schema):
    """``near``: its middle; ``corner``: how its two faces meet, inside, outside or smooth; empty for seams."""

    faces: list[int]
    kind: str
    length: float
    radius: float | None
    near: tuple[float, float, float] = (0.0, 0.0, 0.0)
    corner: str = ""


class BodyOut(Schema):
    key: str
    id: str
    title: str
    colour: str
    faces: list[FaceOut]
    edges: list[EdgeOut]
    triangles: int


class FrameOut(Schema):
    origin: tuple[float, float, float]
    x: tuple[float, float, float]
    y: tuple[float, float, float]
    normal: tuple[float, float, float]


class StepOut(Schema):
    id: str
    number: int
    state: str
    sentence: str
    said: str
    volume_change: float | None
    mass_change: float | None
    offers: dict[str, Any]
    frame: FrameOut | None
    extra: dict[str, Any] = {}


class BodyMassOut(Schema):
    id: str
    title: str
    material: str
    volume: float
    area: float
    centre: list[float]
    mass: float | None
    inertia: list[list[float]] | None
    box: list[list[float]] | None = None  # builds of before have none


class TargetOut(Schema):
    grams: float
    tolerance: float


class MassOut(Schema):
    """mm, mm², mm³, g, g·mm²."""

    bodies: list[BodyMassOut]
    volume: float
    area: float
    centre: list[float]
    mass: float | None
    inertia: list[list[float]] | None
    box: list[list[float]] | None = None
    target: TargetOut | None
    within: bool | None


class VerdictOut(Schema):
    callout: str
    number: int
    state: str
    said: str
    measured: float | None
    nominal: float | None
    lower: float
    upper: float
    count: int | None


class BuildOut(Schema):
    """The newest finished build. ``ready`` says whether it is of the part's present version."""

    version: int
    ready: bool
    broken: str = ""
    pending: bool = False  # the shape and its figures are there, what is proven is not yet
    troubles: list[str] = []
    steps: list[StepOut] = []
    mass: MassOut | None = None
    callouts: list[VerdictOut] = []
    bodies: list[BodyOut] = []


@lru_cache(maxsize=512)
def _sketch_view(text: str) -> dict[str, Any]:
    data = json.loads(text)
    document = load(data)
    step = document.steps[0]
    assert isinstance(step, SketchStep)
    return sketch_view(document, step)


def _view_of(document: Document, step: SketchStep) -> dict[str, Any]:
    """A sketch's state, remembered by the content it follows from."""
    from sulvak_core.steps.shared import values_for

    values = values_for(document)
    # dimensions as plain values: then nothing else in the document matters
    fixed = [
        d.model_copy(update={"expr": f"{values.of(d)!r}" + ("°" if d.kind == "angle" else " mm"), "name": ""})
        if d.driving
        else d
        for d in step.sketch.dimensions
    ]
    alone = SketchStep(id="s1", on={"kind": "datum", "plane": "top"}, sketch=step.sketch)
    alone = alone.model_copy(update={"sketch": step.sketch.model_copy(update={"dimensions": fixed})})
    small = Document(name="x", unit=document.unit, steps=[alone])
    return _sketch_view(small.model_dump_json())


def part_view(part: PartRecord, role: str | None, told: list[str] | None = None) -> dict[str, Any]:
    """Everything the board needs of a part except its build."""
    document = load(part.document)
    ways = next_ways(part)
    return {
        "id": part.pk,
        "workspace": part.workspace_id,
        "version": part.version,
        "role": role,
        "can_undo": ways["undo"] is not None,
        "can_redo": ways["redo"] is not None,
        "undoes": ways["undo"],
        "redoes": ways["redo"],
        "document": part.document,
        "sketches": {s.id: _view_of(document, s) for s in document.steps if isinstance(s, SketchStep)},
        "callouts": {
            b.id: {"kind": r.kind, "said": said(r), "typed": r.typed, "hole": hole_asked(r)}
            for b in document.callouts
            for r in [read_callout(document, b)]
        },
        "said": told or [],
    }


@router.get("/parts/{part_id}", response=PartOut)
def get_part(request: HttpRequest, part_id: UUID) -> dict[str, Any]:
    part, role = part_for(request.user, part_id)
    return part_view(part, role)


@router.post("/parts/{part_id}/commands", response=PartOut)
def command(request: HttpRequest, part_id: UUID, data: CommandIn) -> dict[str, Any]:
    _, role = part_for(request.user, part_id, "editor")
    raw = data.command.model_dump(mode="json", exclude_unset=True)
    part, outcome = carry_out(part_id, data.version, {"do": data.command.do, **raw}, request.user)
    lost = [d.model_dump(mode="json") for d in outcome.lost]
    return part_view(part, role, outcome.said) | {"lost": lost}


@router.post("/parts/{part_id}/undo", response=PartOut)
def undo(request: HttpRequest, part_id: UUID, data: SeenIn) -> dict[str, Any]:
    _, role = part_for(request.user, part_id, "editor")
    return part_view(step_back(part_id, data.version, request.user), role)


@router.post("/parts/{part_id}/redo", response=PartOut)
def redo(request: HttpRequest, part_id: UUID, data: SeenIn) -> dict[str, Any]:
    _, role = part_for(request.user, part_id, "editor")
    return part_view(step_forward(part_id, data.version, request.user), role)


@router.get("/parts/{part_id}/history", response=list[HistoryOut])
def history(request: HttpRequest, part_id: UUID, named: bool = False) -> list[dict[str, Any]]:
    """The last 200 changes, the newest first; ``named`` gives all versions with a name instead."""
    part, _ = part_for(request.user, part_id)
    names = dict(part.names.values_list("version", "name"))
    entries = part.log.select_related("user").order_by("-version")
    entries = entries.filter(version__in=names) if named else entries[:200]
    return [{**described(e), "name": names.get(e.version, "")} for e in entries]


class VersionIn(Schema):
    version: int
    name: str = Field("", max_length=80)


@router.post("/parts/{part_id}/versions", response=list[HistoryOut])
def name_a_version(request: HttpRequest, part_id: UUID, data: VersionIn) -> list[dict[str, Any]]:
    """Name a version, so that it is found again."""
    part, _ = part_for(request.user, part_id, "editor")
    name_version(part, data.version, data.name, request.user)
    return history(request, part_id)


class RestoreIn(Schema):
    version: int
    to: int


@router.post("/parts/{part_id}/restore", response=PartOut)
def go_back(request: HttpRequest, part_id: UUID, data: RestoreIn) -> dict[str, Any]:
    """Make the part as it was after version ``to``; ``version`` is the one the client saw."""
    _, role = part_for(request.user, part_id, "editor")
    return part_view(restore(part_id, data.version, data.to, request.user), role)


@router.get("/parts/{part_id}/build", response=BuildOut)
def get_build(request: HttpRequest, part_id: UUID) -> dict[str, Any]:
    part, _ = part_for(request.user, part_id)
    record = BuildRecord.objects.filter(part=part).first()
    ready = record is not None and record.is_of(part.version)
    if not ready and not build_is_coming(part.pk):
        ask_for_build(part.pk)
    if record is None:
        return {"version": 0, "ready": False}
    # what the workspace cannot be given (pictures of before it was told whose they are) is made anew, not offered
    kept = Artifact.objects.filter(key__in=record.bodies, workspace_id=part.workspace_id)
    heads = {a.key: a.head for a in kept.only("key", "head")}
    return {
        **record.figures,
        "version": record.version,
        "ready": ready,
        "bodies": [{"key": key, **heads[key]} for key in record.bodies if key in heads],
    }


class StateOut(Schema):
    bodies: list[BodyOut]


@router.get("/parts/{part_id}/at/{step}", response=StateOut)
def get_state(request: HttpRequest, part_id: UUID, step: str, side: Literal["before", "after"] = "before") -> Any:
    """The bodies as a step finds them, or leaves them."""
    part, _ = part_for(request.user, part_id)
    if load(part.document).step(step) is None:
        raise Refusal("This step is no longer in the route.")
    key = ask_for_state(part.pk, part.version, step, side)
    keys = wait_for(key, 30.0, "The part is still being worked out; try again in a moment.").head
    heads = {a.key: a.head for a in Artifact.objects.filter(key__in=keys).only("key", "head")}
    return {"bodies": [{"key": k, **heads[k]} for k in keys if k in heads]}


class AdviceOut(Schema):
    """What the order adviser says of a step. ``command`` does it; ``volume`` (mm³) and ``grams`` is what the part would
    gain by it."""

    step: str
    kind: str
    said: str
    command: dict[str, Any] | None
    label: str
    volume: float | None
    grams: float | None
    about: list[str]


class PlaceOut(Schema):
    """Where a step could stand: before a step (null: at the end), what the part would gain, which steps would fail."""

    before: str | None
    now: bool
    volume: float
    grams: float | None
    failing: list[str]


@router.get("/parts/{part_id}/advice", response=list[AdviceOut])
def get_advice(request: HttpRequest, part_id: UUID) -> list[dict[str, Any]]:
    """What the order adviser says of the part as it is now."""
    part, _ = part_for(request.user, part_id)
    key = ask(part.pk, part.version, {"do": "advice", "step": ""}, ADVICE)
    row = wait_for(key, 60.0, "The order adviser is still at work; try again in a moment.")
    return list(json.loads(bytes(row.data)))


@router.get("/parts/{part_id}/advice/{step}", response=list[PlaceOut])
def get_places(request: HttpRequest, part_id: UUID, step: str) -> list[dict[str, Any]]:
    """Every place a step could take on the route, each tried."""
    part, _ = part_for(request.user, part_id)
    if load(part.document).step(step) is None:
        raise Refusal("This step is no longer in the route.")
    key = ask(part.pk, part.version, {"do": "advice", "step": step}, ADVICE)
    row = wait_for(key, 60.0, "The places are still being tried; try again in a moment.")
    return list(json.loads(bytes(row.data)))


class CatalogueOut(Schema):
    """Kinds of step: what starts them, the parts of their sentences, thread sizes for holes."""

    starts: list[dict[str, Any]]
    sentences: dict[str, list[dict[str, Any]]]
    sizes: list[str]


@router.get("/step-kinds", response=CatalogueOut)
def step_kinds(request: HttpRequest) -> dict[str, Any]:
    return catalogue()


@router.get("/parts/{part_id}/mesh/{key}")
def get_mesh(request: HttpRequest, part_id: UUID, key: str) -> HttpResponse:
    """A body's packed mesh (see sulvak_core.solid.mesh); its key never means anything else."""
    part, _ = part_for(request.user, part_id)
    shown = Artifact.objects.filter(workspace_id=part.workspace_id, kind__in=("mesh", "preview"))
    row = shown.filter(key=key).first()
    if row is None:
        return HttpResponse(status=404)
    response = HttpResponse(bytes(row.data), content_type="application/octet-stream")
    response["Cache-Control"] = "private, max-age=31536000, immutable"
    return response


def attachment(data: bytes, media_type: str, name: str, ending: str) -> HttpResponse:
    """A file to keep, named as the part is: letters of any script, what a file system could take amiss as dashes."""
    response = HttpResponse(data, content_type=media_type)
    safe = "".join(c if c.isalnum() or c in "-_." else "-" for c in unicodedata.normalize("NFC", name)[:60])
    response["Content-Disposition"] = content_disposition_header(True, f"{safe.lstrip('.') or 'part'}.{ending}")
    return response


@router.get("/parts/{part_id}/file")
def get_file(request: HttpRequest, part_id: UUID) -> HttpResponse:
    """The part's own file (docs/part-file.md)."""
    part, _ = part_for(request.user, part_id)
    document = load(part.document)
    return attachment(part_file.write(document).encode(), "application/json", document.name, "sulvak.json")


@router.get("/parts/{part_id}/export/{form}")
def get_export(
    request: HttpRequest,
    part_id: UUID,
    form: str,
    deviation: Annotated[float | None, Query(None, ge=0.001, le=10, allow_inf_nan=False)] = None,
) -> HttpResponse:
    """The part as it is now in STEP or STL, written by a kernel worker; ``deviation``: how far in mm triangles of STL
    may lie off the part (a thousandth of its size)."""
    part, _ = part_for(request.user, part_id)
    kinds = {"step": ("model/step", "step"), "stl": ("model/stl", "stl")}
    if form not in kinds:
        raise Refusal("Sulvak writes STEP and STL here.")
    media_type, ending = kinds[form]
    key = ask_for_export(part, form, deviation)
    row = wait_for(key, EXPORT_SECONDS, "Writing this file takes long; try again in a minute.")
    return attachment(bytes(row.data), media_type, part.document["name"], ending)
