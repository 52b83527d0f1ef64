"""What of a part's drawing is the designer's own choice; everything else is worked out from the part each time."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from .callout import Gauged, Side, Strict

PaperName = Literal["auto", "A4", "A3", "A2", "A1", "A0", "A", "B", "C", "D"]
ViewId = Annotated[str, Field(pattern=r"^(front|top|right|left|under|back|iso|section-[A-Z]|detail-[A-Z])$")]
SizeKey = Annotated[str, Field(pattern=r"^(b[0-9]{1,6}|s[0-9]{1,6}\.[a-z][a-z0-9_]{0,40}|a[0-9]{1,6})$")]
Letter = Annotated[str, Field(pattern=r"^[A-Z]$")]
Mm = Annotated[float, Field(ge=-1e6, le=1e6, allow_inf_nan=False)]
RATIO = r"^[0-9]{1,4}(\.[0-9]{1,3})?:[0-9]{1,4}(\.[0-9]{1,3})?$"


class SizePlace(Strict):
    """Where a size was put by hand. ``view``: empty for the one that shows it best; ``hidden``: not drawn. ``at``: of a
    dimension how far its text stands from its middle along it, and how far its line lies outside the view's outline on
    its ``side`` (−1: below or left); of a leader its knee from what it points to; mm on the paper."""

    view: ViewId | Literal[""] = ""
    hidden: bool = False
    at: tuple[Mm, Mm] | None = None
    side: Literal[-1, 1] = 1


class AddedSize(Strict):
    """A size added by hand, measured between places of the part; ``text``: empty for what it measures."""

    id: Annotated[str, Field(pattern=r"^a[0-9]{1,6}$")]
    gauged: Gauged
    text: Annotated[str, Field(max_length=200)] = ""


class SectionAsked(Strict):
    """A section: seen from ``side``, cut at a coordinate of the part's own axis (mm)."""

    letter: Letter
    side: Side
    at: Mm


class DetailAsked(Strict):
    """A detail: what lies in a circle of the view ``of`` (centre in mm of the part to the right and up from its origin;
    radius in mm), drawn ``times`` as large as the view."""

    letter: Letter
    of: ViewId
    centre: tuple[Mm, Mm]
    radius: Annotated[float, Field(gt=0, le=1e6, allow_inf_nan=False)]
    times: Annotated[float, Field(gt=1, le=100, allow_inf_nan=False)] = 2.0


class DrawingSheet(Strict):
    """A part's drawing. ``paper`` by ISO 5457 (A4 … A0) or ASME Y14.1 (A … D); ``scale`` such as ``1:2``, empty for the
    largest that fits; ``main``: the side that the others are arranged round; ``views`` None: those that are needed;
    ``places``: where the middle of a view was put by hand, in mm from the paper's lower left corner."""

    paper: PaperName = "auto"
    portrait: bool = False
    scale: Annotated[str, Field(pattern=RATIO + "|^$")] = ""
    main: Side | None = None
    views: Annotated[list[Side], Field(max_length=6)] | None = None
    isometric: bool = True
    hidden_lines: bool = True
    balloons: bool = False
    notes: Annotated[list[Annotated[str, Field(max_length=200)]], Field(max_length=40)] = Field(default_factory=list)
    sections: Annotated[list[SectionAsked], Field(max_length=8)] = Field(default_factory=list)
    details: Annotated[list[DetailAsked], Field(max_length=8)] = Field(default_factory=list)
    places: Annotated[dict[ViewId, tuple[Mm, Mm]], Field(max_length=30)] = Field(default_factory=dict)
    sizes: Annotated[dict[SizeKey, SizePlace], Field(max_length=2000)] = Field(default_factory=dict)
    added: Annotated[list[AddedSize], Field(max_length=500)] = Field(default_factory=list)
