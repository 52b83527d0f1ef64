"""Lines of dimensions and leaders on a sheet that is drawn in one width throughout, told by their arrowheads.

A line that runs on in the direction of an arrowhead at its end is one of a dimension or a leader; what it is carried on
by under a text is its shelf; what crosses at its tip, ends just beyond it and touches no outline is an extension line
(ISO 129-1).
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field

import numpy as np
from scipy.spatial import cKDTree

from .page import Page, Stroke

ONE_WIDTH = 1.3  # times as wide as the thinnest: sheets whose lines differ less are drawn in one width
HEAD = 24.0  # points: an arrowhead is no longer
SLIM = 0.75  # of its length that an arrowhead is wide at most
TOUCH = 0.8  # points within which ends lie on one another
STRAIGHT = math.radians(4)
OVERRUN = 16.0  # points an extension line goes on beyond the arrow

XY = tuple[float, float]


@dataclass(frozen=True)
class Head:
    """An arrowhead: where it points, the way it points (a unit vector), and its corners."""

    tip: XY
    way: XY
    corners: tuple[XY, ...] = field(default=(), compare=False)


def one_width(strokes: Iterable[Stroke]) -> bool:
    """Whether solid lines tell nothing by their width."""
    widths = [s.width for s in strokes if not s.dash and not s.filled and s.layer != "hatch"]
    return bool(widths) and max(widths) <= ONE_WIDTH * min(widths)


def heads(strokes: Sequence[Stroke]) -> list[Head]:
    """Arrowheads: triangles, filled or not, however their sides are drawn, and two equal barbs."""
    filled = [s for s in strokes if s.centre is None and s.filled]
    corners = [sorted({(round(x, 2), round(y, 2)) for s in group for x, y in s.points}) for group in _joined(filled)]
    drawn = [s for s in strokes if s.kind == "line" and not s.dash and not s.filled and _short(s)]
    found = [_head(c) for c in [*corners, *_triangles(drawn)]]
    found += [_barbs(group) for group in _joined(drawn) if len(group) == 2]
    return [h for h in found if h is not None]


def _triangles(strokes: Sequence[Stroke]) -> list[list[XY]]:
    """Corners of the triangles that lines make, whatever else hangs on them."""
    beside: dict[XY, set[XY]] = {}
    for s in strokes:
        a, b = ((round(x, 1), round(y, 1)) for x, y in (s.points[0], s.points[-1]))
        if a != b:
            beside.setdefault(a, set()).add(b)
            beside.setdefault(b, set()).add(a)
    found = {tuple(sorted((a, b, c))) for a in beside for b in beside[a] for c in beside[a] & beside[b]}
    return [list(t) for t in sorted(found)]


def _short(s: Stroke) -> bool:
    return 0 < math.dist(s.points[0], s.points[-1]) <= HEAD


def _joined(strokes: Sequence[Stroke]) -> list[list[Stroke]]:
    """Strokes whose ends lie on one another."""
    parent = list(range(len(strokes)))

    def root(i: int) -> int:
        while parent[i] != i:
            parent[i] = parent[parent[i]]
            i = parent[i]
        return i

    if strokes:
        ends = np.array([p for s in strokes for p in (s.points[0], s.points[-1])])
        for a, b in cKDTree(ends).query_pairs(0.05):
            parent[root(a // 2)] = root(b // 2)
    groups: dict[int, list[Stroke]] = {}
    for i, s in enumerate(strokes):
        groups.setdefault(root(i), []).append(s)
    return list(groups.values())


def _barbs(group: Sequence[Stroke]) -> Head | None:
    """Two barbs of one length from a tip, closely opened."""
    (a, b), (c, d) = ((s.points[0], s.points[-1]) for s in group)
    tip, one, two = min(((p, q, r) for p, q in ((a, b), (b, a)) for o, r in ((c, d), (d, c)) if math.dist(p, o) < 0.05),
                        default=(a, a, a))  # fmt: skip
    first, second = math.dist(tip, one), math.dist(tip, two)
    if min(first, second) <= 0 or abs(first - second) > 0.05 * first:
        return None
    return _head([tip, one, two]) if math.dist(one, two) < SLIM * first else None


def _head(corners: Sequence[XY]) -> Head | None:
    if len(corners) != 3:
        return None
    base = min(range(3), key=lambda i: math.dist(corners[i - 1], corners[i - 2]))
    tip, one, two = corners[base], corners[base - 1], corners[base - 2]
    middle = ((one[0] + two[0]) / 2, (one[1] + two[1]) / 2)
    long = math.dist(tip, middle)
    if not 0 < long <= HEAD or math.dist(one, two) > SLIM * long:
        return None
    return Head(tip, ((tip[0] - middle[0]) / long, (tip[1] - middle[1]) / long), tuple(corners))


def beside(page: Page, strokes: Sequence[Stroke]) -> set[int]:
    """Places in ``strokes`` of the lines that belong to dimensions and leaders."""
    lines = [i for i, s in enumerate(strokes) if s.kind == "line" and not s.dash and not s.filled]
    tips = heads(strokes)
    if not lines or not tips:
        return set()
    ends = np.array([p for i in lines for p in (strokes[i].points[0], strokes[i].points[-1])])
    tree, at_tips = cKDTree(ends), cKDTree(np.array([h.tip for h in tips]))
    own: dict[XY, set[int]] = {}
    for n, h in enumerate(tips):
        for x, y in h.corners:
            own.setdefault((round(x, 1), round(y, 1)), set()).add(n)
    found = {i for i in lines if _short(strokes[i]) and _side_of(strokes[i], own)}
    for head in tips:
        back = (head.tip[0] - head.way[0] * HEAD / 2, head.tip[1] - head.way[1] * HEAD / 2)
        for k in tree.query_ball_point(back, HEAD / 2 + TOUCH):
            stroke = strokes[lines[k // 2]]
            if _runs_along(stroke, head):
                found.add(lines[k // 2])

    def touched(i: int, within: float) -> set[int]:
        mine = (strokes[i].points[0], strokes[i].points[-1])
        return {lines[k // 2] for end in mine for k in tree.query_ball_point(end, within)} - {i}

    carried = {k for i in found for k in touched(i, TOUCH)} - found
    shelves = {i for i in carried if _under_text(page, strokes[i])}
    crossing = {i for i in lines if i not in found | shelves and _crosses(strokes[i], tips, at_tips)}
    while True:  # what hangs on an outline is one; extension lines may begin where others do
        known = found | shelves | crossing
        hanging = {i for i in crossing if touched(i, TOUCH / 2) - known}
        if not hanging:
            return known
        crossing -= hanging


def _side_of(stroke: Stroke, corners: dict[XY, set[int]]) -> bool:
    """Whether a line is a side of an arrowhead: both its ends are corners of one."""
    a, b = ((round(x, 1), round(y, 1)) for x, y in (stroke.points[0], stroke.points[-1]))
    return bool(corners.get(a, set()) & corners.get(b, set()))


def _runs_along(stroke: Stroke, head: Head) -> bool:
    (ax, ay), (bx, by) = stroke.points[0], stroke.points[-1]
    size = math.hypot(bx - ax, by - ay)
    if size < TOUCH:
        return False
    way = ((bx - ax) / size, (by - ay) / size)
    if abs(way[0] * head.way[1] - way[1] * head.way[0]) > math.sin(STRAIGHT):
        return False
    off = (head.tip[0] - ax) * way[1] - (head.tip[1] - ay) * way[0]
    return abs(off) <= TOUCH


def _under_text(page: Page, stroke: Stroke) -> bool:
    """Whether a line that a leader runs into carries a text."""
    (ax, ay), (bx, by) = stroke.points[0], stroke.points[-1]
    for t in page.letterings:
        x, y = t.middle()
        if min(ax, bx) - t.size <= x <= max(ax, bx) + t.size and abs(y - (ay + by) / 2) <= 2 * t.size:
            return True
    return False


def _crosses(stroke: Stroke, tips: Sequence[Head], at_tips: cKDTree) -> bool:
    """Whether a line ends just beyond the tip of an arrow that it crosses."""
    (ax, ay), (bx, by) = stroke.points[0], stroke.points[-1]
    size = math.hypot(bx - ax, by - ay)
    if size < TOUCH:
        return False
    way = ((bx - ax) / size, (by - ay) / size)
    near = {k for end in ((ax, ay), (bx, by)) for k in at_tips.query_ball_point(end, OVERRUN + TOUCH)}
    for head in (tips[k] for k in near):
        along = (head.tip[0] - ax) * way[0] + (head.tip[1] - ay) * way[1]
        off = (head.tip[0] - ax) * way[1] - (head.tip[1] - ay) * way[0]
        level = abs(way[0] * head.way[0] + way[1] * head.way[1]) > 0.95
        if not level and abs(off) <= TOUCH and -TOUCH <= along <= size + TOUCH and min(along, size - along) <= OVERRUN:
            return True
    return False
