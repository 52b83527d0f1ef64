"""A page of a vector sheet as lines, arcs and texts, in points (1/72 inch) from its top left corner, y down.

Readers of each kind of file (``exchange/sheet_*.py``) make it; what is understood of it is worked out here, the same
for all of them.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from typing import Any, Literal

XY = tuple[float, float]
Box = tuple[float, float, float, float]  # left, top, right, bottom

WIDE = 0.6  # of a letter against its size: true of evenly spaced letters, near enough for others
TALL, DEEP = 0.74, 0.22  # of a letter above and below its baseline


@dataclass(frozen=True, slots=True)
class Stroke:
    """A line (its two ends), an arc or a whole circle (its ends, ``centre``, ``radius``, ``sweep``: clockwise as seen,
    rad), or another curve (points along it). ``width`` in points; ``dash`` the lengths of its pattern in points."""

    kind: Literal["line", "arc", "circle", "curve"]
    points: tuple[XY, ...]
    centre: XY | None = None
    radius: float = 0.0
    sweep: float = 0.0
    width: float = 0.0
    dash: tuple[float, ...] = ()
    layer: str = ""
    filled: bool = False

    def length(self) -> float:
        """In points."""
        if self.centre is not None:
            return abs(self.sweep) * self.radius
        return sum(math.dist(a, b) for a, b in zip(self.points, self.points[1:], strict=False))

    def box(self) -> Box:
        """The box around it; of an arc, around all the places it goes through."""
        xs, ys = [p[0] for p in self.points], [p[1] for p in self.points]
        if self.centre is not None:
            start = math.atan2(self.points[0][1] - self.centre[1], self.points[0][0] - self.centre[0])
            for k in range(4):
                turn = (
                    (k * math.pi / 2 - start) % math.tau if self.sweep > 0 else -((start - k * math.pi / 2) % math.tau)
                )
                if abs(turn) <= abs(self.sweep):
                    xs.append(self.centre[0] + self.radius * math.cos(k * math.pi / 2))
                    ys.append(self.centre[1] + self.radius * math.sin(k * math.pi / 2))
        return min(xs), min(ys), max(xs), max(ys)


@dataclass(frozen=True, slots=True)
class Lettering:
    """A run of letters on one line. ``at``: the middle of its baseline; ``size`` in points; ``turn`` in degrees,
    clockwise as seen; ``wide``: its length along the baseline in points."""

    text: str
    at: XY
    size: float
    turn: float = 0.0
    wide: float = 0.0
    layer: str = ""

    def along(self) -> XY:
        """The direction in which it is read."""
        return math.cos(math.radians(self.turn)), math.sin(math.radians(self.turn))

    def corners(self) -> list[XY]:
        (cx, cy), (x, y) = self.along(), self.at
        up, half = (cy, -cx), self.wide / 2
        return [
            (x + s * half * cx + h * up[0], y + s * half * cy + h * up[1])
            for s, h in ((-1, -DEEP * self.size), (1, -DEEP * self.size), (1, TALL * self.size), (-1, TALL * self.size))
        ]

    def middle(self) -> XY:
        """The middle of its letters."""
        up, (cx, cy) = (TALL - DEEP) * self.size / 2, self.along()
        return self.at[0] + up * cy, self.at[1] - up * cx

    def box(self) -> Box:
        xs, ys = zip(*self.corners(), strict=True)
        return min(xs), min(ys), max(xs), max(ys)


@dataclass(frozen=True, slots=True)
class Given:
    """A dimension that the file holds as one (DXF): its text, where that stands, the two places it measures, and the
    direction in which (degrees clockwise as seen)."""

    text: str
    at: XY
    ends: tuple[XY, ...]
    turn: float = 0.0


@dataclass
class Page:
    """``size``: width and height in points."""

    size: XY
    strokes: list[Stroke] = field(default_factory=list)
    letterings: list[Lettering] = field(default_factory=list)
    given: list[Given] = field(default_factory=list)


def wide(text: str, size: float) -> float:
    """About how long a text is in points, where the file does not say."""
    return WIDE * size * len(text)


def merged(boxes: list[Box]) -> Box:
    """The box around boxes."""
    left, top, right, bottom = zip(*boxes, strict=True)
    return min(left), min(top), max(right), max(bottom)


def as_json(page: Page) -> dict[str, Any]:
    """Plain data, to be kept and read back by ``from_json``."""
    return {
        "size": page.size,
        "strokes": [
            [s.kind, [c for p in s.points for c in p], s.centre, s.radius, s.sweep, s.width, s.dash, s.layer, s.filled]
            for s in page.strokes
        ],
        "letterings": [[t.text, t.at, t.size, t.turn, t.wide, t.layer] for t in page.letterings],
        "given": [[g.text, g.at, g.ends, g.turn] for g in page.given],
    }


def from_json(data: dict[str, Any]) -> Page:
    def at(p: Any) -> XY:
        return float(p[0]), float(p[1])

    strokes = [
        Stroke(
            kind,
            tuple(zip(points[::2], points[1::2], strict=True)),
            at(centre) if centre else None,
            radius,
            sweep,
            width,
            tuple(dash),
            layer,
            filled,
        )
        for kind, points, centre, radius, sweep, width, dash, layer, filled in data["strokes"]
    ]
    letterings = [
        Lettering(text, at(p), size, turn, long, layer) for text, p, size, turn, long, layer in data["letterings"]
    ]
    given = [Given(text, at(p), tuple(at(e) for e in ends), turn) for text, p, ends, turn in data["given"]]
    return Page(at(data["size"]), strokes, letterings, given)
