"""The part's lines as a view of a sheet may show them: from one of the six sides, whole or cut by a plane square to the
look. What lies before the plane is taken away."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass, field

import numpy as np

from ..part.document import Side
from ..solid.boolean import combine
from ..solid.extent import box
from ..solid.extent_to_face import block, half_space
from ..solid.frame import cross, scaled
from ..solid.outline import Line, Lines, lines
from ..solid.shapes import KernelError, Shape, ShapeMap, Solid
from .walks import Walks

XYZ = tuple[float, float, float]

# towards the viewer, to the right on the sheet; in the order in which they are tried
SIDES: dict[Side, tuple[XYZ, XYZ]] = {
    "front": ((0.0, -1.0, 0.0), (1.0, 0.0, 0.0)),
    "top": ((0.0, 0.0, 1.0), (1.0, 0.0, 0.0)),
    "right": ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0)),
    "left": ((-1.0, 0.0, 0.0), (0.0, -1.0, 0.0)),
    "under": ((0.0, 0.0, -1.0), (1.0, 0.0, 0.0)),
    "back": ((0.0, 1.0, 0.0), (-1.0, 0.0, 0.0)),
}
THIN = 0.02  # mm of the part that is left of what a plane cuts, where nothing behind it is shown
DEEP = 0.01  # mm that a run may lie off its curve


@dataclass(frozen=True)
class CutStep:
    """One of several parallel planes that cut a part: from where to where along a direction square to the look (mm from
    the origin, either may be infinite), and how far towards the viewer it lies there."""

    along: XYZ
    begin: float
    end: float
    cut: float


@dataclass(frozen=True)
class Seen:
    """From which side; ``cut``: how far along the look, towards the viewer, a plane lies that cuts the part (mm from
    the origin), None where it is whole. ``steps``: the planes of a cut in steps, one behind the other."""

    side: Side
    cut: float | None = None
    steps: tuple[CutStep, ...] = ()

    def coordinate(self) -> float | None:
        """Of the plane along the part's own axis."""
        return None if self.cut is None else self.cut * sum(SIDES[self.side][0]) + 0.0

    def planes(self) -> list[float]:
        """The same of each plane of a cut in steps."""
        return [s.cut * sum(SIDES[self.side][0]) + 0.0 for s in self.steps]


def axis(side: Side) -> int:
    """Which of the part's axes one looks along."""
    return next(i for i, v in enumerate(SIDES[side][0]) if v)


def around(runs: Iterable[Line]) -> tuple[float, float, float, float]:
    """Left, low, right and high of runs of places; all nought where there are none."""
    at = np.array([p for line in runs for p in line])
    if not len(at):
        return 0.0, 0.0, 0.0, 0.0
    (left, low), (right, high) = at.min(axis=0), at.max(axis=0)
    return float(left), float(low), float(right), float(high)


@dataclass
class Model:
    """The part's lines as it is seen, each worked out once."""

    shapes: list[Shape]
    known: dict[Seen, Lines] = field(default_factory=dict)
    walks: Walks = field(default_factory=Walks)
    _box: tuple[XYZ, XYZ] | None = None
    _boxes: dict[Seen, tuple[float, float, float, float]] = field(default_factory=dict)
    _asked: dict[Seen, Lines] = field(default_factory=dict)
    _pictorial: dict[XYZ, Lines] = field(default_factory=dict)

    def lines(self, seen: Seen) -> Lines:
        """No lines where the plane leaves nothing, or the kernel cannot cut the part there."""
        if seen not in self.known:
            shapes = list(self.shapes) if seen.cut is None else self.behind(seen)
            self.known[seen] = lines(shapes, *SIDES[seen.side], deep=DEEP)
        return self.known[seen]

    def pictorial(self, towards: XYZ) -> Lines:
        """Seen along any direction, z up."""
        if towards not in self._pictorial:
            right = cross((0.0, 0.0, 1.0), towards)
            self._pictorial[towards] = lines(self.shapes, towards, right, deep=DEEP)
        return self._pictorial[towards]

    def box(self, seen: Seen) -> tuple[float, float, float, float]:
        """Left, low, right and high of what is seen, mm; all nought where nothing is."""
        if seen not in self._boxes:
            self._boxes[seen] = self._around(seen)
        return self._boxes[seen]

    def _around(self, seen: Seen) -> tuple[float, float, float, float]:
        if seen.cut is not None or not self.shapes:
            drawn = self.lines(seen)
            return around((*drawn.seen, *drawn.smooth, *drawn.hidden))
        towards, right = SIDES[seen.side]  # of the whole part without working out what is hidden
        ends = np.array(self.extent()) @ np.array([right, cross(towards, right)]).T
        (left, low), (right_, high) = ends.min(axis=0), ends.max(axis=0)
        return float(left), float(low), float(right_), float(high)

    def extent(self) -> tuple[XYZ, XYZ]:
        """Opposite corners of the box around the part, mm."""
        if self._box is None:
            corners = np.array([box(s) for s in self.shapes])
            low, high = corners[:, 0].min(axis=0), corners[:, 1].max(axis=0)
            self._box = (tuple(low.tolist()), tuple(high.tolist()))
        return self._box

    def _before(self, towards: XYZ, step: CutStep) -> Solid:
        """A block that holds what lies before one plane of a cut in steps."""
        low, high = (np.array(corner) for corner in self.extent())
        room = 1.0 + float((high - low).max())
        low, high = low - room, high + room
        for way, begin, end in ((towards, step.cut, math.inf), (step.along, step.begin, step.end)):
            k, sign = next((i, v) for i, v in enumerate(way) if v)
            ends = sorted((sign * begin, sign * end))
            low[k], high[k] = max(low[k], ends[0]), min(high[k], ends[1])
        return block(tuple(low.tolist()), tuple(high.tolist()))

    def asked(self, seen: Seen) -> Lines:
        """What a view is to show: all but the lines where a cut goes from one plane to the next (ISO 128-3)."""
        if len(seen.steps) < 2:
            return self.lines(seen)
        if seen not in self._asked:
            self._asked[seen] = self._without_jogs(seen)
        return self._asked[seen]

    def _without_jogs(self, seen: Seen) -> Lines:
        drawn = self.lines(seen)
        right = np.array(SIDES[seen.side][1])
        up = np.cross(SIDES[seen.side][0], right)
        jogs = [(abs(float(right @ s.along)) > 0.5, float((right + up) @ s.along) * s.end) for s in seen.steps[:-1]]

        def jog(run: Line) -> bool:
            return any(all(abs(p[0 if level else 1] - at) < 1e-3 for p in run) for level, at in jogs)

        return Lines([r for r in drawn.seen if not jog(r)], drawn.smooth, drawn.hidden)

    def cut_square_to(self, towards: XYZ, right: XYZ, at: float, thin: bool) -> Lines:
        """Seen along any direction, cut ``at`` (mm from the origin, towards the viewer) by a plane square to it;
        ``thin``: no more than what is cut is shown. No lines where the kernel cannot cut the part there."""
        found: list[Shape] = []
        for shape in self.shapes:
            whole = Solid(shape, ShapeMap())
            away = [half_space(scaled(towards, at), towards, whole)]
            if thin:
                away.append(half_space(scaled(towards, at - THIN), scaled(towards, -1.0), whole))
            try:
                found += [s.shape for s in combine("subtract", [whole], away, "section")]
            except KernelError:
                return Lines([], [], [])
        return lines(found, towards, right, deep=DEEP)

    def behind(self, seen: Seen) -> list[Shape]:
        towards = SIDES[seen.side][0]
        assert seen.cut is not None
        found: list[Shape] = []
        for shape in self.shapes:
            whole = Solid(shape, ShapeMap())
            before = [half_space(scaled(towards, seen.cut), towards, whole)]
            if seen.steps:
                before = [self._before(towards, step) for step in seen.steps]
            try:
                found += [s.shape for s in combine("subtract", [whole], before, "section")]
            except KernelError:
                return []
        return found
