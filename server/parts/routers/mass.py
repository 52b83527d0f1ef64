"""A part's mass over HTTP: figures, what drives them, a target met, the band of tolerances, a bench scale."""

import json
import random
from dataclasses import asdict
from datetime import datetime
from typing import Any, Literal
from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field, FiniteFloat

from kernel.artifacts import wait_for
from kernel.queue import ask
from sulvak_core.part.document import StepId
from sulvak_core.part.errors import Refusal
from sulvak_core.weighing.band import Band, band
from sulvak_core.weighing.driver import Driver, from_data, ranked
from sulvak_core.weighing.sizes import data_of, sizes
from workspaces.access import part_for

from ..models import PartRecord, Weighing
from ..opened import opened

router = Router()
SHARES = 2  # processes that work out the sizes between them …
LARGE = 8000  # … of parts with fewer sizes times steps; of larger ones one does, so that others can be built meanwhile
LONG = 600.0  # seconds
Vector = tuple[float, float, float]
Matrix = tuple[Vector, Vector, Vector]


class NamedFrameOut(Schema):
    id: str
    name: str


class FiguresOut(Schema):
    """Volumes in mm³, areas in mm², lengths in mm, masses in g, inertia in g·mm²: ``inertia`` about the centre of mass,
    ``about`` about the frame's origin; ``moments`` the principal ones, the least first, ``axes`` their directions."""

    volume: float
    area: float
    centre: Vector
    mass: float | None
    inertia: Matrix | None
    about: Matrix | None
    moments: Vector | None
    axes: Matrix | None
    box: tuple[Vector, Vector] | None


class BodyFiguresOut(FiguresOut):
    id: str
    title: str
    material: str


class MassFiguresOut(FiguresOut):
    """The whole part and its bodies, seen in a frame; the frames there are."""

    frame: str
    frame_name: str
    frames: list[NamedFrameOut]
    bodies: list[BodyFiguresOut]
    troubles: list[str]


class SizeOut(Schema):
    """A size that can be changed by itself; ``value`` in mm, degrees or plain."""

    key: str
    step: str | None
    path: str
    what: str
    kind: Literal["length", "angle", "number"]
    expr: str
    value: float
    callout: str | None


class DriverOut(Schema):
    """What a size brings: grams (mm³ while a body has no material) a mm, a degree or, of a count, one more. ``less``
    and ``more`` to either side, where they differ or one of them breaks the part."""

    size: SizeOut
    state: Literal["ok", "kink", "one-sided", "breaks", "each"]
    slope: float
    less: float | None
    more: float | None
    step: float
    said: str


class PlayOut(Schema):
    """How far a callout lets its sizes go, and what that brings at the least and at the most."""

    callout: str
    number: int
    text: str
    slope: float
    low: float | None
    high: float | None
    effects: tuple[float, float]


class BandOut(Schema):
    now: float
    least: float
    most: float
    likely_least: float
    likely_most: float
    plays: list[PlayOut]


class DriversOut(Schema):
    """``weighed``: in grams; without a material in mm³."""

    weighed: bool
    rows: list[DriverOut]
    band: BandOut


class BoundsIn(Schema):
    key: str = Field(max_length=300)
    low: FiniteFloat
    high: FiniteFloat


class MeetIn(Schema):
    """Grams to be met, how far off they may be, and which sizes may change (mm or degrees)."""

    target: FiniteFloat
    tolerance: FiniteFloat = Field(0.0, ge=0)
    bounds: list[BoundsIn] = Field(max_length=50)


class CalloutAfterOut(Schema):
    callout: str
    number: int
    text: str
    before: str
    after: str
    said: str


class MetOut(Schema):
    """``values`` by the sizes' keys; None where none meets it, and ``said`` tells why. ``commands`` take them."""

    said: str
    values: dict[str, float] | None
    exact: dict[str, float]
    rounded: float | None
    grams: float | None
    callouts: list[CalloutAfterOut]
    commands: list[dict[str, Any]]


class ChangedIn(Schema):
    values: dict[str, FiniteFloat] = Field(max_length=50)


class OutlineOut(Schema):
    seen: list[list[tuple[float, float]]]
    smooth: list[list[tuple[float, float]]]
    hidden: list[list[tuple[float, float]]]


class ChangedOut(Schema):
    """Outlines before and after, to the right and up in mm; what it weighs then."""

    before: OutlineOut
    after: OutlineOut
    grams: float | None
    volume: float


class SuspectOut(Schema):
    callout: str
    number: int
    text: str
    off: float
    share: float


class WeighingOut(Schema):
    """A reading of the bench scale, which is simulated, of the part as it was at ``version``."""

    id: int
    version: int
    by: str
    at: datetime
    grams: float
    resolution: float
    seed: int
    expected: float
    inside: bool
    within: bool | None
    said: str
    suspects: list[SuspectOut]


class WeighIn(Schema):
    """``seed``: which example is weighed; another each time where none is named."""

    seed: int | None = Field(None, ge=0, le=2**31 - 1)


def _asked(part: PartRecord, question: dict[str, Any], late: str) -> Any:
    return json.loads(bytes(wait_for(ask(part.pk, part.version, question), LONG, late).data))


@router.get("/parts/{part_id}/mass", response=MassFiguresOut)
def get_mass(request: HttpRequest, part_id: UUID, frame: StepId | Literal[""] = "") -> Any:
    """Mass figures per body and of the whole, in the frame of the part's origin, a datum or a sketch."""
    part, _ = part_for(request.user, part_id)
    return _asked(part, {"do": "mass", "frame": frame}, "The part is still being weighed; try again in a moment.")


def _drivers(part: PartRecord) -> tuple[list[Driver], Band, bool]:
    document = opened(part).document
    shares = SHARES if len(sizes(document)) * len(document.steps) < LARGE else 1
    questions = [{"do": "drivers", "share": [k, shares]} for k in range(shares)]
    for question in questions:  # all are asked before one is waited for
        ask(part.pk, part.version, question)
    late = "What drives the mass is still being worked out; look again in a minute."
    answers = [_asked(part, question, late) for question in questions]
    found = ranked([from_data(row) for a in answers for row in a["rows"]])
    grams, volume = answers[0]["grams"], answers[0]["volume"]
    return found, band(document, volume if grams is None else grams, found), grams is not None


@router.get("/parts/{part_id}/mass/drivers", response=DriversOut)
def get_drivers(request: HttpRequest, part_id: UUID) -> Any:
    """What drives the mass, and between which masses the callouts' limits let the part come out."""
    part, _ = part_for(request.user, part_id)
    found, limits, weighed = _drivers(part)
    rows = [{**asdict(d), "size": data_of(d.size)} for d in found]
    plays = [{**vars(p), "effects": p.effects()} for p in limits.plays]
    return {"weighed": weighed, "rows": rows, "band": {**vars(limits), "plays": plays}}


@router.post("/parts/{part_id}/mass/meet", response=MetOut)
def meet_mass(request: HttpRequest, part_id: UUID, data: MeetIn) -> Any:
    """The values of sizes, within bounds, that bring the part to a mass."""
    part, _ = part_for(request.user, part_id)
    return _asked(part, {"do": "meet_mass", **data.dict()}, "This is still being tried; ask again in a minute.")


@router.post("/parts/{part_id}/mass/changed", response=ChangedOut)
def changed_part(request: HttpRequest, part_id: UUID, data: ChangedIn) -> Any:
    """The part's outline with sizes at other values, beside what it is now."""
    part, _ = part_for(request.user, part_id)
    return _asked(part, {"do": "changed_lines", "values": data.values}, "This is still being drawn; try again.")


@router.post("/parts/{part_id}/mass/extremes", response=tuple[float, float])
def get_extremes(request: HttpRequest, part_id: UUID) -> Any:
    """The lightest and the heaviest part that the limits allow, built for real."""
    part, _ = part_for(request.user, part_id)
    _, limits, _ = _drivers(part)
    question = {"do": "extremes", "plays": [asdict(p) for p in limits.plays]}
    return _asked(part, question, "The extremes are still being built; ask again in a minute.")


@router.get("/parts/{part_id}/weighings", response=list[WeighingOut])
def get_weighings(request: HttpRequest, part_id: UUID) -> Any:
    """What the bench scale read of this part, the newest first."""
    part, _ = part_for(request.user, part_id)
    return [_told(w) for w in Weighing.objects.filter(part=part)[:100]]


@router.post("/parts/{part_id}/weighings", response=WeighingOut)
def post_weighing(request: HttpRequest, part_id: UUID, data: WeighIn) -> Any:
    """Weigh a made example on the bench scale, which is simulated; the reading is kept with the part."""
    part, _ = part_for(request.user, part_id, "editor")
    _, limits, weighed = _drivers(part)
    if not weighed:
        raise Refusal("The part has no mass yet: choose a material first.")
    seed = random.SystemRandom().randrange(1_000_000) if data.seed is None else data.seed
    question = {"do": "weigh_example", "band": asdict(limits), "seed": seed}
    reading = _asked(part, question, "The example is still being made; try again in a minute.")
    by = request.user.get_username()
    return _told(
        Weighing.objects.create(part=part, version=part.version, by=by, grams=reading["grams"], reading=reading)
    )


def _told(kept: Weighing) -> dict[str, Any]:
    names = ("id", "version", "by", "at")
    return {**kept.reading, **{n: getattr(kept, n) for n in names}}
