"""Every line of the sheet held against the part: which edge explains it, what no edge explains, what is not drawn.

A view is placed by itself where it can be: seen from one of the six sides, its outline is as wide and high as the part
is from there, and of the sides of which that is so the one whose edges explain most of it is meant. Then both are
looked at in small steps: a place of the sheet's line is explained where an edge runs within the tolerance.

Sections are told by their titles and by section lining; they are held against the part as it is cut by the plane of
their cutting line, or where there is none by the plane that explains most.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..sheet.page import Page
from ..sheet.section_marks import SectionTitle, titled, titles, traces
from ..sheet.section_marks import details as marked_details
from ..sheet.views import SheetView, run, views
from ..solid.outline import Lines
from ..solid.shapes import Shape
from .compared_view import (
    ALIKE,
    PIECES,
    Compared,
    Piece,
    Place,
    axes,
    compared,
    fitted,
    page_box,
    share_run,
    shares,
)
from .detail_lines import compare_detail, gathered
from .inclined_sections import inclined_section
from .model_lines import SIDES, Model, Seen, around
from .section_lines import ROUND, covered, hull, likely_planes, mixed, planes_of_traces
from .walks import by_kind

Array = NDArray[np.float64]
XY = tuple[float, float]
XYZ = tuple[float, float, float]

TOLERANCE = 0.1  # mm
SHOWN = 0.25  # what it counts that the part's edges are drawn: a sheet leaves some out
TRIED = 8  # sides a view is tried from together with the others
APART = 0.04  # what it costs when views are not in projection: what they show counts for more
GOOD = 1.1  # a view so well explained need not be tried any further
PARTLY = 0.01  # what it costs that only a part of a view is cut
LINED = 0.6  # of a view that a section is lined at least
UNLIKELY = 0.15  # what it costs to take a view for a section of which less is lined
SURE = 0.999  # explained so well it need not be tried as seen from elsewhere
LIKELY = 0.6  # of a picture's lines that edges explain, or it is none of the part
PICTORIAL: tuple[XYZ, ...] = tuple((x, y, z) for z in (1.0, -1.0) for x in (1.0, -1.0) for y in (-1.0, 1.0))
WHOLE = 0.85  # of a view that is lined: it is cut all through


@dataclass
class SheetLines:
    """All views of a page. ``share``: of the length of the outlines and hidden lines that edges explain."""

    views: list[Compared]
    share: float


def compare_lines(
    page: Page,
    shapes: list[Shape],
    mm: float | None,
    tolerance: float = TOLERANCE,
    third_angle: bool = True,
) -> SheetLines:
    """The lines of a page held against the part's. ``mm``: of the part, a point of the page; None where it is not
    known, and then each view's own scale is taken from its size. ``tolerance`` in mm of the part. Views beside and
    above each other are taken to be in projection, third angle or first."""
    model = Model(shapes)
    drawn_views, details = gathered(views(page), marked_details(page), mm)
    named = titled([v.box for v in drawn_views], titles(page))
    named = {i: t for i, t in named.items() if i not in details}
    whole = [i not in named and i not in details and not v.lining for i, v in enumerate(drawn_views)]
    uncut: list[Seen] = [Seen(side) for side in SIDES]
    tried = [
        _tried(page, view, model, mm, tolerance, uncut) if shapes and whole[i] else []
        for i, view in enumerate(drawn_views)
    ]
    chosen = _agreeing(tried, third_angle)
    placed = [c for c in chosen if c is not None]
    for c in placed:
        c.projected = not any(_disagree(c, o, third_angle) for o in placed if o is not c)
    for i, view in enumerate(drawn_views):
        if shapes and not whole[i] and i not in details:
            chosen[i] = _section(page, view, model, mm, tolerance, named.get(i), placed, third_angle)
    for i, view in enumerate(drawn_views):
        if shapes and whole[i] and chosen[i] is None:
            chosen[i] = _pictorial(page, view, model, tolerance)
    for i, mark in details.items():
        parents = [(v, c) for v, c in zip(drawn_views, chosen, strict=True) if c is not None]
        chosen[i] = compare_detail(page, drawn_views[i], mark, parents, model, tolerance) if shapes else None
    found = [model.walks.whole(c) if c else _unplaced(page, v, mm) for v, c in zip(drawn_views, chosen, strict=True)]
    drawn = sum(sum(v.drawn.values()) for v in found)
    explained = sum(sum(v.explained.values()) for v in found)
    return SheetLines(found, explained / drawn if drawn else 0.0)


def _pictorial(page: Page, view: SheetView, model: Model, tolerance: float) -> Compared | None:
    """A view as an isometric picture of the part (ISO 5456-3), whatever its scale; None where it is none."""
    best: tuple[float, Compared] | None = None
    for towards in PICTORIAL:
        drawn_from = model.pictorial(towards)
        place = fitted(view, around((*drawn_from.seen, *drawn_from.smooth, *drawn_from.hidden)), None)
        if place is None:
            continue
        made = compared(page, view, drawn_from, drawn_from, place, tolerance, model.walks)
        made.side, made.name = None, "isometric"
        score = sum(made.explained.values()) / (sum(made.drawn.values()) or 1.0)
        if best is None or score > best[0]:
            best = (score, made)
        if score > SURE:
            break
    return best[1] if best and best[0] > LIKELY else None


def _unplaced(page: Page, view: SheetView, mm: float | None) -> Compared:
    made = Compared(shares(page, view), None, mm=mm or 0.0)
    k = mm or 25.4 / 72
    for kind, strokes in by_kind(view):
        made.drawn[kind] = sum(s.length() for s in strokes) * k
        made.unexplained += [Piece(kind, share_run(page, run(s)), s.length() * k) for s in strokes][:PIECES]
    return made


def _section(
    page: Page,
    view: SheetView,
    model: Model,
    mm: float | None,
    tolerance: float,
    title: SectionTitle | None,
    placed: list[Compared],
    third_angle: bool,
) -> Compared | None:
    """A view that is cut, held against the part as it is cut where that explains most: by the planes of its letters
    first, then by likely ones. Without a title it may be cut in part only, or not at all."""
    own = 25.4 / 72 / title.ratio if title and title.ratio else mm
    marked = []
    for c in placed if title else []:
        w, h = page.size
        to_right, to_top, _ = axes(c)
        place = (to_right, to_top, (c.origin[0] * w, c.origin[1] * h), c.mm)
        marked += planes_of_traces(traces(page, title.letter, page_box(page, c)), place) if title else []
    found = _tried(page, view, model, own, tolerance, marked)
    if title and not found:
        inclined = inclined_section(page, view, model, own, tolerance, title.letter, placed)
        if inclined is not None:
            inclined.name = title.name
            return inclined
    if not found or found[0][0] < GOOD:
        sides = dict.fromkeys(p.side for p in _candidates(view, model, own, [Seen(side) for side in SIDES]))
        planes = likely_planes(model, sides)
        share = covered([run(s) for s in view.lining], view.box) if view.lining else 1.0
        unlikely = UNLIKELY * (title is None and share < LINED)
        found += [(s - unlikely, c) for s, c in _tried(page, view, model, own, tolerance, planes)]
        if not title:
            found += _tried(page, view, model, own, tolerance, [Seen(side) for side in SIDES])
        if view.lining and share < WHOLE:
            found += _tried(page, view, model, own, tolerance, planes, partly=True)
    if not found:
        return None
    off = {id(c): any(_disagree(c, o, third_angle) for o in placed) for _, c in found}
    best = max(found, key=lambda f: f[0] - APART * off[id(f[1])])[1]
    best.projected = best.cut is not None or not off[id(best)]
    best.name = title.name if title else ""
    return best


def _candidates(view: SheetView, model: Model, mm: float | None, ways: list[Seen]) -> list[Place]:
    """Of ways to see the part those in which it is as wide and as high as the view."""
    left, top, right, bottom = view.box
    found = []
    for seen in ways:
        a, b, c, d = model.box(seen)
        for turn in (0, 90, 180, 270):
            wide, high = ((c - a), (d - b)) if turn % 180 == 0 else ((d - b), (c - a))
            own = mm or math.sqrt(wide * max(high, 1e-9) / (max(right - left, 1e-9) * max(bottom - top, 1e-9)))
            w, h = (right - left) * own, (bottom - top) * own
            play = ALIKE * max(wide, high) + 0.05
            if abs(w - wide) > play or abs(h - high) > play:
                continue
            middle = np.array([[(a + c) / 2, (b + d) / 2]])
            at = Place(seen.side, turn, own, (0.0, 0.0)).to_page(middle)[0]
            place = ((left + right) / 2 - float(at[0]), (top + bottom) / 2 - float(at[1]))
            found.append(Place(seen.side, turn, own, place, seen.cut, seen.steps))
    return found


def _tried(
    page: Page,
    view: SheetView,
    model: Model,
    mm: float | None,
    tolerance: float,
    ways: list[Seen],
    partly: bool = False,
) -> list[tuple[float, Compared]]:
    """A view compared in every way that it may be seen, each with how well it is explained; the best first. ``partly``:
    only where the view is lined the part is cut."""
    found = []
    for place in _candidates(view, model, mm, [Seen(w.side) for w in ways] if partly else ways):
        if partly:
            found += [
                _rated(compared(page, view, *_half(view, model, cut), cut, tolerance, model.walks), place.turn, True)
                for cut in (replace(place, cut=w.cut) for w in ways if w.side == place.side)
            ]
            continue
        drawn_from, asked = model.lines(place.seen), model.asked(place.seen)
        found.append(_rated(compared(page, view, drawn_from, asked, place, tolerance, model.walks), place.turn, False))
    return sorted(found, key=lambda c: -c[0])


def _half(view: SheetView, model: Model, place: Place) -> tuple[Lines, Lines]:
    where = hull([place.to_part(run(s)) for s in view.lining], ROUND * place.mm)
    return mixed(model.lines(Seen(place.side)), model.lines(place.seen), where)


def _rated(compared: Compared, turn: int, partly: bool) -> tuple[float, Compared]:
    compared.partly = partly
    drawn = sum(compared.drawn.values())
    score = sum(compared.explained.values()) / (drawn or 1.0) + SHOWN * compared.shown / (compared.edges or 1.0)
    return score - 0.02 * (turn != 0) - PARTLY * partly, compared


def _agreeing(tried: list[list[tuple[float, Compared]]], third_angle: bool) -> list[Compared | None]:
    """One choice for every view, so that together they show one part, in projection where they stand in it."""
    best: tuple[float, list[Compared | None]] | None = None
    for anchor, mine in enumerate(tried):
        for start, first in mine[:TRIED]:
            chosen: list[Compared | None] = [None] * len(tried)
            chosen[anchor] = first
            total = start
            for k, others in enumerate(tried):
                if k == anchor or not others:
                    continue
                settled = [c for c in chosen if c is not None]
                score, chosen[k] = max(
                    ((s - APART * sum(_disagree(c, o, third_angle) for o in settled), c) for s, c in others[:TRIED]),
                    key=lambda pair: pair[0],
                )
                total += score
            if best is None or total > best[0] + 1e-9:
                best = (total, chosen)
    return best[1] if best else [None] * len(tried)


def _disagree(one: Compared, two: Compared, third_angle: bool) -> bool:
    """Whether two views that stand in projection show the part as it cannot stand. In third angle a view beside another
    is what is seen from that side; in first angle from the other."""
    way = 1.0 if third_angle else -1.0
    if _in_line(one.box[0::2], two.box[0::2]):  # one above the other
        above, below = (one, two) if one.box[1] < two.box[1] else (two, one)
        (r1, _, t1), (r2, u2, _) = axes(above), axes(below)
        return r1 != r2 or t1 != tuple(way * v for v in u2)
    if _in_line(one.box[1::2], two.box[1::2]):  # side by side
        left, right = (one, two) if one.box[0] < two.box[0] else (two, one)
        (r1, u1, _), (_, u2, t2) = axes(left), axes(right)
        return u1 != u2 or t2 != tuple(way * v for v in r1)
    return False


def _in_line(a: tuple[float, ...], b: tuple[float, ...]) -> bool:
    """Whether two stretches of the page have one middle, to a twentieth of the longer."""
    return abs(sum(a) - sum(b)) / 2 < 0.05 * max(a[1] - a[0], b[1] - b[0])
