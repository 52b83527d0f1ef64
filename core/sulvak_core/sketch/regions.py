"""Closed loops as regions: which lies in which, a place inside each, whether a place is covered."""

from __future__ import annotations

import itertools
import math
from collections import defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from functools import cached_property, lru_cache

import numpy as np

from .curves import Piece
from .model import Model

XY = tuple[float, float]
TOGETHER = 256  # places looked at together: of some thousand boxes a megabyte
TRIED = 100  # pieces of an outline, its longest, beside which a place inside is looked for first
BLOCK = 32  # places looked at together against everything that runs around a region


@dataclass
class Region:
    """A closed region: its outer loop (counter-clockwise), its holes (clockwise), area in mm², nesting depth."""

    outer: list[Piece]
    holes: list[list[Piece]] = field(default_factory=list)
    area: float = 0.0
    depth: int = 0

    @property
    def around(self) -> list[str]:
        """Ids of the entities of the outer loop, sorted: what names the region."""
        return sorted({p.entity for p in self.outer})

    def inside(self) -> XY:
        """A point well inside the region."""
        return self._inner

    @cached_property
    def _inner(self) -> XY:
        return _inside_point(tuple(self.outer), tuple(map(tuple, self.holes)))


class RegionPick(Model):
    """A region as a designer chose it: what runs around it, and a point inside for telling twins apart."""

    around: list[str]
    at: tuple[float, float]


class Boxes:
    """The boxes around loops, to ask which of many loops may hold a place without trying each."""

    def __init__(self, loops: list[list[Piece]]) -> None:
        self._sides = np.array([_box(loop) for loop in loops]).reshape(-1, 4)

    def around(self, at: XY) -> list[int]:
        """Places in the list, rising, of the loops whose box holds ``at`` (mm)."""
        return next(self.around_each([at]))

    def around_each(self, places: list[XY]) -> Iterator[list[int]]:
        """The same for many places, looked at ``TOGETHER`` at a time."""
        x0, y0, x1, y1 = self._sides.T
        for first in range(0, len(places), TOGETHER):
            x, y = np.array(places[first : first + TOGETHER]).T[:, :, None]
            held = (x0 <= x) & (x <= x1) & (y0 <= y) & (y <= y1)
            rows, which = np.nonzero(held)
            ends = np.searchsorted(rows, np.arange(len(held) + 1))
            for a, b in itertools.pairwise(ends.tolist()):
                yield which[a:b].tolist()


def _box(loop: list[Piece]) -> tuple[float, float, float, float]:
    """Sides of a box that a loop does not leave; it may be larger than need be."""
    points: list[XY] = []
    for p in loop:
        points += [p.start, p.end, *(q for span in p.spans for q in span)]
        if p.axes or p.radius:
            (ax, ay), (bx, by) = p.axes or ((p.radius, 0.0), (0.0, p.radius))
            (cx, cy), w, h = p.centre, abs(ax) + abs(bx), abs(ay) + abs(by)
            points += [(cx - w, cy - h), (cx + w, cy + h)]
    xs, ys = [x for x, _ in points], [y for _, y in points]
    room = 1e-9 * (1.0 + max(map(abs, (*xs, *ys))))
    return min(xs) - room, min(ys) - room, max(xs) + room, max(ys) + room


def covering(regions: list[Region], boxes: Boxes, at: XY) -> bool:
    """Whether any of some regions, whose outer loops ``boxes`` are around, covers a place."""
    return any(covers(regions[i], at) for i in boxes.around(at))


def covers(region: Region, at: XY) -> bool:
    """Whether a place lies in a region and in none of its holes."""
    holes = ([p.reversed() for p in reversed(h)] for h in region.holes)
    return _contains(region.outer, at) and not any(_contains(h, at) for h in holes)


def nest(loops: list[list[Piece]]) -> list[Region]:
    """The regions that loops bound, the largest first, each with its holes and how deep it lies in others.

    Counter-clockwise loops are outlines; a clockwise one is the far side of a connected piece of drawing.
    """
    areas = [sum(p.area() for p in loop) for loop in loops]
    regions = [Region(loop, [], area) for loop, area in zip(loops, areas, strict=True) if area > 1e-14]
    regions.sort(key=lambda r: (r.area, r.around))
    outlines = [_pieces_of(r.outer) for r in regions]
    boxes = Boxes([r.outer for r in regions])
    holes: list[tuple[int, list[Piece]]] = []  # the region a hole is in, and the hole as an outline
    shared: dict[tuple[object, ...], set[int]] = defaultdict(set)  # regions in one of whose holes a piece runs
    turned = [(loop, area) for loop, area in zip(loops, areas, strict=True) if area < -1e-14]
    middles = [loop[0].middle() for loop, _ in turned]
    for (loop, area), at, near in zip(turned, middles, boxes.around_each(middles), strict=True):
        # a hole of the smallest region around it
        edges = _pieces_of(loop)
        for i in near:
            region = regions[i]
            if region.area <= -area + 1e-14 or not edges.isdisjoint(outlines[i]):
                continue
            if _contains(region.outer, at):
                region.holes.append(loop)
                holes.append((i, [p.reversed() for p in reversed(loop)]))
                for edge in edges:
                    shared[edge].add(i)
                break
    insides = Boxes([loop for _, loop in holes])
    middles = [region.outer[0].middle() for region in regions]
    for i, (region, at, near) in enumerate(zip(regions, middles, insides.around_each(middles), strict=True)):
        around: set[int] = set().union(*(shared[e] for e in outlines[i] if e in shared))
        for k in near:
            owner, loop = holes[k]
            if owner not in around and owner != i and _contains(loop, at):
                around.add(owner)
        region.depth = len(around - {i})
    for region in regions:
        region.area += sum(sum(p.area() for p in hole) for hole in region.holes)
    regions.sort(key=lambda r: (-r.area, r.around))
    return regions


def _pieces_of(loop: list[Piece]) -> set[tuple[object, ...]]:
    """The pieces of a loop, whichever way they are walked."""
    return {(p.entity, *sorted((p.start, p.end))) for p in loop}


def _contains(loop: list[Piece], at: XY) -> bool:
    """Whether ``at`` lies inside a counter-clockwise loop, by the winding angle of its pieces."""
    x, y = at
    first = loop[0]
    if len(loop) == 1 and first.radius and not first.axes:  # a whole circle
        return math.hypot(x - first.centre[0], y - first.centre[1]) < first.radius
    total = 0.0
    for p in loop:
        inside = bool(p.radius) and math.hypot(x - p.centre[0], y - p.centre[1]) < p.radius
        for a, b in itertools.pairwise(_chords(p)):
            turned = _turned(a, b, at)
            # between chord and arc the chord's winding is wrong: put it right
            if inside and turned * p.sweep < 0:
                turned += math.copysign(2 * math.pi, p.sweep)
            total += turned
    return total > math.pi


def _chords(p: Piece) -> list[XY]:
    """Places along a piece; what turns about a place is told by the chords between them, and of an arc by which side
    of it the place lies on."""
    if not p.radius or p.axes:
        return p.walk()
    steps = max(2, math.ceil(abs(p.sweep) / (math.pi / 8)))
    a0 = math.atan2(p.start[1] - p.centre[1], p.start[0] - p.centre[0])
    turns = (a0 + p.sweep * s / steps for s in range(1, steps + 1))
    return [p.start, *((p.centre[0] + p.radius * math.cos(a), p.centre[1] + p.radius * math.sin(a)) for a in turns)]


def _turned(a: XY, b: XY, about: XY) -> float:
    """The angle by which one turns about a place looking from a to b."""
    u, v = (a[0] - about[0], a[1] - about[1]), (b[0] - about[0], b[1] - about[1])
    return math.atan2(u[0] * v[1] - u[1] * v[0], u[0] * v[0] + u[1] * v[1])


@lru_cache(4096)  # most regions of a sketch are what they were before a change of it
def _inside_point(outer: tuple[Piece, ...], holes: tuple[tuple[Piece, ...], ...]) -> XY:
    size = math.sqrt(max(sum(p.area() for p in outer), 1e-12))
    longest = sorted(outer, key=lambda p: -math.dist(p.start, p.end) - abs(p.sweep) * p.radius)
    bounds = _Bounds([outer, *holes])
    for some in (longest[:TRIED], longest[TRIED:]):
        tried: list[XY] = []
        for p in some:
            x, y = p.middle()
            (ax, ay), (bx, by) = p.at(0.499), p.at(0.501)
            angle = math.atan2(by - ay, bx - ax)
            for depth in (0.3, 0.1, 0.02, 0.001):
                tried.append((x - math.sin(angle) * depth * size, y + math.cos(angle) * depth * size))
        rooms = [room for k in range(0, len(tried), BLOCK) for room in bounds.rooms(tried[k : k + BLOCK])]
        best = max(zip(rooms, tried, strict=True), default=(-1.0, (0.0, 0.0)))
        if best[0] >= 0.0:
            return best[1]
    return outer[0].middle()


class _Bounds:
    """What runs around a region, to look at many places at once: its outline (counter-clockwise), then its holes
    (clockwise)."""

    def __init__(self, loops: Sequence[Sequence[Piece]]) -> None:
        pieces = [(n, p, _chords(p)) for n, loop in enumerate(loops) for p in loop]
        chords = [(n, p, a, b) for n, p, places in pieces for a, b in itertools.pairwise(places)]
        of_loop = np.array([n for n, *_ in chords])
        self._first = np.searchsorted(of_loop, np.arange(len(loops)))  # chord of each loop
        self._a, self._b = (np.array([c[k] for c in chords]) for k in (2, 3))
        self._straight = np.array([not p.radius or bool(p.axes) for _, p, _, _ in chords])
        self._centre = np.array([p.centre for _, p, _, _ in chords])
        self._radius = np.array([p.radius for _, p, _, _ in chords])
        self._way = np.sign([p.sweep for _, p, _, _ in chords])

    def rooms(self, places: list[XY]) -> list[float]:
        """How far each place is from what runs around, in mm; −1 where it is not inside."""
        at = np.array(places)[:, None]
        u, v = self._a - at, self._b - at
        from_centre = np.hypot(*np.moveaxis(at - self._centre, 2, 0))
        turned = np.arctan2(u[..., 0] * v[..., 1] - u[..., 1] * v[..., 0], (u * v).sum(axis=2))
        # between chord and arc the chord's winding is wrong: put it right
        wrong = ~self._straight & (from_centre < self._radius) & (turned * self._way < 0)
        winding = np.add.reduceat(turned + wrong * self._way * 2 * math.pi, self._first, axis=1)
        inside = (winding[:, 0] > math.pi) & (winding[:, 1:] >= -math.pi).all(axis=1)
        along = self._b - self._a
        t = -(u * along).sum(axis=2) / np.maximum((along * along).sum(axis=1), 1e-300)
        off = u + np.clip(t, 0.0, 1.0)[..., None] * along
        room = np.where(self._straight, np.hypot(off[..., 0], off[..., 1]), np.abs(from_centre - self._radius))
        found: list[float] = np.where(inside, room.min(axis=1), -1.0).tolist()
        return found
