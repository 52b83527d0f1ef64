"""The part's document: one JSON-serialisable, versioned model. Lengths are kept as they were typed."""

from __future__ import annotations

from typing import Annotated, Any, Generic, Literal, TypeVar

from pydantic import Field

from .callout import GONE as GONE
from .callout import Callout as Callout
from .callout import Gauged as Gauged
from .callout import Link as Link
from .callout import Origins as Origins
from .callout import Share as Share
from .callout import Side as Side
from .callout import Spot as Spot
from .callout import StepId as StepId
from .callout import Strict as Strict
from .callout import Text as Text
from .drawing_sheet import DrawingSheet
from .reference import MOST, ReferenceMesh
from .shop import ShopLimits
from .units import MassUnit

FORMAT = "sulvak-part"

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


class NamedValue(Strict):
    """A named value: an expression that every field can use by its name."""

    name: Annotated[str, Field(min_length=1, max_length=40)]
    expr: LengthText
    kind: Literal["length", "angle", "number"] = "length"
    note: Text = ""


def sheets_in(data: dict[str, Any]) -> list[dict[str, Any]]:
    """All sheets of a document's JSON data, the first one first."""
    first = data.get("sheet")
    return [first, *data.get("further", [])] if first else []


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
    sheets come after the first; pages are counted through all of them. ``references``: meshes held beside it."""

    format: Literal["sulvak-part"] = "sulvak-part"
    format_version: Literal[8] = 8
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
    drawing: DrawingSheet = Field(default_factory=DrawingSheet)
    references: list[ReferenceMesh] = Field(default_factory=list, max_length=MOST)
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
