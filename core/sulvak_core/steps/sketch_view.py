"""What a screen shows of a sketch besides its geometry: freedom, regions, measures, everything in words."""

from __future__ import annotations

import math
from dataclasses import asdict
from typing import Any

from ..part.errors import Refusal
from ..sketch import words
from ..sketch.check import Check, check
from ..sketch.curves import Piece
from ..sketch.edit import Values
from ..sketch.freedom import freedom
from ..sketch.lettering import outlines
from ..sketch.mend import mend
from ..sketch.model import Text
from ..sketch.profiles import profile
from ..sketch.regions import Region
from ..sketch.suggest import Suggestion, default_tolerance, suggest
from ..sketch.system import Builder
from .kinds.sketch import SketchStep
from .registry import Document
from .shared import read_callout, values_for


def sketch_view(document: Document, step: SketchStep, worked: Values | None = None) -> dict[str, Any]:
    """Plain data: ``freedom``, ``loose`` entity ids, ``regions`` as SVG paths (sketch mm, y up), measured values.

    ``worked``: how the document's dimensions are worked out, where that is at hand.
    """
    sketch = step.sketch
    values = (worked or values_for(document)).all(sketch)
    builder = Builder(sketch, values)
    measures = {d.id: builder.measure(d) for d in sketch.dimensions}
    free = freedom(sketch, values, with_motions=False)
    found = profile(sketch)
    return {
        "freedom": free.count,
        "loose": sorted(free.loose),
        "said": words.freedom_left(free.count),
        "regions": [_region(r, found.is_default(r)) for r in found.regions],
        "open_ends": found.open_ends,
        "area": sum(r.area for r in found.default()),
        "letters": {e.id: _letters(e) for e in sketch.entities if isinstance(e, Text)},
        "measures": measures,
        "words": {
            **{c.id: words.constraint(c) for c in sketch.constraints},
            **{d.id: words.dimension(d, values.get(d.id), document.unit) for d in sketch.dimensions},
        },
    }


def motions(document: Document, step: SketchStep) -> list[dict[str, Any]]:
    """Every free motion of a sketch in words, with the speeds that show it."""
    sketch = step.sketch
    found = freedom(sketch, values_for(document).all(sketch))
    return [
        {"said": words.motion(sketch, m), "entities": m.entities, "points": m.points, "radii": m.radii}
        for m in found.motions
    ]


def checked(document: Document, step: SketchStep, tolerance: float | None = None) -> dict[str, Any]:
    """What the profile check finds within ``tolerance`` (mm), as plain data."""
    return _check(check(step.sketch, tolerance, document.unit))


def _check(found: Check) -> dict[str, Any]:
    return {
        "tolerance": found.tolerance,
        "curves": found.curves,
        "regions": found.regions,
        "counts": found.counts,
        "findings": [{**asdict(f), "key": f.key, "mends": f.mends} for f in found.findings],
    }


def mending(
    document: Document, step: SketchStep, tolerance: float | None = None, keys: list[str] | None = None
) -> dict[str, Any]:
    """What mending would do, without doing it: entities as they would be, those that would go, counts, words."""
    made = mend(step.sketch, values_for(document), tolerance, keys=keys)
    before = {e.id: e for e in step.sketch.entities}
    after = {e.id: e for e in made.sketch.entities}
    return {
        "changed": [e.model_dump(mode="json") for i, e in after.items() if before.get(i) != e],
        "gone": [i for i in before if i not in after],
        "before": made.before.counts,
        "after": made.after.counts,
        "said": made.said,
    }


EFFORT = 6.0  # seconds of work after which suggestions are given as far as they were found
MOST = 250  # entities up to which suggestions are worked out while somebody waits


def suggestions(document: Document, step: SketchStep, tolerance: float | None = None) -> dict[str, Any]:
    """What would finish a sketch, in the order to take it; sizes that the sheet gives take its value.

    ``tolerance`` in mm: how far geometry may move, and how near counts as meant.
    """
    sketch = step.sketch
    if len(sketch.entities) > MOST:
        raise Refusal(f"This sketch has more than {MOST} lines and circles; tie down its parts first.", step=step.id)
    asked = [(b, read_callout(document, b)) for b in document.callouts]
    given = [(b, r.kind, r.nominal) for b, r in asked if r.nominal is not None]

    def wanted(kind: str, now: float, near: float) -> float | None:
        fits = [v for _, k, nominal in given if (v := _as(k, kind, nominal)) is not None and abs(v - now) <= near]
        return min(fits, key=lambda v: abs(v - now), default=None)

    values = values_for(document)
    free = [b.id for b in document.callouts if b.link is None]

    def times(kind: str, value: float) -> int:
        return sum(1 for b, k, n in given if b.id in free and abs((_as(k, kind, n) or 0.0) - value) < 1e-9)

    found = suggest(sketch, values, tolerance, wanted, EFFORT, times)
    made = []
    for s in found.suggestions:
        callout = None
        for d in s.dimensions:
            value = values.of(d)
            hits = (b.id for b, k, n in given if b.id in free and _as(k, d.kind, n) is not None)
            callout = next((i for i in hits if _gives(given, i, d.kind, value)), None)
            if callout:
                free.remove(callout)
        made.append(told_suggestion(s, callout))
    return {"suggestions": made, "left": found.left, "tolerance": tolerance or default_tolerance(sketch)}


def told_suggestion(s: Suggestion, callout: str | None) -> dict[str, Any]:
    """A suggestion as plain data, with the callout that its size is from."""
    return {
        "said": s.said,
        "takes": s.takes,
        "moves": s.moves,
        "refs": s.refs,
        "constraints": [c.model_dump(mode="json") for c in s.constraints],
        "dimensions": [d.model_dump(mode="json") for d in s.dimensions],
        "callout": callout,
    }


def _as(given: str, kind: str, nominal: float) -> float | None:
    """A callout's nominal as a size of ``kind``, or None where it is of another kind."""
    if given == kind or (given, kind) == ("linear", "distance"):
        return nominal
    return {("radius", "diameter"): 2 * nominal, ("diameter", "radius"): nominal / 2}.get((given, kind))


def _gives(given: list[Any], ident: str, kind: str, value: float) -> bool:
    return any(b.id == ident and abs((_as(k, kind, n) or 0.0) - value) < 1e-9 for b, k, n in given)


def _region(r: Region, default: bool) -> dict[str, Any]:
    return {
        "path": " ".join(_loop(loop) for loop in [r.outer, *r.holes]),
        "around": r.around,
        "at": r.inside(),
        "area": r.area,
        "default": default,
    }


def _letters(text: Text) -> str:
    """A text's outlines as an SVG path on a base line of length 1 along x."""
    loops = outlines(text.text, (0.0, 0.0), (1.0, 0.0))
    return "".join(_loop([Piece(text.id, loop[0][0], loop[0][0], spans=tuple(loop))]) for loop in loops)


def _loop(loop: list[Piece]) -> str:
    x, y = loop[0].start
    parts = [f"M{x:.9g} {y:.9g}"]
    for p in loop:
        if p.straight:
            parts.append(f"L{p.end[0]:.9g} {p.end[1]:.9g}")
            continue
        if p.spans:
            parts += ["C" + " ".join(f"{x:.9g} {y:.9g}" for x, y in span[1:]) for span in p.spans]
            continue
        (dx, dy), (ex, ey) = p.axes or ((p.radius, 0.0), (0.0, p.radius))
        rx, ry, tilt = math.hypot(dx, dy), math.hypot(ex, ey), math.degrees(math.atan2(dy, dx))
        mx, my = p.middle()  # two halves, so that a full circle draws
        way = 1 if p.sweep > 0 else 0
        large = 1 if abs(p.sweep) > 2 * math.pi else 0
        for ex, ey in ((mx, my), p.end):
            parts.append(f"A{rx:.9g} {ry:.9g} {tilt:.9g} {large} {way} {ex:.9g} {ey:.9g}")
    return "".join(parts) + "Z"
