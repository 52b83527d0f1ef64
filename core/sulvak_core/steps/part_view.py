"""What a screen needs of a part's document, as plain data."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from ..sheet.requirement import said
from ..sketch.edit import Values
from .kinds.sketch import SketchStep
from .registry import Document, Opened
from .shared import how_it_came, read_callout, values_for
from .sheet_effects import hole_asked
from .sketch_view import sketch_view

ViewOf = Callable[[Document, SketchStep, Values], dict[str, Any]]


def content(one: Opened, view_of: ViewOf = sketch_view) -> dict[str, Any]:
    """A part's ``document`` and what follows from it alone: each of its ``sketches`` (see ``sketch_view``) and how its
    ``callouts`` are read.

    ``view_of`` works a sketch out, or remembers it.
    """
    document, values = one.document, values_for(one.document)
    return {
        "document": one.data,
        "sketches": {s.id: view_of(document, s, values) for s in document.steps if isinstance(s, SketchStep)},
        "callouts": {
            b.id: {
                "kind": r.kind,
                "said": said(r),
                "typed": r.typed,
                "hole": hole_asked(r),
                "came": how_it_came(document, b),
            }
            for b in document.callouts
            for r in [read_callout(document, b)]
        },
    }
