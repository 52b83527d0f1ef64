"""Commands on the sheets and their callouts."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ..part.document import Callout, Gauged, LengthText, PlacedView, Share, SheetFile, StepId, Strict, Text

OfPage = Annotated[float, Field(ge=0, le=1)]  # a share of its width or height
CalloutId = Annotated[str, Field(pattern=r"^b[0-9]{1,6}$")]


class SetSheet(Strict):
    """Put a drawing in place of the first sheet, or take the first one away: the further ones move up."""

    do: Literal["set_sheet"] = "set_sheet"
    sheet: SheetFile | None


class AddSheet(Strict):
    """One more sheet, after those there are."""

    do: Literal["add_sheet"] = "add_sheet"
    sheet: SheetFile


class RemoveSheet(Strict):
    """Take a sheet away, counted from 0; its callouts stay, without a place on a page."""

    do: Literal["remove_sheet"] = "remove_sheet"
    number: Annotated[int, Field(ge=0, le=50)]


class NewerSheet(Strict):
    """A newer issue of a sheet in place of the older. ``places`` are where balloons stand on it, by callout: page and
    place; ``says`` what it says in place of callouts that it does not have as they are: their new text, or “—”."""

    do: Literal["newer_sheet"] = "newer_sheet"
    number: Annotated[int, Field(ge=0, le=50)]
    sheet: SheetFile
    places: dict[CalloutId, tuple[Annotated[int, Field(ge=0, le=999)], Share]] = Field(default_factory=dict)
    says: dict[CalloutId, Text] = Field(default_factory=dict)


class KnownLength(Strict):
    """A length that can be read off the drawing: between two places on the page (0…1 from the top left)."""

    ends: tuple[Share, Share]
    length: LengthText


class SetPage(Strict):
    """Turn a page of the sheet, set its scale from one known length, or place views on it."""

    do: Literal["set_page"] = "set_page"
    page: Annotated[int, Field(ge=0, le=999)]
    turn: Literal[0, 90, 180, 270] | None = None
    known: KnownLength | None = None
    views: list[PlacedView] | None = Field(None, max_length=20)


class SetCallout(Strict):
    """Make a callout, or change the one with this id. Its link is kept; LinkCallout changes that."""

    do: Literal["set_callout"] = "set_callout"
    callout: Callout


class GaugeCallout(Strict):
    """Have a callout measured between places of the part, or no longer."""

    do: Literal["gauge_callout"] = "gauge_callout"
    callout: CalloutId
    gauged: Gauged | None = None


class ViewOnPage(Strict):
    """Where a view stands: its page, and left, top, right and bottom in shares of it."""

    page: int = Field(ge=0)
    box: tuple[OfPage, OfPage, OfPage, OfPage]


class NumberCallouts(Strict):
    """Number the balloons anew from 1: around each page from its top left, clockwise as seen; view by view, around each
    of ``views``; by size, the largest first; or in the order given, those left out behind."""

    do: Literal["number_callouts"] = "number_callouts"
    by: Literal["around", "views", "size", "hand"] = "hand"
    order: list[CalloutId] = Field(default_factory=list, max_length=2000)
    views: list[ViewOnPage] = Field(default_factory=list, max_length=200)


class DeleteCallout(Strict):
    do: Literal["delete_callout"] = "delete_callout"
    callout: CalloutId


class LinkCallout(Strict):
    """Make a callout the source of a dimension or of a step's field; both None loosens it."""

    do: Literal["link_callout"] = "link_callout"
    callout: CalloutId
    step: StepId | None = None
    field: Annotated[str, Field(pattern=r"^[a-z][a-z0-9_]{0,40}$")] | None = None
