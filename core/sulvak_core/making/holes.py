"""Round holes of a part as the one who drills them sees them: wall, mouth and end."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..rebuild.state import Body
from ..solid.frame import XYZ, dot, plus, scaled
from ..solid.measure import Surface, curve, inside, neighbours, one_axis, surface
from ..solid.shapes import Shape, edges, faces
from .finding import step_of

ROUND = 2 * math.pi * 0.99  # radians that walls turn which are a whole hole
BEYOND = 1e-3  # mm past its end, where it is looked for material
SAME = 1e-6  # mm, and the sine of an angle


@dataclass(frozen=True)
class Hole:
    """One wall about one axis, ``diameter`` and ``depth`` of it in mm; ``at`` its middle. ``open``: whether there is
    air on the axis beyond its low and its high end (along ``axis``). ``flat_end``: it ends in material square to the
    axis. ``slope``: how much the face it begins on leans (degrees), None where that is not flat."""

    body: str
    faces: tuple[tuple[str, int], ...]
    axis: XYZ
    at: XYZ
    diameter: float
    depth: float
    open: tuple[bool, bool]
    flat_end: bool
    slope: float | None
    step: str | None

    def opens(self, way: NDArray[np.float64]) -> bool:
        """Whether it is open towards where a drill comes from."""
        along = float(np.dot(self.axis, way))
        return abs(along) > 0.5 and self.open[1 if along > 0 else 0]


def holes(bodies: Sequence[Body]) -> list[Hole]:
    """Every hole of bodies, each stretch of one diameter by itself."""
    return [h for body in bodies for h in _of(body)]


def _of(body: Body) -> list[Hole]:
    every = faces(body.shape)
    walls = [(i, s) for i, f in enumerate(every) for s in [surface(f)] if s.kind == "cylinder" and s.hollow]
    beside = _beside(body)
    groups: list[list[tuple[int, Surface]]] = []
    for i, s in walls:
        mine = next(
            (
                g
                for g in groups
                if one_axis(g[0][1], s) and abs(g[0][1].radius - s.radius) < SAME and _meet(every, g, i, s)
            ),
            None,
        )
        if mine is None:
            groups.append([(i, s)])
        else:
            mine.append((i, s))
    found = []
    for g in groups:
        if sum(s.sweep for _, s in g) < ROUND:
            continue
        lead = g[0][1]
        spans = [_span(every[i], lead.direction) for i, _ in g]
        low, high = min(a for a, _ in spans), max(b for _, b in spans)
        foot = plus(lead.at, scaled(lead.direction, -dot(lead.at, lead.direction)))
        ends = [not inside(body.shape, plus(foot, scaled(lead.direction, z))) for z in (low - BEYOND, high + BEYOND)]
        own = {i for i, _ in g}
        tips = [k for i in own for k in beside.get(i, ()) if k not in own and _is_tip(every[k], lead)]
        flat = not all(ends) and not tips
        found.append(
            Hole(
                body.id,
                tuple((body.id, i) for i in [*sorted(own), *sorted(set(tips))]),
                lead.direction,
                plus(foot, scaled(lead.direction, (low + high) / 2)),
                2 * lead.radius,
                high - low,
                (
                    ends[0] and not (tips and _tip_low(every, tips, lead, low)),
                    ends[1] and not (tips and not _tip_low(every, tips, lead, low)),
                ),
                flat,
                _slope(every, own, beside, lead),
                step_of([t for i in own for t in body.solid.face_tags(every[i])]),
            )
        )
    return found


def _beside(body: Body) -> dict[int, set[int]]:
    found: dict[int, set[int]] = {}
    for _, sides in neighbours(body.solid):
        for i in sides:
            found.setdefault(i, set()).update(k for k in sides if k != i)
    return found


def _span(face: Shape, axis: XYZ) -> tuple[float, float]:
    at = [dot(p, axis) for e in edges(face) for c in [curve(e)] for p in (c.start, c.end)]
    return min(at), max(at)


def _meet(every: list[Shape], group: list[tuple[int, Surface]], i: int, s: Surface) -> bool:
    """Whether a wall touches those of a group along their axis: one hole through two webs is two holes."""
    axis = group[0][1].direction
    low, high = _span(every[i], axis)
    return any(low <= b + SAME and a <= high + SAME for k, _ in group for a, b in [_span(every[k], axis)])


def _is_tip(face: Shape, lead: Surface) -> bool:
    """Whether a face is the cone that a drill leaves at the end of a wall."""
    s = surface(face)
    if s.kind != "cone" or not s.hollow or not one_axis(lead, s):
        return False
    at = [c for e in edges(face) for c in [curve(e)]]
    return not any(c.kind == "circle" and c.radius > lead.radius + SAME for c in at)


def _tip_low(every: list[Shape], tips: list[int], lead: Surface, low: float) -> bool:
    """Whether the point lies beyond the low end."""
    return min(_span(every[k], lead.direction)[0] for k in tips) < low - SAME


def _slope(every: list[Shape], own: set[int], beside: dict[int, set[int]], lead: Surface) -> float | None:
    """How much the flat faces lean that a wall ends on; None where all lie along it."""
    leans = []
    for i in own:
        for k in beside.get(i, ()):
            s = surface(every[k])
            if k not in own and s.kind == "plane":
                angle = math.degrees(math.acos(min(1.0, abs(dot(s.direction, lead.direction)))))
                if angle < 85:
                    leans.append(angle)
    return max(leans) if leans else None
