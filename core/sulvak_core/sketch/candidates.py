"""Ideas for finishing a sketch, in the order a drafter thinks of them. They are not checked here."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import cached_property
from itertools import combinations

from .directions import bearings
from .model import ORIGIN, X_AXIS, XY, Y_AXIS, AnyEntity, Arc, Circle, Line, Point, Sketch, points_of
from .system import Builder

LEVEL = math.radians(1.5)  # unless something else is said


@dataclass(frozen=True)
class Idea:
    """A constraint or size that could be given; ``reach`` in mm says how far an angle's turn is felt."""

    kind: str
    refs: tuple[str, ...]
    along: str = "shortest"
    reach: float = 0.0


class Scene:
    """A sketch as the ideas see it. ``near`` in mm; ``level`` in radians: a line nearer than this to a direction is
    meant to have it."""

    def __init__(self, sketch: Sketch, near: float, level: float = LEVEL) -> None:
        self.sketch, self.near, self.level = sketch, near, level
        self.entities: list[AnyEntity] = list(sketch.entities)
        self.lines = [e for e in self.entities if isinstance(e, Line)]
        self.rounds: list[Circle | Arc] = [e for e in self.entities if isinstance(e, Circle | Arc)]
        self.at: dict[str, XY] = {ref: at for e in self.entities for ref, at in points_of(e).items()}

    @cached_property
    def builder(self) -> Builder:
        return Builder(self.sketch, {})

    @cached_property
    def bearing(self) -> dict[str, tuple[str, int]]:
        return bearings(self.sketch)

    def together(self, a: str, b: str) -> bool:
        """Whether two points are tied to one place already."""
        same = self.builder.same_place
        return same[a] == same[b]

    def ends(self) -> list[str]:
        """Points that can be joined: line and arc ends, and points."""
        return [r for r in self.at if r.endswith((".p", ".q")) or "." not in r]

    def told(self, line: str) -> int | None:
        """0 for a line told to be level, 1 for upright, else None."""
        lead, turn = self.bearing[line]
        return turn if lead == X_AXIS else None


def _direction(e: Line) -> float:
    return math.atan2(e.q[1] - e.p[1], e.q[0] - e.p[0])


def _apart(a: float, b: float) -> float:
    """Angle between two undirected directions, 0 … π/2."""
    d = abs(a - b) % math.pi
    return min(d, math.pi - d)


def _length(e: Line) -> float:
    return math.dist(e.p, e.q)


def joins(s: Scene) -> Iterator[Idea]:
    """Ends that lie on one another, the nearest first; ends at the origin."""
    pairs = [(math.dist(s.at[a], s.at[b]), a, b) for a, b in combinations(s.ends(), 2)]
    pairs += [(math.hypot(*s.at[a]), a, ORIGIN) for a in s.ends()]
    for d, a, b in sorted(pairs):
        if d <= s.near and not s.together(a, b) and a.split(".")[0] != b.split(".")[0]:
            yield Idea("coincident", (a, b))


def centres(s: Scene) -> Iterator[Idea]:
    """Circles and arcs about one centre, and about the origin."""
    for e in s.rounds:
        if math.hypot(*e.c) <= s.near:
            yield Idea("coincident", (f"{e.id}.c", ORIGIN))
    for a, b in combinations(s.rounds, 2):
        if math.dist(a.c, b.c) <= s.near:
            yield Idea("concentric", (a.id, b.id))
    for point in s.entities:
        for r in s.rounds:
            if isinstance(point, Point) and math.dist(point.at, r.c) <= s.near:
                yield Idea("coincident", (point.id, f"{r.id}.c"))


def levels(s: Scene) -> Iterator[Idea]:
    """Lines that are level or upright, the longest first."""
    for e in sorted(s.lines, key=lambda e: -_length(e)):
        if s.told(e.id) is None:
            if _apart(_direction(e), 0.0) < s.level:
                yield Idea("horizontal", (e.id,))
            elif _apart(_direction(e), math.pi / 2) < s.level:
                yield Idea("vertical", (e.id,))


def tangents(s: Scene) -> Iterator[Idea]:
    """Arcs that go on smoothly from lines and arcs they are joined to; circles that touch lines or each other."""
    tangent_at = {}
    for e in s.entities:
        for end in ("p", "q"):
            if isinstance(e, Line):
                tangent_at[f"{e.id}.{end}"] = _direction(e)
            elif isinstance(e, Arc):
                at = s.at[f"{e.id}.{end}"]
                tangent_at[f"{e.id}.{end}"] = math.atan2(at[0] - e.c[0], e.c[1] - at[1])
    for a, b in combinations(tangent_at, 2):
        one, two = a.split(".")[0], b.split(".")[0]
        if one == two or not s.together(a, b) or (one[0] == "l" and two[0] == "l"):
            continue
        if _apart(tangent_at[a], tangent_at[b]) < 2 * s.level:
            yield Idea("tangent", (one, two) if one[0] == "l" else (two, one))
    for line in s.lines:
        for e in s.rounds:
            if (
                isinstance(e, Circle)
                and abs(abs(s.builder.side(s.builder.point[f"{e.id}.c"], line.id)) * s.builder.size - e.r) <= s.near
            ):
                d = _direction(line)
                foot = (e.c[0] - line.p[0]) * math.cos(d) + (e.c[1] - line.p[1]) * math.sin(d)
                if -s.near <= foot <= _length(line) + s.near:
                    yield Idea("tangent", (line.id, e.id))
    for c1, c2 in combinations([e for e in s.rounds if isinstance(e, Circle)], 2):
        between = math.dist(c1.c, c2.c)
        if between > s.near and min(abs(between - c1.r - c2.r), abs(between - abs(c1.r - c2.r))) <= s.near:
            yield Idea("tangent", (c1.id, c2.id))


def directions(s: Scene) -> Iterator[Idea]:
    """Lines parallel or square to each other that are neither level nor upright."""
    slanted = [e for e in s.lines if s.told(e.id) is None]
    for a, b in combinations(slanted, 2):
        if s.bearing[a.id][0] == s.bearing[b.id][0]:
            continue
        if _apart(_direction(a), _direction(b)) < s.level:
            yield Idea("parallel", (a.id, b.id))
        elif _apart(_direction(a), _direction(b) + math.pi / 2) < s.level:
            yield Idea("perpendicular", (a.id, b.id))


def equals(s: Scene) -> Iterator[Idea]:
    """Circles of one size, arcs of one size."""
    for kind in (Circle, Arc):
        for a, b in combinations([e for e in s.rounds if isinstance(e, kind)], 2):
            if abs(a.r - b.r) <= s.near:
                yield Idea("equal", (a.id, b.id))


def on_curves(s: Scene) -> Iterator[Idea]:
    """Ends and centres that lie on a line, a circle or an axis."""
    for ref in sorted(s.at, key=lambda r: not r.endswith(".c")):
        own = ref.split(".")[0]
        x, y = s.at[ref]
        for axis, off in ((X_AXIS, y), (Y_AXIS, x)):
            if abs(off) <= s.near:
                yield Idea("coincident", (ref, axis))
        for line in s.lines:
            if line.id != own and not any(s.together(ref, f"{line.id}.{k}") for k in "pq"):
                d, n = _direction(line), _length(line)
                along = (x - line.p[0]) * math.cos(d) + (y - line.p[1]) * math.sin(d)
                off = (y - line.p[1]) * math.cos(d) - (x - line.p[0]) * math.sin(d)
                if abs(off) <= s.near and 0 <= along <= n:
                    if abs(along - n / 2) <= s.near:
                        yield Idea("midpoint", (ref, line.id))
                    yield Idea("coincident", (ref, line.id))
        for e in s.rounds:
            if e.id != own and not ref.endswith(".c") and abs(math.dist(e.c, (x, y)) - e.r) <= s.near:
                yield Idea("coincident", (ref, e.id))


def symmetries(s: Scene) -> Iterator[Idea]:
    """What mirrors each other about an axis or a centre line: lines that are level or upright about the axis across
    them, centres of what has one size, then single ends."""
    for line1, line2 in combinations(s.lines, 2):
        told = s.told(line1.id)
        if told is None or told != s.told(line2.id):
            continue
        k = 1 - told  # an upright line has its x, a level one its y
        axis = Y_AXIS if told else X_AXIS
        if abs(line1.p[k] + line2.p[k]) <= s.near < abs(line1.p[k]):
            yield Idea("symmetric", (line1.id, line2.id, axis))
    rounds = [
        (f"{a.id}.c", f"{b.id}.c")
        for a, b in combinations(s.rounds, 2)
        if a.kind == b.kind and abs(a.r - b.r) <= s.near
    ]
    first: dict[str, str] = {}  # one end of those that are joined speaks for all
    for ref in s.ends():
        first.setdefault(s.builder.same_place[ref], ref)
    about: list[tuple[str, XY, XY]] = [(Y_AXIS, (0.0, 0.0), (0.0, 1.0)), (X_AXIS, (0.0, 0.0), (1.0, 0.0))]
    about += [(e.id, e.p, e.q) for e in s.lines if e.construction and _length(e) > s.near]
    for one, two in [*rounds, *combinations(first.values(), 2)]:
        (ax, ay), (bx, by) = s.at[one], s.at[two]
        if math.hypot(bx - ax, by - ay) <= 2 * s.near:
            continue
        for line, p, q in about:
            if line in (one.split(".")[0], two.split(".")[0]):
                continue
            size = math.dist(p, q)
            nx, ny = (p[1] - q[1]) / size, (q[0] - p[0]) / size
            off = (ax - p[0]) * nx + (ay - p[1]) * ny
            if math.hypot(ax - 2 * off * nx - bx, ay - 2 * off * ny - by) <= s.near:
                yield Idea("symmetric", (one, two, line))


def alignments(s: Scene) -> Iterator[Idea]:
    """Centres in a row or a column, nearest neighbours first; lines on one line, lines of one length."""
    pairs = sorted(combinations(s.rounds, 2), key=lambda p: math.dist(p[0].c, p[1].c))
    for a, b in pairs:
        for kind, k in (("horizontal", 1), ("vertical", 0)):
            if abs(a.c[k] - b.c[k]) <= s.near < abs(a.c[1 - k] - b.c[1 - k]):
                yield Idea(kind, (f"{a.id}.c", f"{b.id}.c"))
    for one, two in combinations(s.lines, 2):
        if s.bearing[one.id] == s.bearing[two.id] and s.builder.measure_off(one.id, two.id) <= s.near:
            yield Idea("collinear", (one.id, two.id))
    for one, two in combinations(s.lines, 2):
        if abs(_length(one) - _length(two)) <= s.near and _length(one) > 2 * s.near:
            yield Idea("equal", (one.id, two.id))


def round_sizes(s: Scene) -> Iterator[Idea]:
    """A diameter for a circle, a radius for an arc."""
    for e in s.rounds:
        yield Idea("diameter" if isinstance(e, Circle) else "radius", (e.id,))


def line_sizes(s: Scene) -> Iterator[Idea]:
    """Lengths, the longest first; the angle of what is neither level nor upright."""
    yield from _sizes([e for e in s.lines if not _between_rounds(s, e)], s)


def tangent_sizes(s: Scene) -> Iterator[Idea]:
    """The same for lines that run from circle to circle: a drafter sizes what is between the centres instead."""
    yield from _sizes([e for e in s.lines if _between_rounds(s, e)], s)


def _sizes(lines: list[Line], s: Scene) -> Iterator[Idea]:
    for e in sorted(lines, key=lambda e: -_length(e)):
        yield Idea("distance", (e.id,))
    for e in lines:
        if s.told(e.id) is None:
            yield Idea("angle", (X_AXIS, e.id), reach=_length(e))


def widths(s: Scene) -> Iterator[Idea]:
    """From line to line across a profile, the farthest apart first: what a sheet gives over all."""
    pairs = [
        (a, b)
        for a, b in combinations([e for e in s.lines if not e.construction], 2)
        if s.told(a.id) is not None and s.told(a.id) == s.told(b.id)
    ]
    far = {(a.id, b.id): s.builder.measure_off(a.id, b.id) for a, b in pairs}
    for pair in sorted(far, key=lambda p: -far[p]):
        if far[pair] > s.near:
            yield Idea("distance", pair)


def _between_rounds(s: Scene, line: Line) -> bool:
    """Whether a line touches a circle or arc at each of its ends."""

    def touched(end: XY) -> bool:
        for e in s.rounds:
            radius = math.atan2(end[1] - e.c[1], end[0] - e.c[0])
            on = abs(math.dist(e.c, end) - e.r) <= s.near
            if on and _apart(radius, _direction(line) + math.pi / 2) < 2 * s.level:
                return True
        return False

    return touched(line.p) and touched(line.q)


def places(s: Scene) -> Iterator[Idea]:
    """Where centres and ends stand: from the nearest told line that runs across, else from the origin."""
    order = sorted(s.at, key=lambda r: (not r.endswith(".c"), math.hypot(*s.at[r])))
    for ref in order:
        x, y = s.at[ref]
        own = ref.split(".")[0]
        for k, along in ((0, "horizontal"), (1, "vertical")):
            walls = [
                (abs(line.p[k] - (x, y)[k]), line.id)
                for line in s.lines
                if s.told(line.id) == 1 - k and line.id != own and not line.construction
            ]
            walls = [w for w in sorted(walls) if w[0] > s.near]
            if walls:
                yield Idea("distance", (ref, walls[0][1]))
            yield Idea("distance", (ref, ORIGIN), along)
    for ref in order:  # what is nearer to an axis than a size can say lies on it
        yield Idea("coincident", (ref, X_AXIS))
        yield Idea("coincident", (ref, Y_AXIS))


# What holds already comes before any number.
TIES: list[Callable[[Scene], Iterator[Idea]]] = [
    joins,
    centres,
    levels,
    tangents,
    directions,
    equals,
    symmetries,
    on_curves,
    alignments,
]
SIZES: list[Callable[[Scene], Iterator[Idea]]] = [round_sizes, line_sizes, places, tangent_sizes]
