"""Paper, line widths and lettering of drawings, and what is put on them. All in mm of the paper from its lower left
corner, y up.

Sizes of paper after ISO 5457 and ASME Y14.1; lines after ISO 128-2, group 0.5; lettering 2.5 mm high after ISO 3098.
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import Literal

from ..solid.project import Flat

XY = tuple[float, float]
Box = tuple[float, float, float, float]  # left, low, right, high
Layer = Literal["OUTLINE", "CUT", "HIDDEN", "CENTRE", "SIZES", "LINING", "TRACE", "FRAME", "TABLE"]

# width (mm) and dashes (mm) of each layer
LINES: dict[Layer, tuple[float, tuple[float, ...]]] = {
    "OUTLINE": (0.5, ()),
    "CUT": (0.5, ()),
    "HIDDEN": (0.25, (3.0, 1.5)),
    "CENTRE": (0.25, (8.0, 1.2, 1.2, 1.2)),
    "SIZES": (0.25, ()),
    "LINING": (0.18, ()),
    "TRACE": (0.25, (8.0, 1.2, 1.2, 1.2)),
    "FRAME": (0.7, ()),
    "TABLE": (0.25, ()),
}
# long side, short side (mm)
PAPERS: dict[str, tuple[float, float]] = {
    "A4": (297.0, 210.0),
    "A3": (420.0, 297.0),
    "A2": (594.0, 420.0),
    "A1": (841.0, 594.0),
    "A0": (1189.0, 841.0),
    "A": (279.4, 215.9),
    "B": (431.8, 279.4),
    "C": (558.8, 431.8),
    "D": (863.6, 558.8),
}
SERIES: dict[str, tuple[str, ...]] = {"mm": ("A4", "A3", "A2", "A1", "A0"), "in": ("A", "B", "C", "D")}
EDGE = 10.0  # of the paper round the frame
LETTER = 3.5  # size of the letters of sizes; their capitals are 2.5 mm high
WIDE = 0.6  # of its size that every letter of the face used is wide
RISE, FALL = 0.74, 0.22  # of its size above and below the baseline
ARROW = 3.0  # long; a sixth of that to each side
SLIM = 0.16  # rad: half the angle of an arrowhead
RING = 3.2  # radius of a balloon


@dataclass(frozen=True)
class Word:
    """A run of letters: ``at`` the middle of its baseline (``anchor`` start: where it begins), ``turn`` in degrees
    counter-clockwise."""

    text: str
    at: XY
    size: float = LETTER
    turn: float = 0.0
    anchor: Literal["middle", "start"] = "middle"

    def width(self) -> float:
        return WIDE * self.size * len(self.text)

    def corners(self, room: float = 0.0) -> list[XY]:
        """Of the box round its letters, with ``room`` mm all round."""
        c, s = math.cos(math.radians(self.turn)), math.sin(math.radians(self.turn))
        start = 0.0 if self.anchor == "start" else -self.width() / 2
        left, right = start - room, start + self.width() + room
        low, high = -FALL * self.size - room, RISE * self.size + room
        x, y = self.at
        return [
            (x + c * u - s * v, y + s * u + c * v) for u, v in ((left, low), (right, low), (right, high), (left, high))
        ]


@dataclass(frozen=True)
class Arrow:
    """A filled arrowhead: where it points, and the way (rad)."""

    tip: XY
    way: float

    def corners(self) -> list[XY]:
        x, y = self.tip
        return [
            self.tip,
            *((x - ARROW * math.cos(self.way + s), y - ARROW * math.sin(self.way + s)) for s in (SLIM, -SLIM)),
        ]


@dataclass(frozen=True)
class Stroke:
    """A curve in a layer."""

    layer: Layer
    curve: Flat


@dataclass(frozen=True)
class Dimension:
    """What a size drawn as a dimension measures, for files that hold dimensions as such. ``kind`` linear: between the
    places ``a`` and ``b`` along ``turn`` (degrees), its line through ``line``; radius and diameter: ``a`` the centre,
    ``b`` on the circle; angle: ``a`` the apex, ``b`` and ``c`` on its two sides, its arc through ``line``. ``text`` at
    ``middle``."""

    kind: Literal["linear", "radius", "diameter", "angle"]
    text: str
    a: XY
    b: XY
    line: XY
    middle: XY
    turn: float = 0.0
    c: XY = (0.0, 0.0)

    def moved(self, by: XY) -> Dimension:
        a, b, c, line, middle = (_plus(p, by) for p in (self.a, self.b, self.c, self.line, self.middle))
        return Dimension(self.kind, self.text, a, b, line, middle, self.turn, c)


@dataclass
class Ink:
    """What is drawn: curves, letters, arrowheads."""

    strokes: list[Stroke] = field(default_factory=list)
    words: list[Word] = field(default_factory=list)
    arrows: list[Arrow] = field(default_factory=list)

    def line(self, layer: Layer, a: XY, b: XY) -> None:
        if math.dist(a, b) > 1e-6:
            self.strokes.append(Stroke(layer, Flat("line", {"p": a, "q": b})))

    def rect(self, layer: Layer, box: Box) -> None:
        left, low, right, high = box
        at = [(left, low), (right, low), (right, high), (left, high)]
        for i in range(4):
            self.line(layer, at[i], at[(i + 1) % 4])

    def add(self, other: Ink) -> None:
        self.strokes += other.strokes
        self.words += other.words
        self.arrows += other.arrows

    def moved(self, by: XY) -> Ink:
        return Ink(
            [Stroke(s.layer, moved(s.curve, by)) for s in self.strokes],
            [Word(w.text, _plus(w.at, by), w.size, w.turn, w.anchor) for w in self.words],
            [Arrow(_plus(a.tip, by), a.way) for a in self.arrows],
        )


def _plus(p: XY, by: XY) -> XY:
    return p[0] + by[0], p[1] + by[1]


def moved(c: Flat, by: XY) -> Flat:
    """A curve moved."""
    return Flat(c.kind, {n: _plus(p, by) for n, p in c.at.items()}, c.r, tuple(_plus(p, by) for p in c.points))


def scaled_curve(c: Flat, k: float) -> Flat:
    """A curve ``k`` times as large about the origin."""
    return Flat(
        c.kind, {n: (x * k, y * k) for n, (x, y) in c.at.items()}, c.r * k, tuple((x * k, y * k) for x, y in c.points)
    )


def merged(boxes: Iterable[Box]) -> Box:
    """The box around boxes."""
    left, low, right, high = zip(*boxes, strict=True)
    return min(left), min(low), max(right), max(high)


def overlap(a: Box, b: Box, room: float = 0.0) -> bool:
    """Whether boxes come nearer to each other than ``room``."""
    return a[0] < b[2] + room and b[0] < a[2] + room and a[1] < b[3] + room and b[1] < a[3] + room


def ratio(text: str) -> float:
    """How many times as large as the part something is drawn at a scale such as ``1:2``."""
    over, under = (float(v) for v in text.split(":"))
    return over / under


SCALES = tuple(
    f"{a}:{b}"
    for a, b in ((20, 1), (10, 1), (5, 1), (2, 1), (1, 1), (1, 2), (1, 5), (1, 10), (1, 20), (1, 50), (1, 100))
)  # ISO 5455
