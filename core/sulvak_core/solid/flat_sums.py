"""What flat faces and whole round walls bring to the sums of a solid, in closed form and plain numbers.

Most faces of most parts are flat, between straight and round edges. Their sums come from six moments of the region in
its plane, ∬ uⁱvʲ du dv, each a line integral along the edges by Green's theorem: polynomials along a line, known for a
whole circle, and for arcs taken at Gauss-Legendre points to the last digit. Arrays would cost more here than they save.
"""

from __future__ import annotations

import math
from functools import cache

import numpy as np
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.GeomAbs import GeomAbs_Circle, GeomAbs_Ellipse, GeomAbs_Line
from OCP.TopAbs import TopAbs_REVERSED

from .edge_convexity import edges_of
from .frame import XYZ
from .shapes import Remembered, Shape, lies_on

Moments = tuple[float, float, float, float, float, float]  # 1, u, v, u², uv, v²
Sums = list[float]  # area, its first moments (3), vector area (3), volume, its first (3) and second moments (6)

ORDER = 12  # of the points on a quarter of a turn
WHOLE_TURN = 2 * math.pi - 1e-9
ROUND = 1e-9  # mm, or parts of a turn, by which a wall that goes all round may miss
KEPT = 40_000  # edges

_known: Remembered[Moments] = Remembered(KEPT)


def _xyz(p: object) -> XYZ:
    return p.X(), p.Y(), p.Z()  # type: ignore[attr-defined]


def _dot(a: XYZ, b: XYZ) -> float:
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]


def _less(a: XYZ, b: XYZ) -> XYZ:
    return a[0] - b[0], a[1] - b[1], a[2] - b[2]


def flat(face: Shape, q: XYZ) -> Sums | None:
    """The sums of a flat, forward face about ``q`` in mm; None where an edge is neither straight nor round."""
    axes = lies_on(face).Plane().Position()
    o, x, y = _xyz(axes.Location()), _xyz(axes.XDirection()), _xyz(axes.YDirection())
    d = _less(o, q)
    corner = (_dot(d, x), _dot(d, y))
    where = (*o, *x, *y, *q)
    m = [0.0] * 6
    for edge in edges_of(face):
        known = _known.find(edge, where)  # steps leave most edges of a large face as they were
        if known is None:
            found = _moments(BRepAdaptor_Curve(edge), o, x, y, corner)
            if found is None:
                return None
            known = _known.put(edge, where, found)
        sign = -1.0 if edge.Orientation() == TopAbs_REVERSED else 1.0
        for i in range(6):
            m[i] += sign * known[i]
    n = (x[1] * y[2] - x[2] * y[1], x[2] * y[0] - x[0] * y[2], x[0] * y[1] - x[1] * y[0])
    h = _dot(d, n)
    area, mu, mv, muu, muv, mvv = m
    foot = (h * n[0], h * n[1], h * n[2])
    one = [area * foot[i] + mu * x[i] + mv * y[i] for i in range(3)]
    fifth = h / 5
    two = [
        fifth
        * (
            area * foot[i] * foot[j]
            + mu * (foot[i] * x[j] + x[i] * foot[j])
            + mv * (foot[i] * y[j] + y[i] * foot[j])
            + muu * x[i] * x[j]
            + muv * (x[i] * y[j] + y[i] * x[j])
            + mvv * y[i] * y[j]
        )
        for i in range(3)
        for j in range(i, 3)
    ]
    return [area, *one, *(area * c for c in n), h * area / 3, *(h / 4 * c for c in one), *two]


def _moments(curve: BRepAdaptor_Curve, o: XYZ, x: XYZ, y: XYZ, corner: tuple[float, float]) -> Moments | None:
    """∮ (u, u²/2, uv, u³/3, u²v/2, uv²) dv along an edge; u and v from the foot of the point the sums are about."""
    kind = curve.GetType()
    first, last = curve.FirstParameter(), curve.LastParameter()
    if kind == GeomAbs_Line:
        a, b = _less(_xyz(curve.Value(first)), o), _less(_xyz(curve.Value(last)), o)
        return _along_line(
            corner[0] + _dot(a, x), corner[1] + _dot(a, y), corner[0] + _dot(b, x), corner[1] + _dot(b, y)
        )
    if kind not in (GeomAbs_Circle, GeomAbs_Ellipse):
        return None
    conic = curve.Circle() if kind == GeomAbs_Circle else curve.Ellipse()
    one, two = (conic.Radius(),) * 2 if kind == GeomAbs_Circle else (conic.MajorRadius(), conic.MinorRadius())
    position = conic.Position()
    c, cx, cy = _less(_xyz(conic.Location()), o), _xyz(position.XDirection()), _xyz(position.YDirection())
    centre = (corner[0] + _dot(c, x), corner[1] + _dot(c, y))
    p, r = (one * _dot(cx, x), one * _dot(cx, y)), (two * _dot(cy, x), two * _dot(cy, y))
    if last - first > WHOLE_TURN:
        return _all_round(centre, p, r)
    return _along_arc(centre, p, r, first, last)


def _along_line(u1: float, v1: float, u2: float, v2: float) -> Moments:
    k = v2 - v1
    uu = u1 * u1 + u1 * u2 + u2 * u2
    return (
        k * (u1 + u2) / 2,
        k * uu / 6,
        k * (u1 * (2 * v1 + v2) + u2 * (v1 + 2 * v2)) / 6,
        k * (u1 + u2) * (u1 * u1 + u2 * u2) / 12,
        k * (v1 * (3 * u1 * u1 + 2 * u1 * u2 + u2 * u2) + v2 * (u1 * u1 + 2 * u1 * u2 + 3 * u2 * u2)) / 24,
        k * (u1 * (3 * v1 * v1 + 2 * v1 * v2 + v2 * v2) + u2 * (v1 * v1 + 2 * v1 * v2 + 3 * v2 * v2)) / 12,
    )


def _all_round(c: tuple[float, float], p: tuple[float, float], r: tuple[float, float]) -> Moments:
    """A whole ellipse c + p·cos t + r·sin t: its signed area, and its spread about the centre, a quarter of p² + r²."""
    a = math.pi * (p[0] * r[1] - p[1] * r[0])
    u, v = c
    return (
        a,
        a * u,
        a * v,
        a * (u * u + (p[0] * p[0] + r[0] * r[0]) / 4),
        a * (u * v + (p[0] * p[1] + r[0] * r[1]) / 4),
        a * (v * v + (p[1] * p[1] + r[1] * r[1]) / 4),
    )


@cache
def _gauss() -> list[tuple[float, float]]:
    nodes, weights = np.polynomial.legendre.leggauss(ORDER)
    return list(zip(nodes.tolist(), weights.tolist(), strict=True))


def _along_arc(
    c: tuple[float, float], p: tuple[float, float], r: tuple[float, float], first: float, last: float
) -> Moments:
    spans = max(1, math.ceil((last - first) / (math.pi / 2)))
    half = (last - first) / spans / 2
    m0 = mu = mv = muu = muv = mvv = 0.0
    for k in range(spans):
        middle = first + (2 * k + 1) * half
        for node, weight in _gauss():
            cos, sin = math.cos(middle + half * node), math.sin(middle + half * node)
            u, v = c[0] + p[0] * cos + r[0] * sin, c[1] + p[1] * cos + r[1] * sin
            w = half * weight * (r[1] * cos - p[1] * sin) * u  # u dv
            m0 += w
            mu += w * u / 2
            mv += w * v
            muu += w * u * u / 3
            muv += w * u * v / 2
            mvv += w * v * v
    return m0, mu, mv, muu, muv, mvv


# -- walls all round -------------------------------------------------------------------------------------


def round_wall(face: Shape, q: XYZ) -> Sums | None:
    """The sums of a forward cylinder that goes all round and is cut off square at both ends; None for any other.

    What is odd in the direction outwards cancels, and its square is half the projection square to the axis; along the
    axis all is of second order at most, so that two Gauss-Legendre points give it.
    """
    cylinder = lies_on(face).Cylinder()
    axes, r = cylinder.Position(), cylinder.Radius()
    o, z = _xyz(axes.Location()), _xyz(axes.Direction())
    ends = _square_ends(face, o, z, r)
    if ends is None:
        return None
    right = 1.0 if axes.Direct() else -1.0
    half = (ends[1] - ends[0]) / 2
    weight = 2 * math.pi * r * half
    total = [0.0] * 17
    for node in (-1.0, 1.0):
        h = ends[0] + half * (1 + node / math.sqrt(3))
        d = (o[0] + h * z[0] - q[0], o[1] + h * z[1] - q[1], o[2] + h * z[2] - q[2])
        up = _dot(d, z)
        out = (d[0] - up * z[0], d[1] - up * z[1], d[2] - up * z[2])
        total[0] += weight
        total[7] += right * weight * r / 3
        for i in range(3):
            total[1 + i] += weight * d[i]
            total[8 + i] += right * weight * r / 4 * (d[i] + out[i] / 2)
        k = 11
        for i in range(3):
            for j in range(i, 3):
                across = (1.0 if i == j else 0.0) - z[i] * z[j]
                two = d[i] * d[j] + r * r / 2 * across + (d[i] * out[j] + out[i] * d[j]) / 2
                total[k] += right * weight * r / 5 * two
                k += 1
    return total


def _square_ends(face: Shape, o: XYZ, z: XYZ, r: float) -> tuple[float, float] | None:
    """Between which heights a cylinder's face goes all round, cut off square at both."""
    heights = []
    for edge in edges_of(face):
        curve = BRepAdaptor_Curve(edge)
        if curve.GetType() == GeomAbs_Line:  # the seam
            continue
        if curve.GetType() != GeomAbs_Circle or curve.LastParameter() - curve.FirstParameter() < 2 * math.pi - ROUND:
            return None
        circle = curve.Circle()
        off = _less(_xyz(circle.Location()), o)
        height = _dot(off, z)
        tilt = 1 - abs(_dot(_xyz(circle.Axis().Direction()), z))
        beside = math.dist(off, (height * z[0], height * z[1], height * z[2]))
        if tilt > ROUND or beside > ROUND or abs(circle.Radius() - r) > ROUND:
            return None
        heights.append(height)
    return (min(heights), max(heights)) if len(heights) == 2 else None
