"""The data of a sketch: what a designer draws and ties down. Lengths in mm, angles in degrees.

A *ref* names something in a sketch: an entity (``l3``), one of its points (``l3.p`` start,
``l3.q`` end, ``c1.c`` centre), the sketch's ``origin``, or its fixed axes ``x`` and ``y``.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

Coordinate = Annotated[float, Field(ge=-1e7, le=1e7, allow_inf_nan=False)]
XY = tuple[Coordinate, Coordinate]
Ident = Annotated[str, Field(pattern=r"^[a-z][a-z0-9]{0,15}$")]
Ref = Annotated[str, Field(pattern=r"^[a-z][a-z0-9]{0,15}(\.[pqc])?$")]
Radius = Annotated[float, Field(gt=0, le=1e7, allow_inf_nan=False)]

ORIGIN, X_AXIS, Y_AXIS = "origin", "x", "y"
FIXED_REFS = (ORIGIN, X_AXIS, Y_AXIS)


class Model(BaseModel):
    model_config = ConfigDict(extra="forbid")


class Entity(Model):
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


AnyEntity = Annotated[Point | Line | Circle | Arc, Field(discriminator="kind")]

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


class Constraint(Model):
    """A geometric tie between ``refs``. ``branch`` remembers which of two solutions was meant.

    An ``offset`` names pairs (old, new) of lines, arcs or circles at one width, and then pairs of ends that stand
    square across from each other; ``sides`` tells for each pair of curves on which side of the old the new lies
    (1 left of it, for an arc towards its centre).
    """

    id: Ident
    kind: ConstraintKind
    refs: list[Ref] = Field(min_length=1, max_length=800)
    branch: Literal[-1, 1] | None = None
    sides: list[Literal[-1, 1]] = Field(default_factory=list, max_length=400)


DimensionKind = Literal["distance", "angle", "radius", "diameter", "arc_length"]


class Dimension(Model):
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


class Sketch(Model):
    """``used`` keeps the highest number ever given per letter, so that no id is ever given twice."""

    entities: list[AnyEntity] = Field(default_factory=list, max_length=5000)
    constraints: list[Constraint] = Field(default_factory=list, max_length=20000)
    dimensions: list[Dimension] = Field(default_factory=list, max_length=5000)
    used: dict[Annotated[str, Field(pattern=r"^[a-z]$")], Annotated[int, Field(ge=0)]] = Field(default_factory=dict)

    def entity(self, ident: str) -> Point | Line | Circle | Arc | None:
        return next((e for e in self.entities if e.id == ident), None)

    def idents(self) -> Iterator[str]:
        yield from (e.id for e in self.entities)
        yield from (c.id for c in self.constraints)
        yield from (d.id for d in self.dimensions)


def points_of(entity: Point | Line | Circle | Arc) -> dict[str, XY]:
    """An entity's points by ref."""
    if isinstance(entity, Point):
        return {entity.id: entity.at}
    if isinstance(entity, Line):
        return {f"{entity.id}.p": entity.p, f"{entity.id}.q": entity.q}
    if isinstance(entity, Circle):
        return {f"{entity.id}.c": entity.c}
    return {f"{entity.id}.c": entity.c, f"{entity.id}.p": entity.p, f"{entity.id}.q": entity.q}


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
