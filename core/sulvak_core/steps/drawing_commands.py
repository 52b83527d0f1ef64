"""Commands on the drawing that is made from the part."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ..part.document import Gauged, Side, Strict
from ..part.drawing_sheet import RATIO, DetailAsked, Mm, PaperName, SectionAsked, SizeKey, SizePlace, ViewId


class DrawingChanges(Strict):
    """Only the fields that are given change. ``main`` and ``views`` None: chosen by themselves."""

    paper: PaperName | None = None
    portrait: bool | None = None
    scale: Annotated[str, Field(pattern=RATIO + "|^$")] | None = None
    main: Side | None = None
    views: Annotated[list[Side], Field(max_length=6)] | None = None
    isometric: bool | None = None
    hidden_lines: bool | None = None
    balloons: bool | None = None
    notes: Annotated[list[Annotated[str, Field(max_length=200)]], Field(max_length=40)] | None = None
    sections: Annotated[list[SectionAsked], Field(max_length=8)] | None = None
    details: Annotated[list[DetailAsked], Field(max_length=8)] | None = None


class SetDrawing(Strict):
    do: Literal["set_drawing"] = "set_drawing"
    changes: DrawingChanges


class PlaceSizes(Strict):
    """Put sizes of the drawing somewhere by hand, or (None) back to where they stand by themselves."""

    do: Literal["place_sizes"] = "place_sizes"
    sizes: Annotated[dict[SizeKey, SizePlace | None], Field(min_length=1, max_length=2000)]


class PlaceViews(Strict):
    """Put the middles of views somewhere on the paper (mm), or (None) back to where they stand by themselves."""

    do: Literal["place_views"] = "place_views"
    places: Annotated[dict[ViewId, tuple[Mm, Mm] | None], Field(min_length=1, max_length=30)]


class AddSize(Strict):
    """A size more on the drawing, measured between places of the part."""

    do: Literal["add_size"] = "add_size"
    gauged: Gauged
    text: Annotated[str, Field(max_length=200)] = ""
    view: ViewId | Literal[""] = ""


class RemoveSize(Strict):
    """Take a size away that was added by hand."""

    do: Literal["remove_size"] = "remove_size"
    size: Annotated[str, Field(pattern=r"^a[0-9]{1,6}$")]
