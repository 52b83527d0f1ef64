"""A size in a view: what is to be drawn of it, the places where it may stand, and how it stands at last. In mm of the
paper, from where the part's origin lies in the view."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Literal

import numpy as np
import shapely
from numpy.typing import NDArray

from ..solid.project import Flat
from .paper import LETTER, RING, WIDE, XY, Box, Dimension, Ink, Stroke, Word, merged

ROOM = 0.45  # mm that is kept free round letters
ABOVE = 1.2  # of the letters over their line

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]


@dataclass
class Placed:
    """A size as it is drawn. ``hits``: how often its letters lie on something, or it on other letters. ``side`` and
    ``at`` as they would be kept if it stayed there by hand; ``along``: the way of its dimension line (a unit vector),
    none for a leader; ``span``: where the outline lies across it."""

    key: str
    ink: Ink
    boxes: list[shapely.Polygon]
    lines: list[shapely.LineString]
    hits: int = 0
    side: int = 1
    at: XY = (0.0, 0.0)
    along: XY | None = None
    span: XY = (0.0, 0.0)
    dimension: Dimension | None = None
    middle: XY = (0.0, 0.0)
    bars: list[shapely.Polygon] = field(default_factory=list)

    def extent(self) -> Box:
        return merged([tuple(g.bounds) for g in (*self.boxes, *self.lines)])  # type: ignore[misc]


@dataclass
class LinearSize:
    """Along ``way`` (a unit vector) between features, each by its places."""

    key: str
    text: str
    way: XY
    a: list[XY]
    b: list[XY]
    number: int | None = None


@dataclass
class LeaderSize:
    """Points at one of ``tips``, each with the way out of it; ``centre``: of what it belongs to; ``measures`` radius or
    diameter of one of ``rings`` (centre, radius), for files that hold dimensions."""

    key: str
    text: str
    tips: list[tuple[XY, XY]]
    centre: XY
    number: int | None = None
    measures: Literal["", "radius", "diameter"] = ""
    rings: list[tuple[XY, float]] = field(default_factory=list)


@dataclass
class AngleSize:
    """Between two directions (rad) from ``apex``, the first to the second counter-clockwise."""

    key: str
    text: str
    apex: XY
    one: float
    two: float
    spans: tuple[XY, XY]
    number: int | None = None


Wanted = LinearSize | LeaderSize | AngleSize


@dataclass
class Trials:
    """Places where one size may stand, numbered; what each would be drawn with, all at once: ``boxes`` round letters
    and ``bars`` round dimension lines as corners (m × 4 × 2), ``lines`` as ends (m × 2 × 2), each with the number of
    its trial; ``cost`` before anything else is looked at; ``draw`` makes one of them."""

    cost: Floats
    boxes: tuple[Floats, Ints]
    lines: tuple[Floats, Ints]
    bars: tuple[Floats, Ints]
    draw: Callable[[int], Placed]


def box_of(word: Word, room: float = ROOM) -> shapely.Polygon:
    return shapely.Polygon(word.corners(room))


def ring(at: XY, number: int | None, size: float = LETTER) -> tuple[Ink, list[shapely.Polygon]]:
    """A balloon."""
    ink = Ink()
    if number is None:
        return ink, []
    ink.strokes.append(stroke(Flat("circle", {"c": at}, RING)))
    word = Word(str(number), (at[0], at[1] - 0.26 * size * 0.85), size * 0.85)
    ink.words.append(word)
    return ink, [shapely.Point(at).buffer(RING + ROOM)]


def stroke(c: Flat) -> Stroke:
    return Stroke("SIZES", c)


def along(p: XY, way: XY) -> float:
    return p[0] * way[0] + p[1] * way[1]


def text_width(s: Wanted) -> float:
    return WIDE * LETTER * len(s.text) + (2 * RING + 2 if s.number is not None else 0.0)


def corner_boxes(left: Floats, right: Floats, low: Floats, high: Floats) -> Floats:
    """Corners of boxes, n × 4 × 2."""
    return np.stack([np.stack(p, 1) for p in ((left, low), (right, low), (right, high), (left, high))], 1)
