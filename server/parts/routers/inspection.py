"""Looking at a finished part: measuring what is pointed at, holding it against another state or part."""

import json
import math
from typing import Any, Literal
from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field, FiniteFloat

from kernel.artifacts import wait_for
from kernel.models import BuildRecord
from kernel.queue import ask
from sulvak_core.inspect.method import rows
from sulvak_core.part.document import Gauged
from sulvak_core.part.errors import Refusal
from sulvak_core.part.expressions import names_in
from sulvak_core.part.units import MassUnit
from sulvak_core.steps.registry import Document
from sulvak_core.steps.value_table import value_table
from workspaces.access import part_for

from ..models import PartRecord
from ..opened import opened

router = Router()
Place = tuple[FiniteFloat, FiniteFloat, FiniteFloat]


class PickIn(Schema):
    """A body by its id, and of it a face or edge by its number in the picture, a corner by its place (mm), or all.
    ``at``: where a face was pressed."""

    body: str
    kind: Literal["body", "face", "edge", "corner"] = "body"
    index: int = Field(0, ge=0)
    at: Place | None = None


class MeasureIn(Schema):
    picks: list[PickIn] = Field(max_length=2)


class FigureOut(Schema):
    """One figure; ``value`` in mm, mm², mm³, g or degrees, ``text`` as it is read, ``line`` where it lies."""

    name: str
    value: float
    of: str
    text: str
    callout: str
    line: tuple[Place, Place] | None


class MeasuredOut(Schema):
    said: str
    figures: list[FigureOut]


@router.post("/parts/{part_id}/measure", response=MeasuredOut)
def post_measure(request: HttpRequest, part_id: UUID, data: MeasureIn) -> Any:
    """What one or two things pointed at measure on the finished part."""
    part, _ = part_for(request.user, part_id)
    question = {"do": "measure", "picks": [p.dict() for p in data.picks]}
    key = ask(part.pk, part.version, question)
    return json.loads(bytes(wait_for(key, 20.0, "This is still being measured; try again in a moment.").data))


class LikelyOut(Schema):
    """A place on the part that a callout may mean: in words with what it measures (mm or degrees), whether that is
    within its limits, how it is kept, and its faces as body and number."""

    said: str
    value: float
    fits: bool
    gauged: Gauged
    picks: list[tuple[str, int]]


@router.get("/parts/{part_id}/callouts/{callout}/likely", response=list[LikelyOut])
def likely_places(request: HttpRequest, part_id: UUID, callout: str) -> Any:
    """The faces of the finished part that measure what a callout says, or nearly, the likeliest first."""
    part, _ = part_for(request.user, part_id)
    key = ask(part.pk, part.version, {"do": "likely", "callout": callout})
    return json.loads(bytes(wait_for(key, 30.0, "The part is still being looked over; try again in a moment.").data))


class SeenFrom(Schema):
    """A view: ``towards`` the viewer, ``right`` on the board, two directions square to each other; ids of bodies."""

    towards: Place
    right: Place
    bodies: list[str] = Field(max_length=200)


Run = list[tuple[float, float]]


class LinesOut(Schema):
    """Runs of places in mm, to the right and up from the part's origin."""

    seen: list[Run]
    smooth: list[Run]
    hidden: list[Run]


@router.post("/parts/{part_id}/lines", response=LinesOut)
def post_lines(request: HttpRequest, part_id: UUID, data: SeenFrom) -> Any:
    """The finished part as a drawing shows it from one side, by exact hidden-line removal."""
    part, _ = part_for(request.user, part_id)
    size = math.dist(data.towards, (0, 0, 0)) * math.dist(data.right, (0, 0, 0))
    if size < 1e-9 or abs(sum(a * b for a, b in zip(data.towards, data.right, strict=True))) > 1e-3 * size:
        raise Refusal("A view needs two directions square to each other: towards the viewer, and to the right.")
    question = {"do": "lines", **data.dict()}
    key = ask(part.pk, part.version, question)
    return json.loads(bytes(wait_for(key, 20.0, "The lines are still being worked out; try again in a moment.").data))


class ChangeOut(Schema):
    """A difference in words; ``step`` is a number on the route, None for what is no step's."""

    step: int | None
    what: str
    before: str
    after: str


class ComparedOut(Schema):
    """``added`` and ``removed`` name meshes; ``volumes`` are theirs in mm³; ``volume`` and ``grams`` of the whole part
    before and after."""

    changes: list[ChangeOut]
    added: list[str]
    removed: list[str]
    volumes: dict[str, float]
    volume: tuple[float, float]
    grams: tuple[float | None, float | None]


@router.get("/parts/{part_id}/compare", response=ComparedOut)
def get_compare(
    request: HttpRequest, part_id: UUID, version: int | None = None, other: UUID | None = None
) -> dict[str, Any]:
    """The part as it is, held against itself at a ``version`` or against an ``other`` part of the workspace."""
    part, _ = part_for(request.user, part_id)
    question: dict[str, Any] = {"do": "compare"}
    if version is not None and other is None:
        if not 0 <= version <= part.version:
            raise Refusal("This part has no such version.")
        question["version"] = version
    elif other is None or version is not None:
        raise Refusal("Say which version or which other part to compare with.")
    else:
        against, _ = part_for(request.user, other)
        if against.workspace_id != part.workspace_id:
            raise Refusal("Only parts of one workspace can be compared.")
        question |= {"part": str(against.pk), "of": against.version}
    late = "The two are still being compared; try again in a moment."
    return dict(json.loads(bytes(wait_for(ask(part.pk, part.version, question), 60.0, late).data)))


class InspectedOut(Schema):
    """A callout as it is inspected: its limits, what it measures on the part, the difference (mm or degrees; None where
    there is none), the verdict and how it was measured."""

    callout: str
    number: int
    text: str
    page: int | None
    unit: str
    nominal: float | None
    lower: float | None
    upper: float | None
    toleranced: bool
    general: bool
    measured: float | None
    deviation: float | None
    verdict: str
    said: str
    how: str
    faces: list[tuple[str, int]]


class UncoveredOut(Schema):
    """A size of the part that no callout speaks of."""

    what: str
    expr: str
    step: str


class InspectionOut(Schema):
    """A part held against its callouts. ``version``: of the build that was measured; ``ready``: it is the newest.
    ``sizes``: how many of the part's own there are, ``uncovered`` those that no callout speaks of."""

    name: str
    part_number: str
    revision: str
    unit: Literal["mm", "in"]
    mass_unit: MassUnit
    general_tolerance: str
    version: int
    ready: bool
    kernel: str
    rows: list[InspectedOut]
    sizes: int
    uncovered: list[UncoveredOut]
    pages: int
    vector: bool


def _measured(part: PartRecord) -> BuildRecord | None:
    return BuildRecord.objects.filter(part=part).first()


@router.get("/parts/{part_id}/inspection", response=InspectionOut)
def get_inspection(request: HttpRequest, part_id: UUID) -> Any:
    """Every callout with its limits, what it measures, how; and what of the part no callout speaks of."""
    part, _ = part_for(request.user, part_id)
    document, record = opened(part).document, _measured(part)
    own = _own_sizes(document)
    return {
        "name": document.name,
        "part_number": document.number,
        "revision": document.revision,
        "unit": document.unit,
        "mass_unit": document.mass_unit,
        "general_tolerance": document.general_tolerance,
        "version": record.version if record else 0,
        "ready": record is not None and record.is_of(part.version),
        "kernel": record.kernel if record else "",
        "rows": rows(document, record.figures["callouts"] if record else []),
        "sizes": len(own),
        "uncovered": uncovered(document),
        "pages": sum(len(s.pages) for s in document.sheets()),
        "vector": any(s.media_type not in ("image/png", "image/jpeg") for s in document.sheets()),
    }


def _own_sizes(document: Document) -> list[dict[str, Any]]:
    return [row for row in value_table(document) if row["step"] is not None and row["driving"] and _is_size(row)]


def uncovered(document: Document) -> list[dict[str, Any]]:
    """``what``, ``expr`` and ``step`` of the part's sizes that no callout speaks of."""
    return [{k: row[k] for k in ("what", "expr", "step")} for row in _own_sizes(document) if row["callout"] is None]


def _is_size(row: dict[str, Any]) -> bool:
    """Whether a value is a length or an angle, and not worked out from named ones."""
    return row["kind"] in ("length", "angle", "distance", "radius", "diameter") and not names_in(row["expr"])
