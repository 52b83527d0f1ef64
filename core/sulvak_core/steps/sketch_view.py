"""What a screen shows of a sketch besides its geometry: freedom, regions, measures, everything in words."""

from __future__ import annotations

from typing import Any

from ..sketch import words
from ..sketch.freedom import freedom
from ..sketch.profiles import Piece, Region, profile
from ..sketch.system import Builder
from .registry import Document
from .shared import values_for
from .sketch_step import SketchStep


def sketch_view(document: Document, step: SketchStep) -> dict[str, Any]:
    """Plain data: ``freedom``, ``loose`` entity ids, ``regions`` as SVG paths (sketch mm, y up), measured values."""
    sketch = step.sketch
    values = values_for(document).all(sketch)
    free = freedom(sketch, values, with_motions=False)
    builder = Builder(sketch, {})
    found = profile(sketch)
    default = {id(r) for r in found.default()}
    return {
        "freedom": free.count,
        "loose": sorted(free.loose),
        "said": words.freedom_left(free.count),
        "regions": [_region(r, id(r) in default) for r in found.regions],
        "open_ends": found.open_ends,
        "area": sum(r.area for r in found.default()),
        "measures": {d.id: builder.measure(d) for d in sketch.dimensions},
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


def _region(r: Region, default: bool) -> dict[str, Any]:
    return {
        "path": " ".join(_loop(loop) for loop in [r.outer, *r.holes]),
        "around": r.around,
        "at": r.inside(),
        "area": r.area,
        "default": default,
    }


def _loop(loop: list[Piece]) -> str:
    x, y = loop[0].start
    parts = [f"M{x:.9g} {y:.9g}"]
    for p in loop:
        if not p.radius:
            parts.append(f"L{p.end[0]:.9g} {p.end[1]:.9g}")
            continue
        mx, my = p.middle()  # two halves, so that a full circle draws
        way = 1 if p.sweep > 0 else 0
        large = 1 if abs(p.sweep) > 2 * 3.141592653589793 else 0
        for ex, ey in ((mx, my), p.end):
            parts.append(f"A{p.radius:.9g} {p.radius:.9g} 0 {large} {way} {ex:.9g} {ey:.9g}")
    return "".join(parts) + "Z"
