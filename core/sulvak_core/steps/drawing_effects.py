"""Effects of the commands on the drawing that is made from the part."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from ..part.drawing_sheet import AddedSize, DetailAsked, DrawingSheet, SectionAsked, SizePlace
from ..part.errors import Refusal
from . import drawing_commands as c
from .registry import Document
from .shared import Outcome, altered

MAY_BE_NONE = ("main", "views")


def _changed(document: Document, **update: Any) -> Outcome:
    drawing = DrawingSheet.model_validate({**dict(document.drawing), **update})
    return Outcome(altered(document, drawing=drawing))


def _set_drawing(document: Document, command: c.SetDrawing) -> Outcome:
    changes = {
        k: getattr(command.changes, k)
        for k in command.changes.model_fields_set
        if getattr(command.changes, k) is not None or k in MAY_BE_NONE
    }
    letters = [*changes.get("sections", document.drawing.sections), *changes.get("details", document.drawing.details)]
    _once(letters)
    if changes.get("scale", "").endswith(":0") or changes.get("scale", "").startswith("0:"):
        raise Refusal("A scale is two figures above nought, such as 1:2.", field="scale")
    return _changed(document, **changes)


def _once(letters: Sequence[SectionAsked | DetailAsked]) -> None:
    taken: set[str] = set()
    for one in letters:
        if one.letter in taken:
            raise Refusal(f"The letter {one.letter} is on the drawing already; take another.", field="letter")
        taken.add(one.letter)


def _place_sizes(document: Document, command: c.PlaceSizes) -> Outcome:
    sizes: dict[str, SizePlace] = dict(document.drawing.sizes)
    for key, place in command.sizes.items():
        sizes.pop(key, None)
        if place is not None:
            sizes[key] = place
    return _changed(document, sizes=sizes)


def _place_views(document: Document, command: c.PlaceViews) -> Outcome:
    places = {k: v for k, v in document.drawing.places.items() if k not in command.places}
    return _changed(document, places=places | {k: v for k, v in command.places.items() if v is not None})


def _add_size(document: Document, command: c.AddSize) -> Outcome:
    added = document.drawing.added
    used = [int(a.id[1:]) for a in added] + [int(k[1:]) for k in document.drawing.sizes if k[0] == "a"]
    ident = f"a{max(used, default=0) + 1}"
    sizes = document.drawing.sizes | ({ident: SizePlace(view=command.view)} if command.view else {})
    return _changed(
        document, added=[*added, AddedSize(id=ident, gauged=command.gauged, text=command.text)], sizes=sizes
    )


def _remove_size(document: Document, command: c.RemoveSize) -> Outcome:
    left = [a for a in document.drawing.added if a.id != command.size]
    if len(left) == len(document.drawing.added):
        raise Refusal("This size is no longer on the drawing.")
    sizes = {k: v for k, v in document.drawing.sizes.items() if k != command.size}
    return _changed(document, added=left, sizes=sizes)


EFFECTS: dict[type, Callable[[Document, Any], Outcome]] = {
    c.SetDrawing: _set_drawing,
    c.PlaceSizes: _place_sizes,
    c.PlaceViews: _place_views,
    c.AddSize: _add_size,
    c.RemoveSize: _remove_size,
}
