"""The drawing that is made from a part, over HTTP."""

import base64
import json
from typing import Any, Literal
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from ninja import Router, Schema

from kernel.artifacts import wait_for
from kernel.queue import ask
from sulvak_core.part.errors import Refusal
from workspaces.access import part_for

from ..view import attachment

router = Router()
SECONDS = 120.0
LATE = "The drawing is still being made; ask again in a moment."
MEDIA = {"svg": "image/svg+xml", "pdf": "application/pdf", "dxf": "image/vnd.dxf"}

Mm2 = tuple[float, float]
BoxMm = tuple[float, float, float, float]


class SheetViewPlaced(Schema):
    """A view on the paper: where the part's origin lies (mm from the lower left corner), how many times as large as the
    part; boxes (left, low, right, high) round the part and round all that belongs to it."""

    name: str
    seat: str
    title: str
    at: Mm2
    scale: float
    outline: BoxMm
    extent: BoxMm


class SheetSizePlaced(Schema):
    """A size on the paper, in the group ``size-{key}`` of the SVG. ``kind``: with a dimension line, an arc or a leader;
    ``at`` and ``side`` as the command place_sizes takes them; ``along``: the way of its line; ``span``: where the
    outline lies across it, mm from the view's origin; ``apex`` of an angle and ``middle`` of the letters on the paper.
    ``proven``: the part has it so."""

    key: str
    text: str
    view: str
    number: int | None
    kind: Literal["line", "arc", "leader"]
    proven: bool
    said: str
    boxes: list[BoxMm]
    overlaps: int
    side: int
    at: Mm2
    along: Mm2 | None
    span: Mm2
    apex: Mm2 | None  # of an angle
    middle: Mm2 | None  # of its letters


class SizeLost(Schema):
    key: str
    said: str


class SizeTakenOff(Schema):
    key: str
    text: str


class DrawingSheetOut(Schema):
    """The drawing as it is made from the part now. ``left_out``: sizes that no view shows; ``lost``: sizes added by
    hand whose places are gone; ``hidden``: sizes taken off by hand; ``overlaps``: how often something lies on
    something."""

    paper: str
    size: Mm2
    scale: str
    views: list[SheetViewPlaced]
    sizes: list[SheetSizePlaced]
    left_out: list[str]
    lost: list[SizeLost]
    hidden: list[SizeTakenOff]
    unmeasured: list[str]  # sizes of sketches that no face of the part shows, with why
    overlaps: int
    svg: str


@router.get("/parts/{part_id}/drawing", response=DrawingSheetOut)
def get_drawing(request: HttpRequest, part_id: UUID) -> Any:
    """The drawing of the part as it is."""
    part, _ = part_for(request.user, part_id)
    key = ask(part.pk, part.version, {"do": "drawing_sheet", "owner": part.workspace.name})
    return json.loads(bytes(wait_for(key, SECONDS, LATE).data))


@router.get("/parts/{part_id}/drawing/file/{form}")
def get_drawing_file(request: HttpRequest, part_id: UUID, form: str) -> HttpResponse:
    """The drawing as PDF, SVG or DXF."""
    part, _ = part_for(request.user, part_id)
    if form not in MEDIA:
        raise Refusal("Sulvak writes drawings as PDF, SVG and DXF.")
    key = ask(part.pk, part.version, {"do": "drawing_sheet_file", "form": form, "owner": part.workspace.name})
    data = base64.b64decode(json.loads(bytes(wait_for(key, SECONDS, LATE).data)))
    name = f"{part.document['number'] or part.document['name']} drawing {part.document['revision']}"
    return attachment(data, MEDIA[form], name, form)
