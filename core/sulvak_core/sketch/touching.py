"""Tangency where an ellipse or a spline takes part.

Where both curves are tied to one place, their directions agree there. Elsewhere an ellipse gets a contact of its
own: a place on both curves, at first where they come nearest, in which their directions agree. A spline is smooth
only at its ends, so there it must be joined.
"""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
import scipy  # its parts are loaded when they are first used: many a build needs none
from numpy.typing import NDArray

from ..part.errors import Refusal
from . import free_curves
from . import rows as R
from .model import Constraint
from .variables import GROUND, Pair, Variables

Array = NDArray[np.float64]
Segment = tuple[Pair, Pair]


def tangent(v: Variables, c: Constraint, curved: list[str], others: list[str]) -> None:
    """Rows for ``c``; ``curved`` are its ellipses and splines, ``others`` its line, circle or arc, if any."""
    one, two = (*curved, *others)
    if not all(r in v.splines or r in v.ellipse or r in v.lines or r in v.radius for r in (one, two)):
        raise Refusal("Tangent needs two curves, or a line and a curve; pick those.", refs=list(c.refs))
    if one in v.ellipse and two in v.splines:
        one, two = two, one
    shared = v.on.get(one, set()) & v.on.get(two, set())
    if one in v.splines:
        if not shared:
            raise Refusal("A spline is tangent at its ends; join one of them to the other curve first.", refs=c.refs)
        place = min(shared)
        _along(v, c.id, two, v.point[place], _lead(v, c.id, one, place), place)
        return
    if shared:
        at = v.point[min(shared)]
    else:
        at = _contact(v, one, two)
        v.on_ellipse(at, one, c.id)
        if two in v.lines:
            v.off(at, two, c.id)
        elif two in v.radius:
            v.on_circle(at, two, c.id)
        else:
            v.on_ellipse(at, two, c.id)
    if two in v.lines:
        v.lean(at, one, *v.lines[two], c.id)
    elif two in v.radius:
        v.lean(at, one, at, v.point[f"{two}.c"], c.id, 1.0)
    else:
        _between_ellipses(v, c.id, one, two, at)


def _along(v: Variables, owner: str, curve: str, at: Pair, segment: Segment, place: str) -> None:
    """``curve`` runs along ``segment`` where it passes ``at``."""
    if curve in v.splines:
        other = _lead(v, owner, curve, place)
        v.add(R.TURN, (*_flat(segment), *_flat(other)), owner, 0.0, math.pi)
    elif curve in v.lines:
        v.add(R.TURN, (*_flat(v.lines[curve]), *_flat(segment)), owner, 0.0, math.pi)
    elif curve in v.radius:
        v.add(R.SQUARE, (*at, *v.point[f"{curve}.c"], *_flat(segment)), owner)
    else:
        v.lean(at, curve, *segment, owner)


def _flat(segment: Segment) -> tuple[int, int, int, int]:
    (a, b), (c, d) = segment
    return a, b, c, d


def _lead(v: Variables, owner: str, ident: str, place: str) -> Segment:
    """A spline's end at ``place`` and a point in the direction in which the curve leaves it."""
    spline = v.splines[ident]
    end = "p" if v.same_place[f"{ident}.p"] == place else "q"
    last = len(spline.points) - 1
    refs = [f"{ident}.p", *(f"{ident}.k{n}" for n in range(1, last)), f"{ident}.q"]
    start = v.point[f"{ident}.{end}"]
    if spline.form == "control":
        return start, v.point[refs[1] if end == "p" else refs[-2]]
    # the end plus a share of the first derivative, which is a weighted sum of the points
    weights = free_curves.heading_weights(spline, end)
    share = 1.0 / max(abs(w) for w in weights)
    terms = [(v.point[ref], share * w) for ref, w in zip(refs, weights, strict=True) if w]
    terms.append((start, 1.0))
    total: Pair | None = None
    for point, weight in terms:
        now = tuple(v.new((weight * v.data[point[k]] + (v.data[total[k]] if total else 0.0)) * v.size) for k in (0, 1))
        for k in (0, 1):
            before = total[k] if total else GROUND
            v.add(R.LINEAR, (now[k], point[k], before), owner, 0.0, 1.0, -weight, -1.0)
        total = (now[0], now[1])
    assert total is not None
    return start, total


def _contact(v: Variables, ellipse: str, other: str) -> Pair:
    """A new place on an ellipse where it runs alongside another curve, the one nearest to that curve now."""
    (cx, cy), (mx, my), (nx, ny) = (v.at(p) for p in v.ellipse[ellipse])
    d, e = np.array([mx - cx, my - cy]), np.array([nx - cx, ny - cy])
    away = _away(v, other)

    def at(angle: float) -> Array:
        return np.array([cx, cy]) + math.cos(angle) * d + math.sin(angle) * e

    def slope(angle: float) -> float:
        """How fast the distance from the other curve grows along the ellipse."""
        speed = math.cos(angle) * e - math.sin(angle) * d
        return float(away(at(angle))[1] @ speed)

    angles = np.linspace(0, 2 * math.pi, 181)
    slopes = [slope(a) for a in angles]
    found = [
        scipy.optimize.brentq(slope, a, b, xtol=1e-15, rtol=1e-15) if fa * fb < 0 else a
        for a, b, fa, fb in zip(angles, angles[1:], slopes, slopes[1:], strict=False)
        if fa * fb < 0 or fa == 0
    ]
    best = at(min(found, key=lambda a: abs(away(at(a))[0]), default=0.0))
    return v.new(float(best[0]) * v.size), v.new(float(best[1]) * v.size)


def _away(v: Variables, curve: str) -> Callable[[Array], tuple[float, Array]]:
    """How far a place lies from a curve, signed, and the direction in which that grows (scaled as it comes)."""
    if curve in v.lines:
        a, b = (np.array(v.at(p)) for p in v.lines[curve])
        u = (b - a) / (math.hypot(*(b - a)) or 1.0)
        n = np.array([-u[1], u[0]])
        return lambda p: (float((p - a) @ n), n)
    if curve in v.radius:
        o, r = np.array(v.at(v.point[f"{curve}.c"])), v.data[v.radius[curve]]
        return lambda p: (math.hypot(*(p - o)) - r, p - o)
    o, m, n = (np.array(v.at(p)) for p in v.ellipse[curve])
    d, e = m - o, n - o

    def from_ellipse(p: Array) -> tuple[float, Array]:
        along, across = (p - o) @ d / (d @ d), (p - o) @ e / (e @ e)
        return math.hypot(along, across) - 1, along * d / (d @ d) + across * e / (e @ e)

    return from_ellipse


def _between_ellipses(v: Variables, owner: str, one: str, two: str, at: Pair) -> None:
    """Both ellipses run along a short segment from ``at``, whose length does not matter."""
    (cx, cy), (mx, my), (nx, ny) = (v.at(p) for p in v.ellipse[one])
    x, y = v.at(at)
    angle = free_curves.anomaly((cx, cy), ((mx - cx, my - cy), (nx - cx, ny - cy)), (x, y))
    ux = math.cos(angle) * (nx - cx) - math.sin(angle) * (mx - cx)
    uy = math.cos(angle) * (ny - cy) - math.sin(angle) * (my - cy)
    size = math.hypot(ux, uy) or 1.0
    far = (v.new((x + 0.1 * ux / size) * v.size), v.new((y + 0.1 * uy / size) * v.size))
    v.add(R.SPAN, (*far, *at, GROUND, GROUND), owner, 0.1, 0.0, 0.0)
    for ellipse in (one, two):
        v.lean(at, ellipse, at, far, owner)
