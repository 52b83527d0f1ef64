"""The data of a sketch: what a designer draws and ties down. Lengths in mm, angles in degrees.

A *ref* names something in a sketch: an entity (``l3``), one of its points (``l3.p`` start,
``l3.q`` end, ``c1.c`` centre, ``e1.m`` and ``e1.n`` ends of half axes, ``s1.k2`` a spline's inner
point), the sketch's ``origin``, or its fixed axes ``x`` and ``y``.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Iterator
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

Coordinate = Annotated[float, Field(ge=-1e7, le=1e7, allow_inf_nan=False)]
XY = tuple[Coordinate, Coordinate]
Ident = Annotated[str, Field(pattern=r"^[a-z][a-z0-9]{0,15}$")]
Ref = Annotated[str, Field(pattern=r"^[a-z][a-z0-9]{0,15}(\.([pqcmn]|k[0-9]{1,3}))?$")]
Radius = Annotated[float, Field(gt=0, le=1e7, allow_inf_nan=False)]

ORIGIN, X_AXIS, Y_AXIS = "origin", "x", "y"
FIXED_REFS = (ORIGIN, X_AXIS, Y_AXIS)


class Model(BaseModel):
    model_config = ConfigDict(extra="forbid")


class Fixed(Model):
    """What never changes: a change makes another. What was found of it can be remembered by the object."""

    model_config = ConfigDict(frozen=True)


class Entity(Fixed):
    """``lift`` is how far (mm) it came in above the sketch plane; it bounds nothing until it is flattened."""

    id: Ident
    construction: bool = False
    lift: Coordinate = 0.0


class Point(Entity):
    kind: Literal["point"] = "point"
    at: XY


class Line(Entity):
    """A straight line from ``p`` to ``q``."""

    kind: Literal["line"] = "line"
    p: XY
    q: XY


class Circle(Entity):
    kind: Literal["circle"] = "circle"
    c: XY
    r: Radius


class Arc(Entity):
    """An arc about ``c``, counter-clockwise from ``p`` to ``q``."""

    kind: Literal["arc"] = "arc"
    c: XY
    r: Radius
    p: XY
    q: XY


class Ellipse(Entity):
    """An ellipse about ``c``; ``m`` and ``n`` are ends of its half axes, ``n`` a left quarter turn from ``m``."""

    kind: Literal["ellipse"] = "ellipse"
    c: XY
    m: XY
    n: XY


class EllipseArc(Entity):
    """Part of an ellipse (as ``Ellipse``), counter-clockwise from ``p`` to ``q``."""

    kind: Literal["ellipse_arc"] = "ellipse_arc"
    c: XY
    m: XY
    n: XY
    p: XY
    q: XY


class Spline(Entity):
    """A smooth curve through ``points``, or drawn towards them as the control points of a cubic B-spline.

    Its ends are ``p`` and ``q``, the points between ``k1``, ``k2`` … ``knots`` (0 … 1) say where along a curve
    *through* points each lies; they are set when it is drawn and stay, so that the curve follows its points linearly.
    """

    kind: Literal["spline"] = "spline"
    form: Literal["through", "control"] = "through"
    points: list[XY] = Field(min_length=3, max_length=200)
    knots: list[Annotated[float, Field(ge=0, le=1)]] = Field(default_factory=list, max_length=200)

    @model_validator(mode="after")
    def _spaced(self) -> Spline:
        if self.form == "through" and len(self.knots) != len(self.points):
            # centripetal: the square root of the chords (Lee, Computer-Aided Design 21, 1989)
            steps = [math.sqrt(max(math.dist(a, b), 1e-9)) for a, b in itertools.pairwise(self.points)]
            sums = [0.0, *itertools.accumulate(steps)]
            object.__setattr__(self, "knots", [s / sums[-1] for s in sums])  # before anybody has seen it
            self.model_fields_set.add("knots")
        if any(b <= a for a, b in itertools.pairwise(self.knots)):
            raise ValueError("the knots of a spline grow from its start to its end")
        return self


class Text(Entity):
    """A line of text on the base line from ``p`` to ``q``, in the shipped letters.

    ``m`` stands over ``p`` at the height of the capitals, ``c`` in the middle of the box; both follow.
    """

    kind: Literal["text"] = "text"
    text: Annotated[str, Field(min_length=1, max_length=200)]
    p: XY
    q: XY
    m: XY
    c: XY


EntityKinds = Point | Line | Circle | Arc | Ellipse | EllipseArc | Spline | Text
AnyEntity = Annotated[EntityKinds, Field(discriminator="kind")]

ConstraintKind = Literal[
    "coincident",
    "horizontal",
    "vertical",
    "parallel",
    "perpendicular",
    "collinear",
    "equal",
    "concentric",
    "tangent",
    "midpoint",
    "symmetric",
    "fixed",
    "offset",
]


class Constraint(Fixed):
    """A geometric tie between ``refs``. ``branch`` remembers which of two solutions was meant.

    An ``offset`` names pairs (old, new) of lines, arcs or circles at one width, and then pairs of ends that stand
    square across from each other; ``sides`` tells for each pair of curves on which side of the old the new lies
    (1 left of it, for an arc towards its centre).
    """

    id: Ident
    kind: ConstraintKind
    refs: list[Ref] = Field(min_length=1, max_length=2400)  # an offset names up to six for each curve
    branch: Literal[-1, 1] | None = None
    sides: list[Literal[-1, 1]] = Field(default_factory=list, max_length=400)


DimensionKind = Literal["distance", "angle", "radius", "diameter", "arc_length"]


class Dimension(Fixed):
    """A size. ``expr`` is what was typed; a reference dimension (``driving`` false) only measures.

    ``along`` says how a distance between points is taken: the shortest way, horizontally or
    vertically; ``rim`` whether one to a circle or arc goes to its near or far side instead of its centre.
    ``branch`` remembers the side. ``at`` is where the text stands, in sketch mm.
    """

    id: Ident
    kind: DimensionKind
    refs: list[Ref] = Field(min_length=1, max_length=2)
    expr: Annotated[str, Field(min_length=1, max_length=200, json_schema_extra={"quantity": "length"})]
    along: Literal["shortest", "horizontal", "vertical"] = "shortest"
    rim: Literal["", "near", "far"] = ""
    driving: bool = True
    name: Annotated[str, Field(max_length=40)] = ""
    at: XY | None = None
    branch: Literal[-1, 1] | None = None
    supplement: bool = False  # an angle taken to the second line's far end
    across: bool = False  # a distance from a centre line counted to both sides: the whole width


Expr = Annotated[str, Field(min_length=1, max_length=200)]
Grid = tuple[Annotated[int, Field(ge=0, le=2000)], Annotated[int, Field(ge=0, le=2000)]]


class Instance(Fixed):
    """One copy of a pattern's originals: ``ids`` gives the copy of each, ``at`` how many steps away it stands."""

    at: Grid
    ids: dict[Ident, Ident]


class Pattern(Fixed):
    """Copies of ``of`` in rows or round a centre. ``count`` and ``second`` are counts with the original among them.

    Linear: ``steps`` are one or two construction lines, each as long as one step in its direction.
    Circular: about the point ``about``, ``angle`` from one to the next; empty: evenly all round. ``turn`` is that in
    degrees, as last worked out. ``left_out`` names copies that are not wanted.
    """

    id: Ident
    kind: Literal["linear", "circular"]
    of: list[Ident] = Field(min_length=1, max_length=500)
    count: Expr
    second: Expr = "1"
    steps: list[Ident] = Field(default_factory=list, max_length=2)
    about: Ref | None = None
    angle: Annotated[str, Field(max_length=200)] = ""
    turn: Annotated[float, Field(ge=-360, le=360)] = 0.0
    left_out: list[Grid] = Field(default_factory=list, max_length=2000)
    instances: list[Instance] = Field(default_factory=list, max_length=2000)


class Placement(Fixed):
    """A stencil placed: ``shape`` is its geometry about its insertion point, ``ids`` what stands for each of it here.

    ``handle`` is a construction line from the insertion point, always ``reach`` (mm) long: it moves and turns it.
    """

    id: Ident
    stencil: Annotated[str, Field(pattern=r"^s[0-9]{1,6}$")]
    handle: Ident
    reach: Radius
    shape: list[AnyEntity] = Field(max_length=500)
    ids: dict[Ident, Ident]


class Sketch(Model):
    """``used`` keeps the highest number ever given per letter, so that no id is ever given twice.

    ``given`` names entities that are the part's own edges: they stand where the part puts them.
    """

    entities: list[AnyEntity] = Field(default_factory=list, max_length=5000)
    constraints: list[Constraint] = Field(default_factory=list, max_length=20000)
    dimensions: list[Dimension] = Field(default_factory=list, max_length=5000)
    given: list[Ident] = Field(default_factory=list, max_length=2000)
    patterns: list[Pattern] = Field(default_factory=list, max_length=200)
    placements: list[Placement] = Field(default_factory=list, max_length=500)
    used: dict[Annotated[str, Field(pattern=r"^[a-z]$")], Annotated[int, Field(ge=0)]] = Field(default_factory=dict)

    def entity(self, ident: str) -> EntityKinds | None:
        return next((e for e in self.entities if e.id == ident), None)

    def idents(self) -> Iterator[str]:
        yield from (e.id for e in self.entities)
        yield from (c.id for c in self.constraints)
        yield from (d.id for d in self.dimensions)
        yield from (p.id for p in self.patterns)
        yield from (p.id for p in self.placements)


_NAMED: dict[str, str] = {
    "line": "pq",
    "circle": "c",
    "arc": "cpq",
    "ellipse": "cmn",
    "ellipse_arc": "cmnpq",
    "text": "pqmc",
}


def _spline_refs(spline: Spline) -> list[str]:
    inner = [f"{spline.id}.k{n}" for n in range(1, len(spline.points) - 1)]
    return [f"{spline.id}.p", *inner, f"{spline.id}.q"]


def points_of(entity: EntityKinds) -> dict[str, XY]:
    """An entity's points by ref."""
    i = entity.id
    if isinstance(entity, Line):  # by far the most frequent
        return {f"{i}.p": entity.p, f"{i}.q": entity.q}
    if isinstance(entity, Circle):
        return {f"{i}.c": entity.c}
    if isinstance(entity, Point):
        return {i: entity.at}
    if isinstance(entity, Spline):
        return dict(zip(_spline_refs(entity), entity.points, strict=True))
    return {f"{i}.{name}": getattr(entity, name) for name in _NAMED[entity.kind]}


def moved(entity: EntityKinds, at: Callable[[str], XY], r: float | None = None) -> EntityKinds:
    """The entity with every point where ``at`` puts its ref; ``r`` (mm) the radius of a circle or arc."""
    i = entity.id
    update: dict[str, object]
    if isinstance(entity, Line):
        return entity.model_copy(update={"p": at(f"{i}.p"), "q": at(f"{i}.q")})
    if isinstance(entity, Point):
        update = {"at": at(i)}
    elif isinstance(entity, Spline):
        update = {"points": [at(ref) for ref in _spline_refs(entity)]}
    else:
        update = {name: at(f"{i}.{name}") for name in _NAMED[entity.kind]}
    if r is not None and isinstance(entity, Circle | Arc):
        update["r"] = r
    return entity.model_copy(update=update)


def sweep_of(arc: Arc) -> tuple[float, float]:
    """Start angle and counter-clockwise sweep of an arc, in radians; the sweep is in (0, 2π]."""
    start = math.atan2(arc.p[1] - arc.c[1], arc.p[0] - arc.c[0])
    end = math.atan2(arc.q[1] - arc.c[1], arc.q[0] - arc.c[0])
    sweep = (end - start) % (2 * math.pi)
    return start, sweep if sweep > 1e-12 else 2 * math.pi


def extent(sketch: Sketch) -> float:
    """The larger side of the box around a sketch and its origin, in mm, rounded up to a power of two.

    A power of two, so that scaling by it loses no digit. 1 for an empty sketch.
    """
    xs, ys = [0.0], [0.0]
    for entity in sketch.entities:
        for x, y in points_of(entity).values():
            r = entity.r if isinstance(entity, Circle) else 0.0
            xs += (x - r, x + r)
            ys += (y - r, y + r)
    side = max(max(xs) - min(xs), max(ys) - min(ys)) or 1.0
    return 2.0 ** math.ceil(math.log2(side))
