"""Ellipses and splines as curves: places on them, where they meet others, pieces of them.

What lines and circles answer in closed form (``curves``) is answered here by sampling and Newton's method.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
import scipy  # its parts are loaded when they are first used: many a build needs none
from numpy.typing import NDArray

from .lettering import Span
from .model import XY, Arc, Circle, Ellipse, EllipseArc, Line, Spline, sweep_of

Array = NDArray[np.float64]
Bent = Ellipse | EllipseArc | Spline
SAMPLES = 48  # per span of a spline and per quarter of an ellipse


# -- splines ----------------------------------------------------------------------------------


@lru_cache(maxsize=256)
def _basis(form: str, count: int, knots: tuple[float, ...]) -> Any:
    """The curve as a linear map of its points: a piecewise cubic with one component per point."""
    points = np.eye(count)
    if form == "through":
        # no bend at the ends: the natural spline (de Boor, A Practical Guide to Splines, chapter IV)
        natural = scipy.interpolate.CubicSpline(knots, points, bc_type="natural")
        return scipy.interpolate.PPoly(natural.c, natural.x)
    # clamped, its inner knots evenly spaced
    degree = min(3, count - 1)
    inner = np.linspace(0, 1, count - degree + 1)
    t = np.concatenate([np.zeros(degree), inner, np.ones(degree)])
    each = [scipy.interpolate.PPoly.from_spline((t, unit, degree)) for unit in points]
    return scipy.interpolate.PPoly(np.stack([p.c for p in each], axis=2), each[0].x)


def spans(spline: Spline) -> list[Span]:
    """A spline as cubic Béziers end to end."""
    base = _basis(spline.form, len(spline.points), tuple(spline.knots))
    points = np.array(spline.points)
    found: list[Span] = []
    for i in range(len(base.x) - 1):
        h = base.x[i + 1] - base.x[i]
        if h <= 0:
            continue  # a knot that stands more than once
        rows = base.c[:, i, :] @ points  # highest power first
        powers = np.zeros((4, 2))
        for k in range(len(rows)):
            powers[k] = rows[len(rows) - 1 - k] * h**k
        b0 = powers[0]
        b1 = b0 + powers[1] / 3
        b2 = b0 + 2 * powers[1] / 3 + powers[2] / 3
        b3 = powers.sum(axis=0)
        found.append(tuple((float(x), float(y)) for x, y in (b0, b1, b2, b3)))  # type: ignore[arg-type]
    first, last = spline.points[0], spline.points[-1]
    found[0] = (first, *found[0][1:])
    found[-1] = (*found[-1][:3], last)
    return found


def heading_weights(spline: Spline, end: str) -> list[float]:
    """How a spline's first (``p``) or last (``q``) derivative hangs on its points: the sum of weight · point."""
    base = _basis(spline.form, len(spline.points), tuple(spline.knots)).derivative()
    at = base.x[0] if end == "p" else base.x[-1] - 1e-15
    weights = base(at)
    return [0.0 if abs(w) < 1e-12 else float(w) for w in weights]


# -- one face for all curves --------------------------------------------------------------------


@dataclass(frozen=True)
class Path:
    """A curve with a parameter from 0 to 1: ``at`` and ``speed`` take arrays and give (n, 2)."""

    curve: Bent | Line | Arc | Circle
    closed: bool
    chunks: int
    _spans: tuple[Span, ...] = ()
    _centre: XY = (0.0, 0.0)
    _axes: tuple[XY, XY] = ((1.0, 0.0), (0.0, 1.0))
    _start: float = 0.0
    _sweep: float = 0.0

    def at(self, t: Array) -> Array:
        if self._spans:
            b, u = self._local(t)
            w = 1 - u
            return (
                w[:, None] ** 3 * b[:, 0] + 3 * (w * w * u)[:, None] * b[:, 1]
                + 3 * (w * u * u)[:, None] * b[:, 2] + u[:, None] ** 3 * b[:, 3]
            )  # fmt: skip
        if isinstance(self.curve, Line):
            p, q = np.array(self.curve.p), np.array(self.curve.q)
            return p + t[:, None] * (q - p)
        angle = self._start + t * self._sweep
        d, e = np.array(self._axes[0]), np.array(self._axes[1])
        return np.array(self._centre) + np.cos(angle)[:, None] * d + np.sin(angle)[:, None] * e

    def speed(self, t: Array) -> Array:
        if self._spans:
            b, u = self._local(t)
            w = 1 - u
            d = np.diff(b, axis=1)
            s = 3 * ((w * w)[:, None] * d[:, 0] + 2 * (w * u)[:, None] * d[:, 1] + (u * u)[:, None] * d[:, 2])
            return s * len(self._spans)
        if isinstance(self.curve, Line):
            return np.tile(np.array(self.curve.q) - np.array(self.curve.p), (len(t), 1))
        angle = self._start + t * self._sweep
        d, e = np.array(self._axes[0]), np.array(self._axes[1])
        return self._sweep * (np.cos(angle)[:, None] * e - np.sin(angle)[:, None] * d)

    def _local(self, t: Array) -> tuple[Array, Array]:
        n = len(self._spans)
        i = np.clip((t * n).astype(int), 0, n - 1)
        return np.array(self._spans)[i], t * n - i

    def samples(self) -> tuple[Array, Array]:
        t = np.linspace(0, 1, self.chunks * SAMPLES + 1)
        return t, self.at(t)


def path(curve: Bent | Line | Arc | Circle) -> Path:
    """Any curve of a sketch as a Path."""
    if isinstance(curve, Line):
        return Path(curve, False, 1)
    if isinstance(curve, Spline):
        found = tuple(spans(curve))
        return Path(curve, False, len(found), found)
    if isinstance(curve, Circle | Arc):
        start, sweep = (0.0, 2 * math.pi) if isinstance(curve, Circle) else sweep_of(curve)
        return Path(curve, isinstance(curve, Circle), 4, (), curve.c, ((curve.r, 0.0), (0.0, curve.r)), start, sweep)
    axes = half_axes(curve)
    if isinstance(curve, Ellipse):
        return Path(curve, True, 4, (), curve.c, axes, 0.0, 2 * math.pi)
    start, sweep = sweep_on(curve)
    return Path(curve, False, 4, (), curve.c, axes, start, sweep)


def half_axes(curve: Ellipse | EllipseArc) -> tuple[XY, XY]:
    """The half axes of an ellipse as vectors (mm)."""
    (cx, cy), (mx, my), (nx, ny) = curve.c, curve.m, curve.n
    return (mx - cx, my - cy), (nx - cx, ny - cy)


def anomaly(centre: XY, axes: tuple[XY, XY], at: XY) -> float:
    """The eccentric anomaly of a place on an ellipse, in radians."""
    (dx, dy), (ex, ey) = axes
    x, y = at[0] - centre[0], at[1] - centre[1]
    return math.atan2((x * ex + y * ey) / (ex * ex + ey * ey), (x * dx + y * dy) / (dx * dx + dy * dy))


def sweep_on(arc: EllipseArc) -> tuple[float, float]:
    """Start and counter-clockwise sweep of an ellipse's arc in eccentric anomaly (radians); the sweep is in (0, 2π]."""
    axes = half_axes(arc)
    start = anomaly(arc.c, axes, arc.p)
    sweep = (anomaly(arc.c, axes, arc.q) - start) % (2 * math.pi)
    return start, sweep if sweep > 1e-12 else 2 * math.pi


def box(curve: Bent, pad: float) -> tuple[float, float, float, float]:
    """Least x, y and most x, y of a curve, ``pad`` mm wider."""
    _, places = path(curve).samples()
    (x0, y0), (x1, y1) = places.min(axis=0), places.max(axis=0)
    more = pad + 2e-3 * max(x1 - x0, y1 - y0)
    return float(x0 - more), float(y0 - more), float(x1 + more), float(y1 + more)


def nearest(one: Path, at: XY) -> tuple[float, float]:
    """Parameter of the place nearest to ``at``, and how far that is (mm)."""
    t, places = one.samples()
    target = np.array(at)
    gaps = np.hypot(*(places - target).T)
    best = (math.inf, 0.0)
    for i in np.argsort(gaps)[:3]:
        now = float(t[i])
        for _ in range(30):
            here, speed = one.at(np.array([now]))[0] - target, one.speed(np.array([now]))[0]
            step = float(here @ speed) / max(float(speed @ speed), 1e-300)
            after = now - step
            after = after % 1.0 if one.closed else min(1.0, max(0.0, after))
            if abs(after - now) < 1e-15:
                break
            now = after
        gap = float(np.hypot(*(one.at(np.array([now]))[0] - target)))
        best = min(best, (gap, now))
    return best[1], best[0]


def parameter(curve: Bent, at: XY, tolerance: float) -> float | None:
    """Where ``at`` stands on a curve, 0 … 1; None if it is not on it."""
    now, gap = nearest(path(curve), at)
    return now if gap <= tolerance else None


def meet(a: Bent | Line | Arc | Circle, b: Bent | Line | Arc | Circle, tolerance: float) -> list[XY]:
    """Where two curves cross or touch, at least one of them bent; in mm."""
    one, two = path(a), path(b)
    t, pa = one.samples()
    u, pb = two.samples()
    # where curves only touch, every place within √(tolerance · size) of it is on both: those are one
    reach = math.sqrt(tolerance * max(float(np.ptp(pa, axis=0).max()), float(np.ptp(pb, axis=0).max()))) + tolerance
    groups: list[list[XY]] = []
    for i, j in _close(pa, pb):
        hit = _newton(one, two, (t[i] + t[i + 1]) / 2, (u[j] + u[j + 1]) / 2, tolerance)
        if hit is None:
            continue
        near = next((g for g in groups if math.dist(g[0], hit) < reach), None)
        if near is None:
            groups.append([hit])
        elif math.dist(near[0], hit) > 1e-3 * tolerance:
            near.append(hit)
    return [(sum(x for x, _ in g) / len(g), sum(y for _, y in g) / len(g)) for g in groups]


def _close(pa: Array, pb: Array) -> list[tuple[int, int]]:
    """Pairs of short chords whose boxes overlap, a little widened."""
    lo_a, hi_a = np.minimum(pa[:-1], pa[1:]), np.maximum(pa[:-1], pa[1:])
    lo_b, hi_b = np.minimum(pb[:-1], pb[1:]), np.maximum(pb[:-1], pb[1:])
    slack = 0.02 * max(float(np.abs(np.diff(pa, axis=0)).max()), float(np.abs(np.diff(pb, axis=0)).max()))
    over = np.ones((len(lo_a), len(lo_b)), dtype=bool)
    for k in (0, 1):
        over &= (lo_a[:, None, k] <= hi_b[None, :, k] + slack) & (lo_b[None, :, k] <= hi_a[:, None, k] + slack)
    return [(int(i), int(j)) for i, j in np.argwhere(over)]


def _newton(one: Path, two: Path, t: float, u: float, tolerance: float) -> XY | None:
    """A place on both curves near the parameters, by least squares so that a touch is found as well."""
    for _ in range(40):
        a, b = one.at(np.array([t]))[0], two.at(np.array([u]))[0]
        gap = a - b
        if float(np.hypot(*gap)) < 1e-3 * tolerance:
            break
        J = np.column_stack([one.speed(np.array([t]))[0], -two.speed(np.array([u]))[0]])
        scale = float(np.abs(J).max()) ** 2
        step = np.linalg.solve(J.T @ J + 1e-14 * scale * np.eye(2), -J.T @ gap)
        step = np.clip(step, -0.05, 0.05)
        t, u = _kept(one, t + float(step[0])), _kept(two, u + float(step[1]))
        if float(np.abs(step).max()) < 1e-15:
            break
    a, b = one.at(np.array([t]))[0], two.at(np.array([u]))[0]
    if float(np.hypot(*(a - b))) > tolerance:
        return None
    return float(a[0]), float(a[1])


def _kept(one: Path, t: float) -> float:
    return t % 1.0 if one.closed else min(1.0, max(0.0, t))


# -- pieces -----------------------------------------------------------------------------------


def cut(line: Sequence[Span], a: float, b: float) -> list[Span]:
    """The Béziers between the parameters a < b, which count 0 … 1 over all of them."""
    n = len(line)
    first, last = min(int(a * n), n - 1), max(0, math.ceil(b * n) - 1)
    found = []
    for i in range(first, last + 1):
        u, v = max(0.0, a * n - i), min(1.0, b * n - i)
        if v - u > 1e-12:
            found.append(_part(line[i], u, v))
    return found


def _part(span: Span, u: float, v: float) -> Span:
    """One Bézier between two parameters, by blossoming (Ramshaw, 1987)."""

    def blossom(a: float, b: float, c: float) -> XY:
        points = list(span)
        for w in (a, b, c):
            points = [((1 - w) * p[0] + w * q[0], (1 - w) * p[1] + w * q[1]) for p, q in itertools.pairwise(points)]
        return points[0]

    return blossom(u, u, u), blossom(u, u, v), blossom(u, v, v), blossom(v, v, v)


def span_area(line: Sequence[Span]) -> float:
    """½∮(x dy − y dx) along Béziers, exact (three Gauss points serve a polynomial of degree five)."""
    b = np.array(line)
    total = 0.0
    for node, weight in zip(*np.polynomial.legendre.leggauss(3), strict=True):
        u = (node + 1) / 2
        w = 1 - u
        at = w**3 * b[:, 0] + 3 * w * w * u * b[:, 1] + 3 * w * u * u * b[:, 2] + u**3 * b[:, 3]
        d = np.diff(b, axis=1)
        speed = 3 * (w * w * d[:, 0] + 2 * w * u * d[:, 1] + u * u * d[:, 2])
        total += weight / 2 * float((at[:, 0] * speed[:, 1] - at[:, 1] * speed[:, 0]).sum())
    return float(total / 2)
