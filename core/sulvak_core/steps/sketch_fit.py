"""Fitting a sketch of a part to the sizes of its sheet, as plain data for a screen."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import asdict
from typing import Any

from ..part.errors import Refusal
from ..sheet.hints import Hint
from ..sheet.requirement import Requirement
from ..sketch.fit import Fit, fit
from ..sketch.fit_ideas import Asked
from ..sketch.model import Sketch
from ..sketch.solve import solve
from .kinds.sketch import SketchStep
from .registry import Document
from .shared import read_callout, values_for
from .sketch_view import MOST, told_suggestion

EFFORT = 10.0  # seconds of work after which no further way is tried


def fitted(document: Document, step: SketchStep, hints: Mapping[str, Hint], effort: float = EFFORT) -> dict[str, Any]:
    """What would fit a sketch to the callouts that nothing uses yet: moves in order, each with the callout it is from,
    how far (mm) it moves things alone and where they would then be; all of them together; what the sheet does not say;
    the callouts that have no place here."""
    sketch = step.sketch
    if not sketch.entities:
        raise Refusal("Nothing is drawn in this sketch yet; draw it roughly first.", step=step.id)
    if len(sketch.entities) > MOST:
        raise Refusal(f"This sketch has more than {MOST} lines and circles; tie down its parts first.", step=step.id)
    asked = [a for b in document.callouts if b.link is None for a in _asked(document, b.id, hints.get(b.id, Hint()))]
    if not asked:
        raise Refusal("No callout with a size is open; read the sheet or put balloons on it first.", step=step.id)
    values = values_for(document)
    if not solve(sketch, values.all(sketch)).solved:
        raise Refusal("What is tied in this sketch does not hold as it is; mend that first.", step=step.id)
    return _told(sketch, fit(sketch, values, asked, effort))


def _asked(document: Document, ident: str, hint: Hint) -> Iterator[Asked]:
    callout = next(b for b in document.callouts if b.id == ident)
    r = read_callout(document, callout)
    if r.nominal is None or r.nominal <= 0 or r.reference:
        return
    count = min(40 if r.typical else r.count, 400)
    if r.kind == "linear" and r.square:
        for along in ("horizontal", "vertical"):
            yield Asked(ident, "distance", r.nominal, count, along, hint.views)  # type: ignore[arg-type]
    elif r.kind == "linear":
        yield Asked(ident, "distance", r.nominal, count, hint.along, hint.views)
    elif r.kind in ("diameter", "radius") or (r.kind == "angle" and r.nominal < 180):
        yield Asked(ident, r.kind, r.nominal, count, "", hint.views)  # type: ignore[arg-type]
    yield from _further(ident, r, hint)


def _further(ident: str, r: Requirement, hint: Hint) -> Iterator[Asked]:
    """What a callout says besides its own size: the circle holes lie on, a row's whole length."""
    if r.circle:
        yield Asked(ident, "diameter", r.circle, 1, "", hint.views, aid=True)
    if r.total and r.kind == "linear":
        yield Asked(ident, "distance", r.total, 1, hint.along, hint.views)


def _told(sketch: Sketch, found: Fit) -> dict[str, Any]:
    return {
        "moves": [
            {
                **told_suggestion(m, m.callout or None),
                "alone": None if m.alone is None else _changed(sketch, m.alone),
            }
            for m in found.moves
        ],
        "entities": _changed(sketch, found.sketch),
        "reach": found.reach,
        "left": found.left,
        "missing": [asdict(m) for m in found.missing],
        "unplaced": found.unplaced,
    }


def _changed(before: Sketch, after: Sketch) -> list[dict[str, Any]]:
    was = {e.id: e for e in before.entities}
    return [e.model_dump(mode="json") for e in after.entities if was[e.id] != e]
