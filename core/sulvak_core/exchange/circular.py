"""Runs of points that are parts of circles, made arcs again; and the pieces of one circle joined."""

from __future__ import annotations

import itertools
import math
from typing import Any

from ..sheet.page import Stroke

XY = tuple[float, float]
OFF = 1e-3  # of the radius that a point may lie off its circle
STRAIGHT = 1e-5  # of its length that a run may bulge and be a line
FARTHEST = 1e5  # points: no circle is larger


def through(points: list[XY], look: dict[str, Any]) -> Stroke:
    """A run of points as a line, an arc or a curve."""
    a, m, b = points[0], points[len(points) // 2], points[-1]
    chord = math.dist(a, b)
    bulge = abs((b[0] - a[0]) * (m[1] - a[1]) - (b[1] - a[1]) * (m[0] - a[0])) / (chord or 1.0)
    if chord > 0 and bulge < STRAIGHT * chord:
        return Stroke("line", (a, b), **look)
    circle = _circle(a, m, b)
    if circle is not None:
        centre, r = circle
        if r < FARTHEST and all(abs(math.dist(p, centre) - r) < OFF * r for p in points):
            return Stroke("arc", (a, b), centre, r, _swept(centre, points), **look)
    return Stroke("curve", tuple(points), **look)


def _swept(c: XY, points: list[XY]) -> float:
    """The angle about ``c`` that the points go through, clockwise as seen on the page."""
    total = 0.0
    for p, q in itertools.pairwise(points):
        (px, py), (qx, qy) = (p[0] - c[0], p[1] - c[1]), (q[0] - c[0], q[1] - c[1])
        total += math.atan2(px * qy - py * qx, px * qx + py * qy)
    return total


def _circle(a: XY, b: XY, c: XY) -> tuple[XY, float] | None:
    """The circle through three points; None where they lie in a line."""
    bx, by, cx, cy = b[0] - a[0], b[1] - a[1], c[0] - a[0], c[1] - a[1]
    d = 2 * (bx * cy - by * cx)
    if abs(d) < 1e-12:
        return None
    u = (cy * (bx * bx + by * by) - by * (cx * cx + cy * cy)) / d
    v = (bx * (cx * cx + cy * cy) - cx * (bx * bx + by * by)) / d
    return (a[0] + u, a[1] + v), math.hypot(u, v)


def joined(strokes: list[Stroke]) -> list[Stroke]:
    """Arcs that follow each other on one circle as one; all round, as a circle."""
    found: list[Stroke] = []
    for s in strokes:
        last = found[-1] if found else None
        if last is not None and _goes_on(last, s):
            found[-1] = _one(last, s)
        else:
            found.append(s)
    return found


def _goes_on(a: Stroke, b: Stroke) -> bool:
    if a.kind != "arc" or b.kind != "arc" or a.centre is None or b.centre is None:
        return False
    near = 2 * OFF * a.radius
    return (
        math.dist(a.centre, b.centre) < near
        and abs(a.radius - b.radius) < near
        and math.dist(a.points[1], b.points[0]) < near
        and a.sweep * b.sweep > 0
        and abs(a.sweep + b.sweep) < math.tau + 1e-3
        and (a.width, a.dash, a.layer, a.filled) == (b.width, b.dash, b.layer, b.filled)
    )


def _one(a: Stroke, b: Stroke) -> Stroke:
    assert a.centre is not None and b.centre is not None
    wa, wb = abs(a.sweep), abs(b.sweep)
    centre = tuple((p * wa + q * wb) / (wa + wb) for p, q in zip(a.centre, b.centre, strict=True))
    radius, sweep = (a.radius * wa + b.radius * wb) / (wa + wb), a.sweep + b.sweep
    whole = abs(abs(sweep) - math.tau) < 1e-3
    ends = (a.points[0], a.points[0] if whole else b.points[1])
    sweep = math.copysign(math.tau, sweep) if whole else sweep
    kind = "circle" if whole else "arc"
    return Stroke(kind, ends, (centre[0], centre[1]), radius, sweep, a.width, a.dash, a.layer, a.filled)  # type: ignore[arg-type]
