"""The part's document: one JSON-serialisable, versioned model. Lengths are kept as they were typed."""

from __future__ import annotations

from typing import Annotated, Any, Generic, Literal, TypeVar

from pydantic import BaseModel, ConfigDict, Field

from .shop import ShopLimits
from .units import MassUnit

FORMAT = "sulvak-part"

Text = Annotated[str, Field(max_length=200)]
StepId = Annotated[str, Field(pattern=r"^s[0-9]{1,6}$")]
LengthText = Annotated[str, Field(min_length=1, max_length=200, json_schema_extra={"quantity": "length"})]
AngleText = Annotated[str, Field(min_length=1, max_length=200, json_schema_extra={"quantity": "angle"})]


# a length or an angle that may be zero or go the other way
SignedLength = Annotated[
    str, Field(min_length=1, max_length=200, json_schema_extra={"quantity": "length", "sign": "any"})
]
CountText = Annotated[str, Field(min_length=1, max_length=200, json_schema_extra={"quantity": "number"})]
SignedAngle = Annotated[
    str, Field(min_length=1, max_length=200, json_schema_extra={"quantity": "angle", "sign": "any"})
]


class Strict(BaseModel):
    model_config = ConfigDict(extra="forbid")


class NamedValue(Strict):
    """A named value: an expression that every field can use by its name."""

    name: Annotated[str, Field(min_length=1, max_length=40)]
    expr: LengthText
    kind: Literal["length", "angle", "number"] = "length"
    note: Text = ""


class Link(Strict):
    """What in the part a callout is the source of: a sketch's dimension, or a step's field."""

    step: StepId
    field: Annotated[str, Field(pattern=r"^[a-z][a-z0-9_]{0,40}$")]


Origins = Annotated[list[Annotated[str, Field(max_length=400)]], Field(min_length=1, max_length=50)]


class Spot(Strict):
    """A place on the part that is measured: a face by its origins, an edge by those of the two faces it lies between, a
    corner by an edge that ends there, or a whole body. ``near`` (mm) and ``ring`` (the origins around a face) tell
    pieces apart."""

    kind: Literal["face", "edge", "corner", "body"]
    body: Annotated[str, Field(max_length=40)] = ""
    origins: Annotated[list[Origins], Field(max_length=2)] = Field(default_factory=list)
    ring: Annotated[list[Annotated[str, Field(max_length=400)]], Field(max_length=200)] = Field(default_factory=list)
    near: tuple[float, float, float] | None = None


class Gauged(Strict):
    """What a callout is measured by on the finished part: the ``figure`` of that name on one place, or between two."""

    spots: list[Spot] = Field(min_length=1, max_length=2)
    figure: Text


def sheets_in(data: dict[str, Any]) -> list[dict[str, Any]]:
    """All sheets of a document's JSON data, the first one first."""
    first = data.get("sheet")
    return [first, *data.get("further", [])] if first else []


GONE = "—"  # what a newer issue of a sheet says where nothing stands any more


class Callout(Strict):
    """A numbered requirement read from the sheet. ``at`` is its balloon's place on the page, 0…1 from the top left. It
    feeds what it has a ``link`` to; without one it can be ``gauged`` between places of the part. ``unit`` is that of
    its bare numbers; without one they are in the part's. One that is ``worked`` out is arithmetic over others by their
    ids (``b4 - b5 - b5``), whatever its text. ``newer``: what a newer issue of its sheet says in
    its place, until that is taken or left; “—” where nothing stands there any more."""

    id: Annotated[str, Field(pattern=r"^b[0-9]{1,6}$")]
    number: Annotated[int, Field(ge=1, le=9999)]
    text: Text
    page: Annotated[int, Field(ge=0, le=999)] = 0
    at: tuple[Annotated[float, Field(ge=0, le=1)], Annotated[float, Field(ge=0, le=1)]] | None = None
    link: Link | None = None
    gauged: Gauged | None = None
    unit: Literal["mm", "in"] | None = None
    worked: Text = ""
    newer: Text = ""


Share = tuple[Annotated[float, Field(ge=0, le=1)], Annotated[float, Field(ge=0, le=1)]]
Side = Literal["front", "top", "right", "left", "under", "back"]


class PlacedView(Strict):
    """A view of a page, placed by hand: from which ``side`` the part is seen there, ``turn`` clockwise; ``scale`` in
    mm of the part per point of the page, ``origin`` where the part's origin lies (shares of the page, or off it);
    ``corners`` between which it was pressed."""

    side: Side
    turn: Literal[0, 90, 180, 270] = 0
    scale: Annotated[float, Field(gt=0, le=1e6)]
    origin: tuple[Annotated[float, Field(ge=-100, le=100)], Annotated[float, Field(ge=-100, le=100)]]
    corners: tuple[Share, Share]


class PageLook(Strict):
    """How a page of the sheet is read: turned clockwise by ``turn`` degrees; ``scale`` in mm of the part per point
    of the page (1/72 inch), 0 while it is not known; ``views`` that were placed by hand."""

    turn: Literal[0, 90, 180, 270] = 0
    scale: Annotated[float, Field(ge=0, le=1e6)] = 0.0
    views: list[PlacedView] = Field(default_factory=list, max_length=20)


class SheetFile(Strict):
    """The drawing being worked from: a stored file by its content's SHA-256, and its pages' sizes in points."""

    name: Text
    sha256: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
    media_type: Literal["image/svg+xml", "image/png", "image/jpeg", "application/pdf", "image/vnd.dxf"]
    pages: list[tuple[float, float]] = Field(min_length=1, max_length=200)
    looks: dict[Annotated[str, Field(pattern=r"^[0-9]{1,3}$")], PageLook] = Field(default_factory=dict, max_length=200)

    def look(self, page: int) -> PageLook:
        """How a page is read."""
        return self.looks.get(str(page)) or PageLook()


class MassTarget(Strict):
    """The mass asked for, in grams, with its tolerance either way."""

    grams: Annotated[float, Field(gt=0, le=1e9)]
    tolerance: Annotated[float, Field(ge=0, le=1e9)] = 0.0


class OwnMaterial(Strict):
    """A material that the library does not have: its density as it was given, and where that is from. One without a
    name of its own is called by its density."""

    name: Annotated[str, Field(min_length=1, max_length=80)]
    value: Annotated[float, Field(gt=0, le=1e6, allow_inf_nan=False)]
    unit: Literal["g/cm³", "kg/m³", "lb/in³"] = "g/cm³"
    source: Text = ""


class StepBase(Strict):
    """What every step has. ``name`` is the designer's own word for it; steps that follow one another with the same
    ``group`` are shown as one group of that name."""

    id: StepId
    name: Text = ""
    group: Text = ""
    note: Annotated[str, Field(max_length=2000)] = ""
    suppressed: bool = False


S = TypeVar("S", bound=StepBase)


class Part(Strict, Generic[S]):
    """A part. ``hold`` is the step after which the build stops; None builds everything. ``general_tolerance`` gives
    limits to sizes without their own, written as a note: ``ISO 2768-m``, or by the decimals of a size. ``further``
    sheets come after the first; pages are counted through all of them."""

    format: Literal["sulvak-part"] = "sulvak-part"
    format_version: Literal[5] = 5
    name: Annotated[str, Field(min_length=1, max_length=120)]
    number: Text = ""
    description: Annotated[str, Field(max_length=2000)] = ""
    revision: Annotated[str, Field(max_length=20)] = "A"
    unit: Literal["mm", "in"] = "mm"
    mass_unit: MassUnit = "g"
    projection: Literal["first", "third"] = "third"
    material: Text = ""
    materials: list[OwnMaterial] = Field(default_factory=list, max_length=100)
    target_mass: MassTarget | None = None
    general_tolerance: Text = ""
    shop: ShopLimits = Field(default_factory=ShopLimits)
    properties: dict[Annotated[str, Field(max_length=60)], Text] = Field(default_factory=dict, max_length=100)
    values: list[NamedValue] = Field(default_factory=list, max_length=500)
    steps: list[S] = Field(default_factory=list, max_length=2000)
    used: Annotated[int, Field(ge=0)] = 0  # the highest step number ever given: no id is given twice
    hold: StepId | None = None
    sheet: SheetFile | None = None
    further: list[SheetFile] = Field(default_factory=list, max_length=50)
    callouts: list[Callout] = Field(default_factory=list, max_length=2000)

    def sheets(self) -> list[SheetFile]:
        """All sheets, the first one first."""
        return [self.sheet, *self.further] if self.sheet is not None else []

    def page(self, number: int) -> tuple[SheetFile, int] | None:
        """The sheet a page is on, and which page of it that is."""
        for sheet in self.sheets():
            if number < len(sheet.pages):
                return (sheet, number) if number >= 0 else None
            number -= len(sheet.pages)
        return None

    def step(self, ident: str) -> S | None:
        return next((s for s in self.steps if s.id == ident), None)

    def position(self, ident: str) -> int:
        """A step's number on the route sheet: 10, 20, 30 …; 0 if it is gone."""
        return next((10 * (i + 1) for i, s in enumerate(self.steps) if s.id == ident), 0)

    def built(self) -> list[S]:
        """The steps up to the hold point, the suppressed ones left out."""
        steps: list[S] = []
        for step in self.steps:
            if not step.suppressed:
                steps.append(step)
            if step.id == self.hold:
                break
        return steps
