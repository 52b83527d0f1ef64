"""Sections along inclined planes, square to a view that the sheet has: held against the part as it is cut there, drawn
in line with their cutting line or turned level (ISO 128-3)."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence

from ..sheet.page import XY, Page
from ..sheet.section_marks import inclined_traces
from ..sheet.views import SheetView
from ..solid.frame import cross, dot, plus, scaled
from ..solid.outline import Line, Lines
from .compared_view import Compared, axes, compared, fitted, page_box
from .model_lines import Model, around

ENOUGH = 0.6  # of a view's lines that the cut explains, or it is not the one meant


def inclined_section(
    page: Page,
    view: SheetView,
    model: Model,
    mm: float | None,
    tolerance: float,
    letter: str,
    placed: Sequence[Compared],
) -> Compared | None:
    """A view held against the part cut along the inclined line of a letter on one of the views that are ``placed``;
    None where no such cut looks like it."""
    best: tuple[float, Compared] | None = None
    for parent in placed:
        if parent.side is None or parent.cut is not None:
            continue
        for ends in inclined_traces(page, letter, page_box(page, parent)):
            for turn, whole, drawn in _ways(page, parent, ends, model):
                place = fitted(view, around((*drawn.seen, *drawn.smooth)), mm)
                if place is None:
                    continue
                made = compared(page, view, whole, drawn, place, tolerance, model.walks)
                made.side, made.inclined = None, turn
                score = sum(made.explained.values()) / (sum(made.drawn.values()) or 1.0)
                if best is None or score > best[0] + 1e-6:
                    best = (score, made)
    if best is None or best[0] <= ENOUGH:
        return None
    made = model.walks.whole(best[1])
    made.model = [p for p in made.model if p.kind == "seen"]  # a section is drawn without what it hides
    return made


def _ways(page: Page, parent: Compared, ends: tuple[XY, XY], model: Model) -> Iterator[tuple[float, Lines, Lines]]:
    """How the part may be drawn that is cut along a line of a view: the line's angle there (degrees, anticlockwise from
    level, less than 180), the lines that are there and those that are shown. From both sides; all that lies behind the
    plane, or only what it cuts; as it stands to the line, and turned level or upright."""
    to_right, to_top, towards = axes(parent)
    (ax, ay), (bx, by) = ends
    w, h = page.size
    ox, oy = parent.origin[0] * w, parent.origin[1] * h
    theta = math.atan2(ay - by, bx - ax)
    along = plus(scaled(to_right, math.cos(theta)), scaled(to_top, math.sin(theta)))
    through = plus(scaled(to_right, (ax - ox) * parent.mm), scaled(to_top, (oy - ay) * parent.mm))
    for sign in (1.0, -1.0):
        normal = scaled(cross(along, towards), sign)
        whole, cut = (model.cut_square_to(normal, along, dot(normal, through), thin) for thin in (False, True))
        for turn in (theta, theta + math.pi, 0.0, math.pi, math.pi / 2, -math.pi / 2):
            there = _turned(whole, turn)
            yield math.degrees(theta) % 180, there, there
            yield math.degrees(theta) % 180, there, _turned(cut, turn)


def _turned(drawn: Lines, angle: float) -> Lines:
    """Anticlockwise about the origin."""
    c, s = math.cos(angle), math.sin(angle)

    def runs(of: list[Line]) -> list[Line]:
        return [[(c * x - s * y, s * x + c * y) for x, y in run] for run in of]

    return Lines(runs(drawn.seen), runs(drawn.smooth), runs(drawn.hidden))
