"""The variables of a sketch and where things are now; what rows are added with; a solution put back.

Everything inside is scaled by the sketch's size, so a 2 mm and a 2 m sketch are the same system.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property

from . import rows as R
from .directions import bearings
from .lettering import slenderness
from .model import (
    ORIGIN,
    X_AXIS,
    Y_AXIS,
    AnyEntity,
    Arc,
    Circle,
    Ellipse,
    EllipseArc,
    Line,
    Sketch,
    Spline,
    Text,
    extent,
    moved,
    points_of,
)
from .rows import Floats, Row

GROUND, UNIT = 0, 1
INTERNAL = ":"  # owners that start with this are a sketch's own rows (an arc's ends lie on it)

Pair = tuple[int, int]


@dataclass
class System:
    """Variables and rows of a sketch. ``x`` holds the present values, scaled by 1/``size``."""

    size: float
    x: Floats
    point: dict[str, Pair]
    radius: dict[str, int]
    lines: dict[str, tuple[Pair, Pair]]
    rows: list[Row] = field(default_factory=list)
    ellipse: dict[str, tuple[Pair, Pair, Pair]] = field(default_factory=dict)

    def place(self, ref: str) -> tuple[float, float]:
        """Present coordinates of a point in mm."""
        ix, iy = self.point[ref]
        return float(self.x[ix]) * self.size, float(self.x[iy]) * self.size


class Variables:
    """The variables of a sketch, where things are now, and the rows asked for so far.

    ``values`` gives the driving dimensions' values (mm or degrees).
    """

    def __init__(self, sketch: Sketch, values: Mapping[str, float], size: float | None = None) -> None:
        self.sketch, self.values = sketch, values
        self.size = size or extent(sketch)
        self.data: list[float] = [0.0, 1.0]
        self.point: dict[str, Pair] = {ORIGIN: (GROUND, GROUND)}
        self.radius: dict[str, int] = {}
        self.lines: dict[str, tuple[Pair, Pair]] = {
            X_AXIS: ((GROUND, GROUND), (UNIT, GROUND)),
            Y_AXIS: ((GROUND, GROUND), (GROUND, UNIT)),
        }
        self.ellipse: dict[str, tuple[Pair, Pair, Pair]] = {}
        self.splines = {e.id: e for e in sketch.entities if isinstance(e, Spline)}
        self.rows: list[Row] = [Row(R.LINEAR, (UNIT,), 1.0, INTERNAL, (1.0,))]
        self._allocate()

    # -- variables ---------------------------------------------------------------------------

    def new(self, mm: float) -> int:
        self.data.append(mm / self.size)
        return len(self.data) - 1

    def _allocate(self) -> None:
        copies = {new for p in self.sketch.patterns for i in p.instances for new in i.ids.values()}
        copies |= {new for p in self.sketch.placements for new in p.ids.values()}
        given = set(self.sketch.given)
        for entity in self.sketch.entities:
            for ref, (x, y) in points_of(entity).items():
                self.point[ref] = (self.new(x), self.new(y))
            if isinstance(entity, Circle | Arc):
                self.radius[entity.id] = self.new(entity.r)
            if isinstance(entity, Line):
                self.lines[entity.id] = (self.point[f"{entity.id}.p"], self.point[f"{entity.id}.q"])
            if entity.id in given:
                self._as_copy(entity)
                held = [i for ref in points_of(entity) for i in self.point[ref]]
                held += [self.radius[entity.id]] if entity.id in self.radius else []
                for i in held:
                    self.add(R.LINEAR, (i,), INTERNAL + entity.id, self.data[i], 1.0)
                continue
            if entity.id in copies:  # what its own shape asks for is asked of what it copies
                self._as_copy(entity)
                continue
            if isinstance(entity, Arc):
                for end in ("p", "q"):
                    self.on_circle(self.point[f"{entity.id}.{end}"], entity.id, INTERNAL + entity.id)
            if isinstance(entity, Ellipse | EllipseArc):
                self._ellipse(entity)
            if isinstance(entity, Text):
                self._box(entity)

    def _as_copy(self, entity: AnyEntity) -> None:
        if isinstance(entity, Ellipse | EllipseArc):
            c, m, n = (self.point[f"{entity.id}.{k}"] for k in "cmn")
            self.ellipse[entity.id] = (c, m, n)
        if isinstance(entity, Text):
            self.lines[entity.id] = (self.point[f"{entity.id}.p"], self.point[f"{entity.id}.q"])

    def _ellipse(self, entity: Ellipse | EllipseArc) -> None:
        c, m, n = (self.point[f"{entity.id}.{k}"] for k in "cmn")
        self.ellipse[entity.id] = (c, m, n)
        self.add(R.SQUARE, (*c, *n, *c, *m), INTERNAL + entity.id)
        if isinstance(entity, EllipseArc):
            for end in ("p", "q"):
                self.on_ellipse(self.point[f"{entity.id}.{end}"], entity.id, INTERNAL + entity.id)

    def _box(self, entity: Text) -> None:
        """A text's box: ``m`` over ``p`` by the height its width asks for, ``c`` in the middle of m and q."""
        p, q, m, c = (self.point[f"{entity.id}.{k}"] for k in "pqmc")
        self.lines[entity.id] = (p, q)
        k, owner = slenderness(entity.text), INTERNAL + entity.id
        self.add(R.LINEAR, (m[0], p[0], q[1], p[1]), owner, 0.0, 1.0, -1.0, k, -k)
        self.add(R.LINEAR, (m[1], p[1], q[0], p[0]), owner, 0.0, 1.0, -1.0, -k, k)
        for axis in (0, 1):
            self.add(R.LINEAR, (c[axis], m[axis], q[axis]), owner, 0.0, 2.0, -1.0, -1.0)

    def centre(self, ref: str) -> str:
        """A point as it is; for a circle, an arc, an ellipse or a text the point in its middle."""
        return ref if ref in self.point else f"{ref}.c"

    @cached_property
    def same_place(self) -> dict[str, str]:
        """Every point's representative among the points tied to the same place."""
        return same_places(self.sketch)

    @cached_property
    def _bearings(self) -> dict[str, tuple[str, int]]:
        return bearings(self.sketch)

    @cached_property
    def on(self) -> dict[str, set[str]]:
        """Places known to lie on each line, circle or arc: its ends and points tied to it."""
        on: dict[str, set[str]] = {X_AXIS: {self.same_place[ORIGIN]}, Y_AXIS: {self.same_place[ORIGIN]}}
        for entity in self.sketch.entities:
            ends = [r for r in points_of(entity) if r.endswith((".p", ".q"))]
            on[entity.id] = {self.same_place[r] for r in ends}
        for c in self.sketch.constraints:
            if c.kind == "coincident" and len(c.refs) == 2:
                for a, b in (c.refs, c.refs[::-1]):
                    if a in self.point and b in on:
                        on[b].add(self.same_place[a])
        return on

    # -- rows --------------------------------------------------------------------------------

    def add(self, kind: str, variables: tuple[int, ...], owner: str, value: float = 0.0, *signs: float) -> None:
        self.rows.append(Row(kind, variables, value, owner, signs))

    def equal(self, i: int, j: int, owner: str) -> None:
        self.add(R.LINEAR, (i, j), owner, 0.0, 1.0, -1.0)

    def same_point(self, a: Pair, b: Pair, owner: str) -> None:
        self.equal(a[0], b[0], owner)
        self.equal(a[1], b[1], owner)

    def on_circle(self, p: Pair, circle: str, owner: str) -> None:
        self.add(R.SPAN, (*p, *self.point[f"{circle}.c"], self.radius[circle], GROUND), owner, 0.0, 1.0, 0.0)

    def on_ellipse(self, p: Pair, ellipse: str, owner: str) -> None:
        (cx, cy), *axes = (self.at(e) for e in self.ellipse[ellipse])
        least = min(math.hypot(x - cx, y - cy) for x, y in axes)
        self.add(R.ON_ELLIPSE, (*p, *_flat(self.ellipse[ellipse])), owner, 0.0, max(least, 1e-9))

    def lean(self, p: Pair, ellipse: str, a: Pair, b: Pair, owner: str, quarter: float = 0.0) -> None:
        """The ellipse's tangent at ``p`` runs along a→b, or square to it with ``quarter`` 1."""
        self.add(R.LEAN, (*p, *_flat(self.ellipse[ellipse]), *a, *b), owner, 0.0, quarter)

    def off(self, p: Pair, line: str, owner: str, value: float = 0.0, radius: int = GROUND, s: float = 0.0) -> None:
        a, b = self.lines[line]
        self.add(R.OFF, (*p, *a, *b, radius), owner, value, s)

    def turn(self, one: str, two: str, owner: str, value: float, period: float = math.pi) -> None:
        """``period`` π where a line's direction does not matter, 2π where it does."""
        (a, b), (c, d) = self.lines[one], self.lines[two]
        self.add(R.TURN, (*a, *b, *c, *d), owner, value, period)

    # -- where things are now ----------------------------------------------------------------

    def at(self, p: Pair) -> tuple[float, float]:
        return self.data[p[0]], self.data[p[1]]

    def side(self, p: Pair, line: str) -> float:
        """Signed distance of p from a line, scaled; positive on its left."""
        (ax, ay), (bx, by) = (self.at(e) for e in self.lines[line])
        px, py = self.at(p)
        size = math.hypot(bx - ax, by - ay) or 1.0
        return ((bx - ax) * (py - ay) - (by - ay) * (px - ax)) / size

    def angle(self, one: str, two: str) -> float:
        """Angle from one line's direction to the other's, in (−π, π]."""
        (ax, ay), (bx, by) = (self.at(e) for e in self.lines[one])
        (cx, cy), (dx, dy) = (self.at(e) for e in self.lines[two])
        u, v = (bx - ax, by - ay), (dx - cx, dy - cy)
        return math.atan2(u[0] * v[1] - u[1] * v[0], u[0] * v[0] + u[1] * v[1])

    def measure_off(self, one: str, other: str) -> float:
        """How far, in mm, the start of ``one`` lies from the line ``other``."""
        return abs(self.side(self.lines[one][0], other)) * self.size

    def gap(self, a: Pair, b: Pair) -> float:
        (ax, ay), (bx, by) = self.at(a), self.at(b)
        return math.hypot(bx - ax, by - ay)


def same_places(sketch: Sketch) -> dict[str, str]:
    """Every point's representative among the points tied to the same place."""
    refs = (ref for e in sketch.entities for ref in points_of(e))
    parent = {ref: ref for ref in (ORIGIN, *refs)}
    rounds = {e.id for e in sketch.entities if isinstance(e, Circle | Arc)}

    def find(ref: str) -> str:
        while parent[ref] != ref:
            parent[ref] = parent[parent[ref]]
            ref = parent[ref]
        return ref

    for c in sketch.constraints:
        if c.kind in ("coincident", "concentric") and len(c.refs) == 2:
            # a circle stands for its centre only where middles are meant: a point coincident with it is on its rim
            pair = c.refs if c.kind == "coincident" else [r if r in parent else f"{r}.c" for r in c.refs]
            if all(r in parent for r in pair):
                parent[find(pair[0])] = find(pair[1])
        if c.kind == "offset":
            for old, new in zip(c.refs[::2], c.refs[1::2], strict=False):
                if old in rounds and new in rounds:
                    parent[find(f"{old}.c")] = find(f"{new}.c")
    return {ref: find(ref) for ref in parent}


def _flat(pairs: tuple[Pair, ...]) -> tuple[int, ...]:
    return tuple(i for pair in pairs for i in pair)


def geometry(sketch: Sketch, system: System, x: Floats) -> Sketch:
    """``sketch`` with its entities moved to the scaled solution ``x``; those that stay are the same objects."""
    s = system.size

    def at(ref: str) -> tuple[float, float]:
        ix, iy = system.point[ref]
        return float(x[ix]) * s, float(x[iy]) * s

    radii = {ident: float(x[i]) * s for ident, i in system.radius.items()}
    entities = [(e, moved(e, at, radii.get(e.id))) for e in sketch.entities]
    return sketch.model_copy(update={"entities": [old if old == new else new for old, new in entities]})
