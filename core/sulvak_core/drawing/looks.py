"""The ways a part is looked at on a drawing, and the lines each shows.

Views are arranged round a main one by ISO 5456-2: in third angle what is seen from the right stands to the right of it,
in first angle to its left.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
import shapely

from ..inspect.model_lines import SIDES, Model, Seen
from ..part.callout import Side
from ..solid.frame import XYZ, cross, dot, scaled, unit
from ..solid.outline import curves
from ..solid.project import Flat
from ..solid.shapes import Shape
from .paper import XY, Box

NEAR = 0.02  # mm of the part: what lies so near a line lies on it
ACROSS = 0.98  # the cosine from which on a line runs along another
FINE = 0.15  # rad between places along a curve
OPPOSITE: dict[Side, Side] = {
    "front": "back", "back": "front", "top": "under", "under": "top", "left": "right", "right": "left",
}  # fmt: skip
BESIDE = ("right", "left", "above", "below", "rear")  # where a view stands in the arrangement, seen from there


@dataclass(frozen=True)
class Look:
    """A way to look at a part: ``towards`` who looks, what of it points to the ``right`` on the paper. ``seat``: where
    it is seen from beside the main view (main, right, left, above, below, rear), or free. ``cut``: a plane square to
    the look, mm towards who looks."""

    name: str
    towards: XYZ
    right: XYZ
    seat: str = "free"
    cut: float | None = None
    title: str = ""

    @property
    def up(self) -> XYZ:
        return cross(self.towards, self.right)

    def flat(self, p: XYZ) -> XY:
        """A place of the part as it is seen, mm to the right and up from the part's origin."""
        return dot(p, self.right), dot(p, self.up)

    def level(self, way: XYZ) -> bool:
        """Whether a direction of the part lies in the paper."""
        return abs(dot(way, self.towards)) < 1e-6


def main_look(side: Side) -> Look:
    towards, right = SIDES[side]
    return Look(side, towards, right, "main")


def look_beside(main: Look, seat: str) -> Look:
    """What is seen from beside a main view, as it is turned in projection with it."""
    t, r, u = main.towards, main.right, main.up
    towards, right = {
        "right": (r, scaled(t, -1.0)),
        "left": (scaled(r, -1.0), t),
        "above": (u, r),
        "below": (scaled(u, -1.0), r),
        "rear": (scaled(t, -1.0), scaled(r, -1.0)),
    }[seat]
    return Look(side_of(towards), _clean(towards), _clean(right), seat)


def _clean(v: XYZ) -> XYZ:
    return (v[0] + 0.0, v[1] + 0.0, v[2] + 0.0)


def side_of(towards: XYZ) -> Side:
    """The side that is seen when looking so."""
    return next(s for s, (t, _) in SIDES.items() if dot(t, towards) > 0.99)


def isometric(main: Look) -> Look:
    """Isometric (ISO 5456-3), from before the main view, to the right of it and above; z up where that can be."""
    t, r = main.towards, main.right
    towards = tuple(a + b + c for a, b, c in zip(t, r, main.up, strict=True))
    if abs(t[2]) > 0.5:  # a plate seen from above: looked at from its front
        towards = (1.0, -1.0, math.copysign(1.0, t[2]))
    towards = unit(towards)  # type: ignore[arg-type]
    return Look("iso", towards, unit(cross((0.0, 0.0, 1.0), towards)))


class Ways:
    """Curves to be found by places on them, with the way each runs."""

    def __init__(self, curves: Sequence[Flat]) -> None:
        self.tree = shapely.STRtree([shapely.LineString(run(c)) for c in curves])
        self.ways = np.zeros((len(curves), 2))  # of straight ones; nothing for others
        for i, c in enumerate(curves):
            if c.kind == "line":
                d = np.array(c.at["q"]) - np.array(c.at["p"])
                self.ways[i] = d / (np.linalg.norm(d) or 1.0)

    def under(self, places: Sequence[XY], way: XY | None) -> set[int]:
        """Which of places lie on a curve."""
        at, lines = self.tree.query(shapely.points(np.array(places)), predicate="dwithin", distance=NEAR)
        if way is not None:
            at = at[np.abs(self.ways[lines] @ np.array(way)) < ACROSS]
        return {int(i) for i in at}


@dataclass
class Drawn:
    """A look with the part's lines as they are seen from there, in mm of the part."""

    look: Look
    seen: list[Flat]
    smooth: list[Flat]
    hidden: list[Flat]
    cut: list[Flat] = field(default_factory=list)
    lining: list[Flat] = field(default_factory=list)

    @cached_property
    def box(self) -> Box:
        """Left, low, right and high of what is seen."""
        at = np.concatenate([np.array(run(c)) for c in (*self.seen, *self.cut, *self.hidden)] or [np.zeros((1, 2))])
        (left, low), (right, high) = at.min(axis=0), at.max(axis=0)
        return float(left), float(low), float(right), float(high)

    @cached_property
    def _outline(self) -> Ways:
        return Ways([*self.seen, *self.cut])

    @cached_property
    def _behind(self) -> Ways:
        return Ways([*self.hidden, *self.smooth])

    def share_seen(self, places: Sequence[XY], way: XY | None = None) -> tuple[float, float]:
        """What share of places lies on lines that are seen, and what on any line at all; with a ``way`` (a unit vector)
        only lines that run across it count."""
        on = self._outline.under(places, way)
        either = on | self._behind.under(places, way)
        return len(on) / len(places), len(either) / len(places)

    def length(self) -> float:
        """Of what is seen, mm."""
        return float(sum(shapely.length(shapely.LineString(run(c))) for c in self.seen))


def drawn(shapes: Sequence[Shape], look: Look) -> Drawn:
    """A part's lines seen in a way; hidden lines that lie under others are left out."""
    found = curves(list(shapes), look.towards, look.right)
    return Drawn(look, found.seen, found.smooth, bare(found.hidden, found.seen))


def section(model: Model, look: Look) -> list[Shape]:
    """What is left of a part behind the plane that cuts it."""
    assert look.cut is not None
    return model.behind(Seen(side_of(look.towards), look.cut))


def bare(hidden: Sequence[Flat], seen: Sequence[Flat]) -> list[Flat]:
    """Straight hidden lines without what lies under lines that are seen; other hidden curves as they are."""
    straight = [shapely.LineString([c.at["p"], c.at["q"]]) for c in seen if c.kind == "line"]
    if not straight:
        return list(hidden)
    tree = shapely.STRtree(straight)
    found: list[Flat] = []
    for c in hidden:
        if c.kind != "line":
            found.append(c)
            continue
        line = shapely.LineString([c.at["p"], c.at["q"]])
        over = [straight[i] for i in tree.query(line, predicate="dwithin", distance=NEAR / 2)]
        along = [o for o in over if _same_way(line, o)]
        left = (
            line.difference(shapely.union_all([o.buffer(NEAR / 2, cap_style="flat") for o in along])) if along else line
        )
        for piece in shapely.get_parts(left):
            if piece.geom_type == "LineString" and piece.length > NEAR:
                p, q = piece.coords[0], piece.coords[-1]
                found.append(Flat("line", {"p": (p[0], p[1]), "q": (q[0], q[1])}))
    return found


def _same_way(a: shapely.LineString, b: shapely.LineString) -> bool:
    (ax, ay), (bx, by) = a.coords[0], a.coords[-1]
    (cx, cy), (dx, dy) = b.coords[0], b.coords[-1]
    return abs((bx - ax) * (dy - cy) - (by - ay) * (dx - cx)) < 1e-4 * a.length * b.length


def run(c: Flat) -> list[XY]:
    """Places along a curve."""
    if c.kind == "line":
        return [c.at["p"], c.at["q"]]
    if c.kind in ("circle", "arc"):
        (x, y), r = c.at["c"], c.r
        start, sweep = 0.0, math.tau
        if c.kind == "arc":
            start = math.atan2(c.at["p"][1] - y, c.at["p"][0] - x)
            sweep = (math.atan2(c.at["q"][1] - y, c.at["q"][0] - x) - start) % math.tau
        n = max(2, math.ceil(sweep / min(FINE, 2 * math.acos(max(0.0, 1 - NEAR / 4 / r)))))
        return [
            (x + r * math.cos(start + sweep * k / n), y + r * math.sin(start + sweep * k / n)) for k in range(n + 1)
        ]
    if c.kind in ("ellipse", "ellipse_arc"):
        return _along_ellipse(c)
    return list(c.points) or [*c.at.values()] * 2


def _along_ellipse(c: Flat) -> list[XY]:
    (x, y), m, n = c.at["c"], c.at["m"], c.at["n"]
    a, b = (m[0] - x, m[1] - y), (n[0] - x, n[1] - y)

    def turn(p: XY) -> float:
        d = (p[0] - x, p[1] - y)
        return math.atan2(
            (d[0] * b[0] + d[1] * b[1]) / (b[0] ** 2 + b[1] ** 2), (d[0] * a[0] + d[1] * a[1]) / (a[0] ** 2 + a[1] ** 2)
        )

    start, sweep = 0.0, math.tau
    if c.kind == "ellipse_arc":
        start = turn(c.at["p"])
        sweep = (turn(c.at["q"]) - start) % math.tau
    large = max(math.hypot(*a), math.hypot(*b))
    k = max(4, math.ceil(sweep / min(FINE, 2 * math.acos(max(0.0, 1 - NEAR / 4 / large)))))
    turns = [start + sweep * i / k for i in range(k + 1)]
    return [(x + a[0] * math.cos(t) + b[0] * math.sin(t), y + a[1] * math.cos(t) + b[1] * math.sin(t)) for t in turns]
