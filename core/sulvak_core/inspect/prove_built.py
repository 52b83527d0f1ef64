"""Sizes of ribs, thin walls, turned bodies and letters, measured on the faces they left on the finished solid."""

from __future__ import annotations

import math
from collections.abc import Sequence

from ..rebuild.resolve import Pointing
from ..rebuild.tooling import StepFailure
from ..sheet.requirement import Requirement
from ..solid.frame import XYZ, cross, dot, plus, scaled
from ..solid.measure import Surface, curve, full_turn, one_axis, surface
from ..solid.shapes import Shape, Solid, edges, faces
from ..steps.kinds.revolve import RevolveStep
from ..steps.kinds.rib import RibStep
from ..steps.kinds.text import TextStep
from .shown import Measured, Unmeasurable

ALIKE = 1e-9


def between_sides(sides: Sequence[Surface]) -> float:
    """How thick (mm) a wall is: the least between flat sides that face away from each other, or between round ones
    about one axis. Raises Unmeasurable."""
    thick = []
    for i, a in enumerate(sides):
        for b in sides[i + 1 :]:
            if a.kind == b.kind == "plane" and dot(a.direction, b.direction) < -1 + ALIKE:
                thick.append(dot(plus(a.at, scaled(b.at, -1.0)), a.direction))
            elif a.kind == b.kind == "cylinder" and a.hollow != b.hollow and one_axis(a, b):
                outer, inner = (a, b) if b.hollow else (b, a)
                thick.append(outer.radius - inner.radius)
    found = [t for t in thick if t > 0]
    if not found:
        raise Unmeasurable("no two sides of its wall that face away are left on the part")
    return min(found)


def tagged(solids: Sequence[Solid], start: str) -> list[tuple[Shape, Surface]]:
    """Faces with an origin that starts so, and what they lie on."""
    return [(f, surface(f)) for s in solids for f in faces(s.shape) if any(t.startswith(start) for t in s.face_tags(f))]


def rib(step: RibStep, solids: Sequence[Solid]) -> Measured:
    """How thick a rib is."""
    return between_sides([s for _, s in tagged(solids, f"{step.id}/side/")]), None, []


def turn(step: RevolveStep, r: Requirement, solids: Sequence[Solid]) -> Measured:
    """How far round a body was turned, in degrees, between its two end faces."""
    ends = [[s for _, s in tagged(solids, f"{step.id}/{end}") if s.kind == "plane"] for end in ("start", "end")]
    if not any(ends):
        if any(full_turn(s) for _, s in tagged(solids, f"{step.id}/side/")):
            return 360.0, None, []
        raise Unmeasurable("nothing of its walls is left on the part")
    if not all(ends):
        raise Unmeasurable("one of the faces it ends at is no longer on the part")
    between = math.degrees(math.acos(max(-1.0, min(1.0, -dot(ends[0][0].direction, ends[1][0].direction)))))
    return min((between, 360.0 - between), key=lambda a: abs(a - (r.nominal or 0.0))), None, []


def lettering(step: TextStep, field: str, r: Requirement, solids: Sequence[Solid], pointing: Pointing) -> Measured:
    """How deep letters are, from their floor or top to the face they are on; how high, by their level edges."""
    tops = tagged(solids, f"{step.id}/end")
    if not tops:
        raise Unmeasurable("nothing of its letters is left on the part")
    if field == "height":
        return _height([f for f, _ in tops], r), None, []
    try:
        ground = surface(pointing.face(step.face)[1]) if step.face is not None else None
    except StepFailure:
        ground = None
    top = tops[0][1]
    if ground is not None and ground.kind == top.kind == "plane":
        return abs(dot(plus(top.at, scaled(ground.at, -1.0)), ground.direction)), None, []
    if ground is not None and ground.kind == top.kind == "cylinder":
        return abs(top.radius - ground.radius), None, []
    raise Unmeasurable("the face its letters are on is no longer on the part")


def _height(tops: Sequence[Shape], r: Requirement) -> float:
    """Across the level edges of letters, which are those of their two main directions, the one nearer to what is
    asked: round letters stand a little over them on either side."""
    lines = [c for f in tops for e in edges(f) for c in [curve(e)] if c.kind == "line"]
    along: list[tuple[XYZ, float, list[XYZ]]] = []
    for c in lines:
        for k, (way, length, ends) in enumerate(along):
            if abs(abs(dot(way, c.direction)) - 1) < 1e-6:
                along[k] = (way, length + c.length, [*ends, c.start, c.end])
                break
        else:
            along.append((c.direction, c.length, [c.start, c.end]))
    if not along:
        raise Unmeasurable("its letters have no straight edges to measure by")
    normal = surface(tops[0]).direction
    heights = []
    for way, _, ends in sorted(along, key=lambda a: -a[1])[:2]:
        up = cross(normal, way)
        at = [dot(p, up) for p in ends]
        heights.append(max(at) - min(at))
    return min(heights, key=lambda h: abs(h - (r.nominal or 0.0)))
