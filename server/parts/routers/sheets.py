"""Sheets over HTTP: uploading a drawing and showing its pages."""

import hashlib
import json
from contextlib import suppress
from dataclasses import asdict
from typing import Any, Literal
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from ninja import File, Form, Router, Schema
from ninja.files import UploadedFile

from kernel.artifacts import wait_for
from kernel.models import Artifact
from kernel.queue import ask, ask_for_pages
from sulvak_core.exchange.drawing import Chosen, entities
from sulvak_core.exchange.sheet_outline import outline_of
from sulvak_core.part.document import Side
from sulvak_core.part.errors import Refusal
from sulvak_core.sheet.hints import Hint, hints
from sulvak_core.sheet.newer import Newer, newer
from sulvak_core.sheet.page import from_json
from sulvak_core.sheet.proposals import proposals
from sulvak_core.sketch.edit import used_numbers
from sulvak_core.sketch.model import AnyEntity
from sulvak_core.steps.registry import Document
from workspaces.access import part_for

from ..answers import PartOut
from ..models import PartRecord, StoredFile
from ..opened import opened
from ..service import carry_out
from ..sheet_files import recognise
from ..uploads import Brought, store
from ..view import answer, part_answer
from .sketches import SuggestionOut, sketch_in

router = Router()
PAGE_SECONDS = 40.0
LINES_SECONDS = 60.0
READER = 6  # to be raised when the same file is read differently
SIZES = (300, 1200, 2400, 4800, 9600)  # pixels of a page's longer side
DXF = "image/vnd.dxf"
PICTURES = ("image/png", "image/jpeg")

Share = tuple[float, float]


class ProposedOut(Schema):
    """A text of the sheet: where its letters stand and where a balloon has room (shares of the page from its top left),
    what it means, and the callout that has it already. ``ends``: the places it measures between and ``way`` the
    direction in which (degrees clockwise), where the file holds it as a dimension."""

    text: str
    box: tuple[float, float, float, float]
    turn: float
    at: Share
    ends: list[Share]
    way: float | None
    kind: str
    said: str
    callout: str | None


class ReadingOut(Schema):
    """What a page says. ``general``: the note with the general tolerance; ``scale``: of the paper to the part; ``mm``:
    of the part, a point of the page; ``unit``: of bare numbers, where the page says another than the part's; ``views``:
    the boxes round the views drawn on it, the largest first; ``guessed``: its letters were recognised, not read."""

    sizes: list[ProposedOut]
    notes: list[ProposedOut]
    general: str
    scale: float | None
    mm: float | None
    unit: Literal["mm", "in"] | None
    views: list[tuple[float, float, float, float]]
    guessed: bool


class PieceOut(Schema):
    """A run of a line, as shares of the page; ``length`` in mm of the part."""

    kind: Literal["seen", "hidden"]
    points: list[Share]
    length: float


class LengthsOut(Schema):
    """mm of outlines and of hidden lines."""

    seen: float
    hidden: float


class ViewOut(Schema):
    """A view of the sheet, or one placed ``by_hand``: from which side it is seen (None where the part looks like that
    from none) and turned by how much, its scale in mm of the part a point, where the part's origin lies; what is drawn
    and explained, the part's edges seen from there and how much of them is shown; what no edge explains, what is not
    shown, the part's lines. ``projected``: it stands to the other views as the part has it, in the part's angle of
    projection. ``name``: a section's letters; ``cut``: where the plane lies that cuts it (mm along the part's own
    axis), ``cuts``: all planes of a cut in steps, ``inclined``: the angle of its plane on a view that it is square to
    (degrees, anticlockwise from level), ``partly``: only where it is lined."""

    box: tuple[float, float, float, float]
    side: Literal["front", "top", "right", "left", "under", "back"] | None
    turn: int
    mm: float
    origin: Share
    drawn: LengthsOut
    explained: LengthsOut
    edges: float
    shown: float
    unexplained: list[PieceOut]
    missing: list[PieceOut]
    model: list[PieceOut]
    by_hand: bool
    projected: bool
    name: str
    cut: float | None
    cuts: list[float] = []
    inclined: float | None = None
    partly: bool


class SheetLinesOut(Schema):
    """``share``: of the length of all views' outlines and hidden lines that edges of the part explain."""

    views: list[ViewOut]
    share: float


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


How = Literal["instead", "newer", "further"]


@router.post("/parts/{part_id}/sheet", response=PartOut)
def upload(
    request: HttpRequest,
    part_id: UUID,
    version: Form[int],
    file: File[UploadedFile],
    how: Form[How] = "instead",
    number: Form[int] = 0,
) -> HttpResponse:
    """Put a drawing (SVG, PNG, JPG, PDF or DXF) beside the model: instead of the sheet of that number (from 0), as a
    newer issue of it, or after all others. Of a newer issue it is told which callouts are as they were, which say
    something else now, and which are gone."""
    part, role = part_for(request.user, part_id, "editor")
    # brought as a drawing before, it was not looked at as a sheet
    too_large = "This drawing is larger than 20 MB; save it smaller and try again."
    brought = store(part.workspace_id, file, too_large, recognise, rename=True)
    sheet = _sheet(brought, file.name or "sheet")
    document = opened(part).document
    said: list[str] = []
    if how == "further" and document.sheet is not None:
        command: dict[str, Any] = {"do": "add_sheet", "sheet": sheet}
    elif how == "newer" and number < len(document.sheets()):
        found, said = _newer(part, document, number, brought.stored, len(sheet["pages"]))
        command = {"do": "newer_sheet", "number": number, "sheet": sheet, "places": found.places, "says": found.says}
    else:
        command = {"do": "set_sheet", "sheet": sheet}
    done = carry_out(part_id, version, command, request.user)
    return part_answer(done.part, role, [*done.outcome.said, *said])


def _newer(
    part: PartRecord, document: Document, number: int, stored: StoredFile, pages: int
) -> tuple[Newer, list[str]]:
    """A newer issue of a sheet held against the older one."""
    older = document.sheets()[number]
    first = sum(len(s.pages) for s in document.sheets()[:number])
    file = StoredFile.objects.filter(workspace_id=part.workspace_id, sha256=older.sha256).first()
    mine = [c for c in document.callouts if first <= c.page < first + len(older.pages) and c.at is not None]
    own = [c.model_copy(update={"page": c.page - first}) for c in mine]
    was = [_read(file, n) if file else None for n in range(len(older.pages))]
    now = [_read(stored, n) for n in range(pages)]
    found = newer(was, now, own, document.unit)
    if not any(now):
        return found, ["The newer sheet cannot be read; its balloons stay where they were."] if mine else []
    return found, [f"Newer issue: {found.said({c.id: c.number for c in mine})}"] if mine else []


def _read(stored: StoredFile, page: int) -> dict[str, Any] | None:
    """What stands on a page of a file, None where it cannot be read."""
    if stored.media_type in PICTURES:
        return None
    with suppress(Refusal):
        return dict(_made(stored, "sheet_reading", page=page).head)
    return None


def _file_of(part: PartRecord, page: int) -> tuple[StoredFile, int] | None:
    """The file that a page of a part's sheets is in, and which of its own pages that is."""
    hit = opened(part).document.page(page)
    if hit is None:
        return None
    sheet, own = hit
    stored = StoredFile.objects.filter(workspace_id=part.workspace_id, sha256=sheet.sha256).first()
    return (stored, own) if stored is not None else None


@router.get("/parts/{part_id}/sheet/{page}")
def page(request: HttpRequest, part_id: UUID, page: int, longest: int = 2400) -> HttpResponse:
    """A page of the sheet as a picture; of a PDF with its longer side ``longest`` pixels, so that it is sharp however
    near it is looked at. An SVG comes with a policy that lets nothing in it run."""
    part, _ = part_for(request.user, part_id)
    hit = _file_of(part, page)
    if hit is None:
        return HttpResponse(status=404)
    stored, own = hit
    if stored.media_type == "application/pdf":
        wanted = next((s for s in SIZES if s >= longest), SIZES[-1])
        data, media_type = bytes(_made(stored, "page", page=own, longest=wanted).data), "image/png"
    elif stored.media_type == DXF:
        data, media_type = bytes(_made(stored, "sheet_drawn").data), "image/svg+xml"
    else:
        data, media_type = bytes(stored.data), stored.media_type
    headers = {
        "Content-Security-Policy": "default-src 'none'; style-src 'unsafe-inline'; sandbox",
        "Cache-Control": "private, max-age=3600",
    }
    return HttpResponse(data, content_type=media_type, headers=headers)


class OutlineIn(Schema):
    """Which view of which page goes into a sketch: its place in ``ReadingOut.views``, or a ``window`` (shares of the
    page) round what is meant; and whether its ``centres``, its ``hidden`` lines and all ``others`` come along."""

    version: int
    page: int
    view: int = 0
    centres: bool = True
    hidden: bool = False
    others: bool = False
    window: tuple[float, float, float, float] | None = None


@router.post("/parts/{part_id}/sketches/{step}/outline", response=PartOut)
def outline(request: HttpRequest, part_id: UUID, step: str, data: OutlineIn) -> HttpResponse:
    """Put the outlines of a view of the sheet into a sketch, as one change: to the sheet's scale, about the crossing of
    the view's centre lines or its lower left corner; centre lines as construction lines."""
    part, role = part_for(request.user, part_id, "editor")
    document, found = sketch_in(request, part_id, step)
    hit, placed = _file_of(part, data.page), document.page(data.page)
    if hit is None or placed is None:
        raise Refusal("This page is no longer on the sheet.")
    stored, own = hit
    made = _made(stored, "sheet_reading", page=own)
    mm = placed[0].look(own).scale or made.head["mm"]
    view = 0 if data.window else data.view
    page = from_json(json.loads(bytes(made.data)))
    drawing = outline_of(page, view, mm, data.centres, data.window, hidden=data.hidden, others=data.others)
    chosen = Chosen(layers=[layer.name for layer in drawing.layers])
    fresh = entities(drawing, chosen, used_numbers(found.sketch, []), 5000 - len(found.sketch.entities))
    change = {"do": "sketch_add", "step": step, "entities": [e.model_dump(mode="json") for e in fresh]}
    part = carry_out(part_id, data.version, change, request.user).part
    return part_answer(part, role, [f"{len(fresh):,} lines, arcs and circles taken from the sheet."])


class MoveOut(SuggestionOut):
    """A suggestion that moves things: ``alone`` are the entities as they would be with this one only, None where it
    holds only together with those before it."""

    alone: list[AnyEntity] | None


class MissingOut(Schema):
    said: str
    refs: list[str]


class FitOut(Schema):
    """Moves in the order to take them; with all of them ``entities`` are elsewhere, by ``reach`` mm at most, and
    ``left`` freedoms are left; what the sheet does not say; the callouts that have no place in this sketch."""

    moves: list[MoveOut]
    entities: list[AnyEntity]
    reach: float
    left: int
    missing: list[MissingOut]
    unplaced: list[str]


@router.get("/parts/{part_id}/sketches/{step}/fit", response=FitOut)
def fit(request: HttpRequest, part_id: UUID, step: str) -> HttpResponse:
    """How a rough sketch would take the sizes of the sheet that nothing uses yet; nothing is stored."""
    part, _ = part_for(request.user, part_id)
    document, _ = sketch_in(request, part_id, step)
    told = {ident: asdict(hint) for ident, hint in _hints(part, document).items()}
    key = ask(part.pk, part.version, {"do": "fit", "step": step, "hints": told})
    row = wait_for(key, LINES_SECONDS, "The sketch is still being fitted to the sheet; try again in a moment.")
    return answer(dict(json.loads(bytes(row.data))))


def _hints(part: PartRecord, document: Document) -> dict[str, Hint]:
    """What the places of open callouts on vector sheets tell of their sizes; nothing of pages that cannot be read."""
    found: dict[str, Hint] = {}
    for page in sorted({c.page for c in document.callouts if c.link is None}):
        hit = _file_of(part, page)
        said = _read(*hit) if hit is not None else None
        if said is not None:
            found |= hints(said, page, document.callouts, document.unit)
    return found


@router.get("/parts/{part_id}/sheet/{page}/lines", response=SheetLinesOut)
def lines(request: HttpRequest, part_id: UUID, page: int, tolerance: float = 0.1) -> Any:
    """The views of a vector sheet held against the part: what of their lines an edge explains, what none does, which
    edges the sheet does not show, and the part's own lines to be laid over it. ``tolerance`` in mm of the part."""
    part, _ = part_for(request.user, part_id)
    if _file_of(part, page) is None:
        return HttpResponse(status=404)
    if not 1e-4 <= tolerance <= 100:
        raise Refusal("The tolerance is how far a line may lie off, in mm: 0.05, 0.1 …", field="tolerance")
    key = ask(part.pk, part.version, {"do": "sheet_lines", "page": page, "tolerance": tolerance})
    late = "The lines are still being compared; try again in a moment."
    return dict(json.loads(bytes(wait_for(key, LINES_SECONDS, late).data)))


class PlaceViewIn(Schema):
    """Two opposite corners of a view (shares of the page), and from which side it is seen where that is known;
    ``instead`` of which of those placed before."""

    version: int
    corners: tuple[Share, Share]
    side: Side | None = None
    instead: int | None = None


@router.post("/parts/{part_id}/sheet/{page}/view", response=PartOut)
def place_view(request: HttpRequest, part_id: UUID, page: int, data: PlaceViewIn) -> HttpResponse:
    """Place a view by hand, on a sheet of any kind, so that the part's outline can be laid over it."""
    part, role = part_for(request.user, part_id, "editor")
    hit = opened(part).document.page(page)
    if hit is None:
        raise Refusal("This page is no longer on the sheet.")
    question = {"do": "place_view", "page": page, "corners": data.corners, "side": data.side}
    late = "The view is still being placed; try again in a moment."
    placed = json.loads(bytes(wait_for(ask(part.pk, part.version, question), LINES_SECONDS, late).data))
    views = [v.model_dump(mode="json") for v in hit[0].look(hit[1]).views]
    if data.instead is not None and 0 <= data.instead < len(views):
        views[data.instead] = placed
    else:
        views.append(placed)
    change = {"do": "set_page", "page": page, "views": views}
    part = carry_out(part_id, data.version, change, request.user).part
    return part_answer(part, role, [])


@router.get("/parts/{part_id}/sheet/{page}/reading", response=ReadingOut)
def reading(request: HttpRequest, part_id: UUID, page: int) -> HttpResponse:
    """What stands on a page of a vector sheet: every text that is a size, with what it means and which callout has it
    already; and its notes. A picture is refused with what to do instead."""
    part, _ = part_for(request.user, part_id)
    hit = _file_of(part, page)
    if hit is None:
        return HttpResponse(status=404)
    said = _made(hit[0], "sheet_reading", page=hit[1]).head
    document = opened(part).document
    own = {"mm": said["mm"], "guessed": said.get("guessed", False)}
    return answer({**proposals(said, page, document.callouts, document.unit), **own})
