"""Details of a sheet: what a ring on another view shows, larger, held against the part as that view is."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from ..sheet.page import Box, Page, merged
from ..sheet.section_marks import DetailMark
from ..sheet.views import SheetView, run
from .compared_view import XY, Array, Compared, Place, compared
from .model_lines import Model

ROOM = 1.3  # times as large as its ring is drawn: the place in which a detail's lines are looked for, by its title
POINT = 25.4 / 72  # mm


def gathered(
    found: list[SheetView], marks: Sequence[DetailMark], mm: float | None
) -> tuple[list[SheetView], dict[int, DetailMark]]:
    """The views of a page, those that are pieces of one detail put together; and which are details, by their place in
    the list. ``mm`` of the part a point of the page."""
    views, named = list(found), {}
    for mark in marks:
        size = 2 * mark.radius * mark.ratio * (mm or POINT) / POINT
        x, y = mark.at
        mine = [
            v
            for v in views
            if abs((v.box[0] + v.box[2]) / 2 - x) < ROOM * size / 2
            and min(abs(v.box[1] - y), abs(v.box[3] - y), abs((v.box[1] + v.box[3]) / 2 - y)) < ROOM * size
            and max(v.box[2] - v.box[0], v.box[3] - v.box[1]) < 1.02 * size
        ]
        if not mine:
            continue
        one = SheetView(merged([v.box for v in mine]))
        for v in mine:
            for name in ("seen", "hidden", "centre", "lining"):
                getattr(one, name).extend(getattr(v, name))
        views = [v for v in views if not any(v is m for m in mine)] + [one]
        named[id(one)] = mark
    return views, {i: named[id(v)] for i, v in enumerate(views) if id(v) in named}


def compare_detail(
    page: Page,
    view: SheetView,
    mark: DetailMark,
    others: Sequence[tuple[SheetView, Compared]],
    model: Model,
    tolerance: float,
) -> Compared | None:
    """A detail held against the part. It lies on it as what its ring shows of the view that the ring is on; None where
    that is not placed."""
    w, h = page.size
    for parent, c in others:
        box = parent.box
        if c.side is None or not (box[0] <= mark.centre[0] <= box[2] and box[1] <= mark.centre[1] <= box[3]):
            continue
        ring = shapely.Point(mark.centre).buffer(mark.radius, 64)
        shown = _box_inside([run(s) for s in (*parent.seen, *parent.hidden)], ring)
        if shown is None:
            return None
        mm = POINT / mark.ratio
        large = c.mm / mm
        origin = (c.origin[0] * w, c.origin[1] * h)
        sign = {"front": -1.0, "back": 1.0, "left": -1.0, "right": 1.0, "top": 1.0, "under": -1.0}[c.side]
        best: tuple[float, Compared] | None = None
        for at in _laid(view.box, shown, origin, large):
            place = Place(c.side, c.turn, mm, at, None if c.cut is None else c.cut * sign)
            drawn_from = model.lines(place.seen)
            tried = compared(page, view, drawn_from, drawn_from, place, tolerance, model.walks)
            score = sum(tried.explained.values())
            if best is None or score > best[0] + 1e-9:
                best = (score, tried)
        assert best is not None
        made = model.walks.whole(best[1])
        made.name, made.missing, made.edges, made.shown = (
            f"detail {mark.letter}",
            [],
            0.0,
            0.0,
        )  # it is to show a part only
        return made
    return None


def _laid(own: Box, shown: Box, origin: XY, large: float) -> list[XY]:
    """Where the part's origin may lie for a detail: what is drawn in it and what its ring shows have one middle, or one
    edge where the ring just cuts something off."""
    shares = (0.5, 0.0, 1.0)
    return [
        (
            own[0] + s * (own[2] - own[0]) + (origin[0] - shown[0] - s * (shown[2] - shown[0])) * large,
            own[1] + t * (own[3] - own[1]) + (origin[1] - shown[1] - t * (shown[3] - shown[1])) * large,
        )
        for s in shares
        for t in shares
    ]


def _box_inside(runs: Sequence[Array], ring: shapely.Polygon) -> Box | None:
    pieces = [shapely.intersection(shapely.linestrings(r), ring) for r in runs]
    boxes = np.array([p.bounds for p in pieces if not p.is_empty])
    if not len(boxes):
        return None
    return float(boxes[:, 0].min()), float(boxes[:, 1].min()), float(boxes[:, 2].max()), float(boxes[:, 3].max())
