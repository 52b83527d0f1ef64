"""What a face contributes to the area, volume, centre and inertia of the solids it bounds.

By the divergence theorem, with outward normal n and places x: ∫ dV = ⅓ ∮ x·n dA, ∫ xᵢ dV = ¼ ∮ xᵢ (x·n) dA,
∫ xᵢxⱼ dV = ⅕ ∮ xᵢxⱼ (x·n) dA. In a face's own parameters each is an integral over a region of the plane, and by Green's
theorem ∬ g du dv = ∮ G dv with G = ∫ g du: a line integral along the edges. On planes, cylinders, cones, spheres and
tori g is a polynomial in places and in sines and cosines of u, so that Gauss-Legendre points give G to the last digit;
along the edges the integrand is smooth between knots, and the same points converge at once. Free forms are taken the
same way, in both parameters between their knots, with two orders compared: the difference is the error that is told.
Flat faces between lines and arcs, and whole cylinders, have a shorter way (``flat_sums``).

A face is summed once: what an edit leaves as it was is not measured again.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Curve2d, BRepAdaptor_Surface
from OCP.GeomAbs import (
    GeomAbs_BSplineCurve,
    GeomAbs_BSplineSurface,
    GeomAbs_Circle,
    GeomAbs_Cylinder,
    GeomAbs_Ellipse,
    GeomAbs_Line,
    GeomAbs_Plane,
    GeomAbs_SurfaceOfExtrusion,
    GeomAbs_SurfaceOfRevolution,
)
from OCP.gp import gp_Pnt, gp_Pnt2d, gp_Vec, gp_Vec2d
from OCP.TopAbs import TopAbs_FORWARD, TopAbs_REVERSED
from OCP.TopoDS import TopoDS

from .edge_convexity import edges_of
from .elementary import ELEMENTARY, FLAT, Elementary, Plane, cross
from .flat_sums import flat, round_wall
from .frame import XYZ
from .shapes import Remembered, Shape, lies_on

Array = NDArray[np.float64]
Sample = tuple[Array, Array, Array]  # u, v, and dv with the weights of the points

LOW, HIGH = 8, 12
WHOLE = 17  # area, its first moments (3), vector area (3), volume, first (3) and second moments (6)
GOOD = 1e-12  # relative difference of two orders under which nothing is refined
ROUNDS = 3
MOST = 400_000  # places at which a free form is looked at, one face
KEPT = 20_000  # faces


@dataclass(frozen=True)
class FaceSums:
    """Sums over a face about a point: ``area`` (mm²), ``first`` (mm³) its moments, ``vector`` (mm²) the sum of normals,
    ``volume`` (mm³), ``one`` (mm⁴) and ``two`` (mm⁵, 3 × 3) its share of the volume and of its moments. ``error`` is
    that of the volume, mm³, as far as it can be told."""

    area: float
    first: Array
    vector: Array
    volume: float
    one: Array
    two: Array
    error: float


_known: Remembered[FaceSums] = Remembered(KEPT)
_on_planes: Remembered[Array] = Remembered(2 * KEPT)  # what edges bring to the sums of flat faces


def face_sums(face: Shape, about: XYZ = (0.0, 0.0, 0.0)) -> FaceSums:
    """The sums over a face with its outward normal, about a point in mm."""
    plain = TopoDS.Face(face.Oriented(TopAbs_FORWARD))
    found = _known.get(plain, about, lambda: _sums(plain, about))
    if face.Orientation() != TopAbs_REVERSED:
        return found
    f = found
    return FaceSums(f.area, f.first, -f.vector, -f.volume, -f.one, -f.two, f.error)


def _sums(face: Shape, about: XYZ) -> FaceSums:
    total, error = _summed(face, about)
    xx, xy, xz, yy, yz, zz = total[11:]
    two = np.array(((xx, xy, xz), (xy, yy, yz), (xz, yz, zz)))
    one, first, vector = (np.array(total[i : i + 3]) for i in (8, 1, 4))
    return FaceSums(float(total[0]), first, vector, float(total[7]), one, two, error)


def _summed(face: Shape, about: XYZ) -> tuple[Sequence[float] | Array, float]:
    a = lies_on(face)
    kind, q = a.GetType(), np.array(about)
    plain = flat(face, about) if kind == GeomAbs_Plane else None
    plain = round_wall(face, about) if kind == GeomAbs_Cylinder else plain
    if plain is not None:
        return plain, 0.0
    if kind in ELEMENTARY:
        return _on_elementary(face, ELEMENTARY[kind](a), q)
    return _on_free(face, q)


def _integrand(s: Array, n: Array, q: Array) -> Array:
    """All that is summed, at places ``s`` (…, 3) with normals ``n`` (…, 3) as long as the area they stand for."""
    x = s - q
    size = np.sqrt(np.einsum("...i,...i", n, n))
    flux = np.einsum("...i,...i", x, n)
    x0, x1, x2 = x[..., 0], x[..., 1], x[..., 2]
    fifth = flux / 5
    parts = [size, x0 * size, x1 * size, x2 * size, n[..., 0], n[..., 1], n[..., 2], flux / 3]
    parts += [x0 * flux / 4, x1 * flux / 4, x2 * flux / 4]
    parts += [x0 * x0 * fifth, x0 * x1 * fifth, x0 * x2 * fifth, x1 * x1 * fifth, x1 * x2 * fifth, x2 * x2 * fifth]
    return np.stack(parts, axis=-1)


# -- planes, cylinders, cones, spheres, tori ---------------------------------------------------------


def _on_elementary(face: Shape, surface: Elementary, q: Array) -> tuple[Array, float]:
    a = BRepAdaptor_Surface(face)
    plain = isinstance(surface, Plane)
    start = 0.0 if plain else (a.FirstUParameter() + a.LastUParameter()) / 2
    nodes, weights = _gauss(surface.inner)

    def shares(u: Array, v: Array, weight: Array) -> Array:
        """What each place of a curve brings."""
        half = (u - start) / 2
        s = start + half[:, None] * (1 + nodes)
        g = _integrand(*surface.at(s, np.broadcast_to(v[:, None], s.shape)), q)
        return (weight * half)[:, None] * np.tensordot(g, weights, axes=([1], [0]))

    def summed(u: Array, v: Array, weight: Array) -> Array:
        return np.asarray(shares(u, v, weight).sum(axis=0))

    def taken(edge: Shape, curve: BRepAdaptor_Curve, spans: list[tuple[float, float]], order: int) -> Sample:
        t, wt = _spread(spans, order)
        u, v, dv = surface.along(*_curve_at(curve, t))
        return (u if plain else _unwrapped(face, edge, u, float(t[0]))), v, wt * dv

    error = 0.0
    where = tuple(float(c) for c in (*surface.o, *surface.x, *surface.y, *q)) if plain else ()
    parts: list[Array] = []  # of each edge, in order
    fresh: list[tuple[int, float, Shape, Sample]] = []
    for edge in edges_of(face):
        if BRep_Tool.Degenerated_s(edge):
            continue  # the tip of a cone, the pole of a sphere: v stands still there
        sign = -1.0 if edge.Orientation() == TopAbs_REVERSED else 1.0
        if plain and (known := _on_planes.find(edge, where)) is not None:
            parts.append(sign * known)  # steps leave most edges of a large face as they were
            continue
        curve = BRepAdaptor_Curve(edge)
        spans = _spans(curve)
        kind = curve.GetType()
        if kind in (GeomAbs_Line, GeomAbs_Circle, GeomAbs_Ellipse):
            order = LOW if kind == GeomAbs_Line else HIGH
            fresh.append((len(parts), sign, edge, taken(edge, curve, spans, order)))
            parts.append(np.zeros(WHOLE))
            continue
        fine, off = _refined(lambda sp, n, e=edge, c=curve: summed(*taken(e, c, sp, n)), spans)  # type: ignore[misc]
        parts.append(sign * fine)
        error += off
    if fresh:
        every = shares(*(np.concatenate(part) for part in zip(*(sample for *_, sample in fresh), strict=True)))
        starts = np.cumsum([0, *(len(sample[0]) for *_, sample in fresh[:-1])])
        for (at, sign, edge, _), part in zip(fresh, np.add.reduceat(every, starts), strict=True):
            parts[at] = sign * part
            if plain:
                _on_planes.put(edge, where, part)
    return (np.sum(parts, axis=0) if parts else np.zeros(WHOLE)), error


def _unwrapped(face: Shape, edge: Shape, u: Array, t: float) -> Array:
    """Angles that run on along an edge, on the turn on which the face has the edge."""
    u = np.unwrap(u)
    drawn = BRepAdaptor_Curve2d(edge, face).Value(t).X()
    return u + 2 * math.pi * round((drawn - float(u[0])) / (2 * math.pi))


def _refined(take, spans: list[tuple[float, float]]) -> tuple[Array, float]:  # type: ignore[no-untyped-def]
    """``take(spans, order)`` with spans halved until two orders agree; the sum, and how far they are apart at last."""
    for again in range(ROUNDS + 1):
        fine = take(spans, HIGH)
        off = float(abs(fine[7] - take(spans, LOW)[7]))
        if off <= GOOD * (abs(float(fine[7])) + 1e-30) or again == ROUNDS:
            break
        spans = [piece for a, b in spans for piece in ((a, (a + b) / 2), ((a + b) / 2, b))]
    return fine, off


@cache
def _gauss(order: int) -> tuple[Array, Array]:
    nodes, weights = np.polynomial.legendre.leggauss(order)
    return nodes, weights


def _spread(spans: list[tuple[float, float]], order: int) -> tuple[Array, Array]:
    """Gauss-Legendre points and weights over pieces of a parameter."""
    nodes, weights = _gauss(order)
    low, high = np.array(spans).T
    half = (high - low) / 2
    return (low[:, None] + half[:, None] * (1 + nodes)).ravel(), (half[:, None] * weights).ravel()


def _curve_at(a: BRepAdaptor_Curve, t: Array) -> tuple[Array, Array]:
    """Places and speeds along an edge."""
    kind = a.GetType()
    if kind == GeomAbs_Line:
        p, d = _xyz(a.Line().Location()), _xyz(a.Line().Direction())
        return p + t[:, None] * d, np.broadcast_to(d, (len(t), 3))
    if kind in (GeomAbs_Circle, GeomAbs_Ellipse):
        e = a.Circle() if kind == GeomAbs_Circle else a.Ellipse()
        one, two = (e.Radius(), e.Radius()) if kind == GeomAbs_Circle else (e.MajorRadius(), e.MinorRadius())
        x, y = one * _xyz(e.Position().XDirection()), two * _xyz(e.Position().YDirection())
        c, s = np.cos(t)[:, None], np.sin(t)[:, None]
        return _xyz(e.Location()) + c * x + s * y, c * y - s * x
    at, way = gp_Pnt(), gp_Vec()
    found = np.empty((len(t), 6))
    for k, here in enumerate(t.tolist()):
        a.D1(here, at, way)
        found[k] = (at.X(), at.Y(), at.Z(), way.X(), way.Y(), way.Z())
    return found[:, :3], found[:, 3:]


def _xyz(p: object) -> Array:
    return np.array([p.X(), p.Y(), p.Z()])  # type: ignore[attr-defined]


def _spans(a: BRepAdaptor_Curve | BRepAdaptor_Curve2d) -> list[tuple[float, float]]:
    """Pieces of a curve's parameters on which it is smooth and turns little."""
    first, last = a.FirstParameter(), a.LastParameter()
    kind = a.GetType()
    if kind == GeomAbs_Line:
        return [(first, last)]
    if kind == GeomAbs_BSplineCurve:
        curve = a.BSpline()
        knots = [curve.Knot(i) for i in range(1, curve.NbKnots() + 1)]
        return list(itertools.pairwise([first, *(k for k in knots if first < k < last), last]))
    count = 16 if kind not in (GeomAbs_Circle, GeomAbs_Ellipse) else max(1, math.ceil((last - first) / (math.pi / 2)))
    return list(itertools.pairwise(first + (last - first) * k / count for k in range(count + 1)))


# -- free forms ------------------------------------------------------------------------------------------


def _on_free(face: Shape, q: Array) -> tuple[Array, float]:
    """Along the edges as they lie in the face's parameters; what is swept is taken across first: that is plain."""
    a = BRepAdaptor_Surface(face)
    swept = a.GetType() == GeomAbs_SurfaceOfExtrusion  # straight in v, so v is taken first
    marks = [_marks(a, True), _marks(a, False)]
    inner, outer = (marks[1], marks[0]) if swept else (marks[0], marks[1])
    budget = [MOST]

    def edge_sum(curve: BRepAdaptor_Curve2d, spans: list[tuple[float, float]], order: int) -> Array:
        t, wt = _spread(spans, order)
        u, v, du, dv = _curve2d_at(curve, t)
        weight, reach = (-wt * du, v - inner[0]) if swept else (wt * dv, u - inner[0])
        moving = (np.abs(weight) > 1e-14 * max(1e-300, float(np.abs(wt).max()))) & (reach != 0)
        if swept:
            budget[0] -= int(moving.sum())
            return _swept_sum(a, u[moving], reach[moving], weight[moving], inner[0], q)
        across: list[Sample] = []
        for k in np.flatnonzero(moving):
            ends = [inner[0], *(m for m in inner[1:] if m < u[k]), float(u[k])]
            s, ws = _spread(list(itertools.pairwise(ends)), order)
            across.append((s, np.full_like(s, v[k]), weight[k] * ws))
        if not across:
            return np.zeros(WHOLE)
        s, fixed, ws = (np.concatenate(part) for part in zip(*across, strict=True))
        budget[0] -= len(s)
        places, normals = _surface_at(a, s, fixed)
        summed: Array = ws @ _integrand(places, normals, q)
        return summed

    total, error = np.zeros(WHOLE), 0.0
    for edge in edges_of(face):
        curve = BRepAdaptor_Curve2d(edge, face)
        sign = -1.0 if edge.Orientation() == TopAbs_REVERSED else 1.0
        spans = _cut_at(curve, _spans(curve), outer, 0 if swept else 1)
        if budget[0] > 0:
            fine, off = _refined(lambda sp, n, c=curve: edge_sum(c, sp, n), spans)  # type: ignore[misc]
        else:
            fine = edge_sum(curve, spans, LOW)
            off = float(abs(fine[7] - edge_sum(curve, spans, LOW // 2)[7]))
        total, error = total + sign * fine, error + off
    return total, error


def _swept_sum(a: BRepAdaptor_Surface, u: Array, reach: Array, weight: Array, start: float, q: Array) -> Array:
    """What an edge of an extruded face brings: at places ``u`` of the curve that is extruded, from ``start`` along its
    way as far as ``reach``. Along the way the integrand is a polynomial, and the normal stays as it is."""
    if not len(u):
        return np.zeros(WHOLE)
    half = reach / 2
    at, du, dv = gp_Pnt(), gp_Vec(), gp_Vec()
    found = np.empty((len(u), 6))
    for k, x in enumerate(u.tolist()):
        a.D1(x, start, at, du, dv)
        found[k] = (at.X(), at.Y(), at.Z(), du.X(), du.Y(), du.Z())
    way = _xyz(dv)
    nodes, weights = _gauss(FLAT)
    places = found[:, None, :3] + (half[:, None] * (1 + nodes))[..., None] * way
    normals = np.broadcast_to(cross(found[:, 3:], np.broadcast_to(way, (len(u), 3)))[:, None], places.shape)
    summed: Array = np.einsum("kj,kjs->s", (weight * half)[:, None] * weights, _integrand(places, normals, q))
    return summed


def _marks(a: BRepAdaptor_Surface, along_u: bool) -> list[float]:
    """The face's bounds in one parameter, and the knots between them."""
    low, high = (a.FirstUParameter(), a.LastUParameter()) if along_u else (a.FirstVParameter(), a.LastVParameter())
    kind = a.GetType()
    knots: list[float] = []
    if kind == GeomAbs_BSplineSurface:
        s = a.BSpline()
        count = s.NbUKnots() if along_u else s.NbVKnots()
        knots = [(s.UKnot(i) if along_u else s.VKnot(i)) for i in range(1, count + 1)]
    elif (kind == GeomAbs_SurfaceOfExtrusion and along_u) or (kind == GeomAbs_SurfaceOfRevolution and not along_u):
        basis = a.BasisCurve()
        if basis.GetType() == GeomAbs_BSplineCurve:
            spline = basis.BSpline()
            knots = [spline.Knot(i) for i in range(1, spline.NbKnots() + 1)]
        else:
            knots = [low + (high - low) * k / 8 for k in range(1, 8)]
    elif kind == GeomAbs_SurfaceOfRevolution:
        knots = [low + (high - low) * k / 4 for k in range(1, 4)]
    elif kind != GeomAbs_SurfaceOfExtrusion:
        knots = [low + (high - low) * k / 8 for k in range(1, 8)]
    return [low, *(k for k in knots if low + 1e-12 < k < high - 1e-12), high]


def _cut_at(
    curve: BRepAdaptor_Curve2d, spans: list[tuple[float, float]], marks: list[float], which: int
) -> list[tuple[float, float]]:
    """Spans of a straight edge cut where it crosses knots of the surface; of others they are halved where needed."""
    if curve.GetType() != GeomAbs_Line:
        return spans
    (first, last) = spans[0]
    ends = [(p.X(), p.Y())[which] for p in (curve.Value(first), curve.Value(last))]
    if abs(ends[1] - ends[0]) < 1e-14:
        return spans
    at = (first + (last - first) * (m - ends[0]) / (ends[1] - ends[0]) for m in marks)
    return list(itertools.pairwise([first, *sorted(t for t in at if first < t < last), last]))


def _curve2d_at(a: BRepAdaptor_Curve2d, t: Array) -> Array:
    at, way = gp_Pnt2d(), gp_Vec2d()
    found = np.empty((4, len(t)))
    for k, here in enumerate(t.tolist()):
        a.D1(here, at, way)
        found[:, k] = (at.X(), at.Y(), way.X(), way.Y())
    return found


def _surface_at(a: BRepAdaptor_Surface, u: Array, v: Array) -> tuple[Array, Array]:
    """Places, and normals as long as the area a unit of the parameters stands for."""
    at, du, dv = gp_Pnt(), gp_Vec(), gp_Vec()
    found = np.empty((len(u), 9))
    for k, (x, y) in enumerate(zip(u.tolist(), v.tolist(), strict=True)):
        a.D1(x, y, at, du, dv)
        found[k] = (at.X(), at.Y(), at.Z(), du.X(), du.Y(), du.Z(), dv.X(), dv.Y(), dv.Z())
    return found[:, :3], cross(found[:, 3:6], found[:, 6:])
