"""The outlines of a view of the sheet as they go into a sketch: to the sheet's scale, about the view's own origin."""

from __future__ import annotations

import itertools
import math

import numpy as np

from ..part.errors import Refusal
from ..sheet.page import Box, Page, Stroke, merged
from ..sheet.views import SheetView, views
from .drawing import Collector, Drawing, Shape

XY = tuple[float, float]

SNUG = 0.06  # points: ends so near each other are one
OVER = 20.0  # points that the marks of a circle's middle run over it at most
PLACES = 4  # decimals of a mm that a sheet's own rounding leaves


def origin_of(view: SheetView) -> XY:
    """Where a view is measured from, in points: where its longest level and upright centre lines cross, if they cross
    inside of it; else its lower left corner."""
    left, top, right, bottom = view.box
    level = [s for s in view.centre if s.kind == "line" and abs(s.points[0][1] - s.points[1][1]) < SNUG]
    upright = [s for s in view.centre if s.kind == "line" and abs(s.points[0][0] - s.points[1][0]) < SNUG]
    whole = [s for s in level if s.length() >= right - left], [s for s in upright if s.length() >= bottom - top]
    lines = [max(mine, key=Stroke.length) if mine else None for mine in (whole[0] or level, whole[1] or upright)]
    if lines[0] is not None and lines[1] is not None:
        x, y = lines[1].points[0][0], lines[0].points[0][1]
        if left < x < right and top < y < bottom:
            return x, y
    return left, bottom


def outline_of(
    page: Page,
    index: int,
    mm: float | None,
    centres: bool = True,
    window: Box | None = None,
    *,
    hidden: bool = False,
    others: bool = False,
) -> Drawing:
    """The outlines of view ``index`` of a page (the largest is 0) in mm, y up, as a drawing with the layers “outline”,
    “hidden lines” and “other lines” where they are asked for, and “centre lines”; of those that lie wholly within a
    ``window`` (shares of the page) where there is one. ``others``: what was taken for dimension lines, lining and the
    like and lies within the view. ``mm``: of the part, a point of the page.

    Raises Refusal where there is no such view, or the scale is not known.
    """
    found = views(page) if window is None else _within(page, window)
    if not 0 <= index < len(found):
        raise Refusal("This view is not on the page any more; choose one again.")
    if not mm:
        raise Refusal("The sheet does not say its scale; set it from a length that you know, then take the outline.")
    view = found[index]
    x0, y0 = origin_of(view)
    layers = {
        "outline": view.seen,
        "hidden lines": view.hidden if hidden else [],
        "other lines": _others(page, view) if others else [],
        "centre lines": [s for s in view.centre if centres and not _marks_a_circle(s, view)],
    }
    strokes = [s for layer in layers.values() for s in layer]
    of = [name for name, layer in layers.items() for _ in layer]
    ends = _settled([p for s in strokes for p in (s.points[0], s.points[-1])])

    def at(p: XY) -> XY:
        return round((p[0] - x0) * mm, PLACES), round((y0 - p[1]) * mm, PLACES)

    into = Collector()
    for k, s in enumerate(strokes):
        layer = of[k]
        p, q = at(ends[2 * k]), at(ends[2 * k + 1])
        for shape in _shapes(s, layer, p, q, at, mm):
            shape.dashed = layer == "centre lines"
            into.add(shape)
    drawing = into.done()
    drawing.unit = "mm"
    return drawing


def _within(page: Page, window: Box) -> list[SheetView]:
    """What lies wholly within a window, as one view. Raises Refusal where there are no outlines."""
    w, h = page.size
    left, top, right, bottom = window[0] * w, window[1] * h, window[2] * w, window[3] * h

    def inside(s: Stroke) -> bool:
        a, b, c, d = s.box()
        return left <= a and top <= b and c <= right and d <= bottom

    every = views(page)
    seen = [s for v in every for s in v.seen if inside(s)]
    if not seen:
        raise Refusal("No outline lies wholly within this window; pull it round what is meant.")
    rest = ([s for v in every for s in getattr(v, name) if inside(s)] for name in ("hidden", "centre"))
    return [SheetView(merged([s.box() for s in seen]), seen, *rest)]


def _others(page: Page, view: SheetView) -> list[Stroke]:
    """What lies within a view and was not taken for an outline, a hidden or a centre line."""
    known = {id(s) for v in views(page) for s in (*v.seen, *v.hidden, *v.centre)}
    left, top, right, bottom = view.box

    def inside(s: Stroke) -> bool:
        a, b, c, d = s.box()
        return left - SNUG <= a and top - SNUG <= b and c <= right + SNUG and d <= bottom + SNUG

    return [s for s in page.strokes if id(s) not in known and not s.filled and inside(s)]


def _marks_a_circle(line: Stroke, view: SheetView) -> bool:
    """Whether a centre line only marks the middle of a circle: the circle's own centre says as much."""
    if line.kind != "line":
        return False
    (ax, ay), (bx, by) = line.points
    middle, half = ((ax + bx) / 2, (ay + by) / 2), line.length() / 2
    return any(
        s.centre is not None and math.dist(s.centre, middle) < SNUG and half < s.radius + OVER
        for s in (*view.seen, *view.centre)
        if s.kind == "circle"
    )


def _shapes(s: Stroke, layer: str, p: XY, q: XY, at, mm: float) -> list[Shape]:  # type: ignore[no-untyped-def]
    if s.kind == "circle" and s.centre is not None:
        return [Shape(layer=layer, kind="circle", c=at(s.centre), r=round(s.radius * mm, PLACES))]
    if s.kind == "arc" and s.centre is not None:
        p, q = (p, q) if s.sweep < 0 else (q, p)  # counter-clockwise as seen
        return [Shape(layer=layer, kind="arc", c=at(s.centre), r=round(s.radius * mm, PLACES), p=p, q=q)]
    inner = [at(x) for x in s.points[1:-1]]
    run = [p, *inner, q]
    return [Shape(layer=layer, kind="line", p=a, q=b) for a, b in itertools.pairwise(run) if a != b]


def _settled(ends: list[XY]) -> list[XY]:
    """Ends that lie within SNUG of each other at one place: sheets round what they draw."""
    if not ends:
        return []
    places = np.array(ends)
    cells: dict[tuple[int, int], list[int]] = {}
    found: list[XY] = []
    kept: list[XY] = []
    for x, y in places.tolist():
        i, j = math.floor(x / SNUG), math.floor(y / SNUG)
        near = (k for a in (i - 1, i, i + 1) for b in (j - 1, j, j + 1) for k in cells.get((a, b), ()))
        k = next((k for k in near if math.dist(kept[k], (x, y)) <= SNUG), None)
        if k is None:
            k = len(kept)
            kept.append((x, y))
            cells.setdefault((i, j), []).append(k)
        found.append(kept[k])
    return found
