"""Triangles and edge lines for the screen and for STL, and their compact binary form.

The binary form (little-endian), made for sending: ``b"SVM1"``, then uint32 counts of vertices,
triangles, faces, edge points and edges; the box (6 × float32); positions as 3 × uint16 of the box;
normals as 2 × int8 (octahedral; Cigolle et al., JCGT 3(2), 2014) padded to a multiple of 4;
triangles as 3 × uint16 or uint32 (uint32 from 65,536 vertices), padded; per face uint32 first
triangle; edge points as 3 × uint16 of the box, padded; per edge uint32 first point.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepMesh import BRepMesh_IncrementalMesh
from OCP.BRepTools import BRepTools_WireExplorer
from OCP.GCPnts import GCPnts_TangentialDeflection
from OCP.GeomAbs import GeomAbs_Line, GeomAbs_Plane
from OCP.TopAbs import TopAbs_FORWARD, TopAbs_REVERSED
from OCP.TopExp import TopExp
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS

from .edge_convexity import edges_of
from .frame import on_plane
from .measure import box, surface
from .shapes import Remembered, Shape, ShapeMap, Solid, compound, faces, lies_on, wires

Array = NDArray[np.float64]
Index = NDArray[np.int64]


@dataclass
class Mesh:
    """``points`` (n,3) mm, ``normals`` (n,3), ``triangles`` (m,3); ``face_start`` first triangle of each face;
    ``edge_points`` (k,3); ``edge_start`` first point of each edge."""

    points: Array
    normals: Array
    triangles: Index
    face_start: list[int]
    edge_points: Array
    edge_start: list[int]


KEPT = 20_000  # faces and edges whose triangles or lines are kept
ANGLE = 0.17  # radians between one chord and the next
SMALL = 1 / 50  # of a solid's diagonal (a thousand default deflections): a round face of a smaller radius …
COARSER = 2.0  # … takes so much wider a turn from chord to chord, which nobody sees


@dataclass(frozen=True)
class _Patch:
    """The triangles of one face."""

    points: Array
    normals: Array
    triangles: Index


_patches: Remembered[_Patch] = Remembered(KEPT)
_fills: Remembered[_Patch | None] = Remembered(KEPT)
_lines: Remembered[Array] = Remembered(KEPT)


def default_deflection(solid: Solid) -> float:
    """A thousandth of a solid's diagonal in mm, in steps of √2, so that a small change meshes no other faces anew."""
    lo, hi = box(solid.shape)
    wanted = max(math.dist(lo, hi) / 1000, 1e-4)
    return float(2 ** (math.floor(2 * math.log2(wanted)) / 2))


def mesh(solid: Solid, solid_edges: list[Shape], deflection: float | None = None, angle: float = ANGLE) -> Mesh:
    """Triangulate a solid. ``deflection`` in mm (see ``default_deflection``), ``angle`` in radians.

    Round faces are the kernel's; flat ones are filled between the points that their neighbours have on their edges, so
    that the mesh has no gaps. The kernel itself takes the square of the number of holes for a flat face.
    """
    d = deflection or default_deflection(solid)
    every = faces(solid.shape)
    flat = [lies_on(f).GetType() == GeomAbs_Plane for f in every]
    round_ = [f for f, is_flat in zip(every, flat, strict=True) if not is_flat]
    # the large ones first: where a small one meets a large one it takes the places that are there
    small = SMALL * 1000 * d
    for some, turn in ((False, angle), (True, COARSER * angle)):
        if chosen := [f for f in round_ if _is_small(f, small) == some]:
            BRepMesh_IncrementalMesh(compound(chosen), d, False, turn, False)
    beside: ShapeMap[Shape] = ShapeMap()
    for face in round_:
        for edge in edges_of(face):
            beside.put(edge, face)
    parts = [_filled(f, beside, d, angle) if is_flat else _patch(f) for f, is_flat in zip(every, flat, strict=True)]
    points, normals, triangles, starts = [], [], [], []
    count = done = 0
    for part in parts:
        starts.append(done)
        points.append(part.points)
        normals.append(part.normals)
        triangles.append(part.triangles + count)
        count, done = count + len(part.points), done + len(part.triangles)
    lines, line_starts, total = [], [], 0
    for edge in solid_edges:
        line_starts.append(total)
        if BRep_Tool.Degenerated_s(edge):
            continue
        line = _lines.get(edge, (d, angle), lambda e=edge: _line(e, d, angle))  # type: ignore[misc]
        lines.append(line)
        total += len(line)
    none = np.zeros((0, 3))
    return Mesh(
        np.concatenate(points) if points else none,
        np.concatenate(normals) if normals else none,
        np.concatenate(triangles) if triangles else none.astype(np.int64),
        starts,
        np.concatenate(lines) if lines else none,
        line_starts,
    )


def _is_small(face: Shape, radius: float) -> bool:
    s = surface(face)
    return 0 < s.radius < radius


def _line(edge: Shape, d: float, angle: float) -> Array:
    walk = GCPnts_TangentialDeflection(BRepAdaptor_Curve(edge), angle / 2, d)
    return np.array([(q.X(), q.Y(), q.Z()) for q in (walk.Value(i) for i in range(1, walk.NbPoints() + 1))])


def _triangulation(face: Shape) -> tuple[Any, Any]:
    """The kernel's triangles of a face, None if it has none, and where they are moved to."""
    location = TopLoc_Location()
    t = BRep_Tool.Triangulation_s(face, location)
    return t, None if location.IsIdentity() else location.Transformation()


def _patch(face: Shape) -> _Patch:
    """A face as the kernel has triangulated it."""
    t, moved = _triangulation(face)
    if t is None:
        return _Patch(np.zeros((0, 3)), np.zeros((0, 3)), np.zeros((0, 3), dtype=np.int64))

    def taken() -> _Patch:
        nodes = [t.Node(i) for i in range(1, t.NbNodes() + 1)]
        if moved is not None:
            nodes = [n.Transformed(moved) for n in nodes]
        p = np.array([(n.X(), n.Y(), n.Z()) for n in nodes])
        tri = np.array([t.Triangle(i).Get() for i in range(1, t.NbTriangles() + 1)], dtype=np.int64) - 1
        if face.Orientation() == TopAbs_REVERSED:
            tri = tri[:, ::-1]
        a, b, c = (p[tri[:, k]] for k in range(3))
        tri = tri[np.linalg.norm(np.cross(b - a, c - a), axis=1) > 0]  # none without an area
        return _Patch(p, _normals(face, p, tri), tri)

    return _patches.get(face, (t.NbNodes(), t.NbTriangles(), t.Deflection()), taken)


def _filled(face: Shape, beside: ShapeMap[Shape], d: float, angle: float) -> _Patch:
    """A flat face filled between the points on its edges (constrained Delaunay triangles)."""
    s = surface(face)
    frame = on_plane(s.at, s.direction)
    axes = np.array([frame.x, frame.y]).T
    rings = [_ring(wire, face, beside, d, angle) for wire in wires(face)]
    points = np.concatenate(rings)

    def filled() -> _Patch | None:
        tri = _between(rings, points, axes)
        return None if tri is None else _Patch(points, np.broadcast_to(np.array(s.direction), points.shape), tri)

    patch = _fills.get(face, (points.tobytes(),), filled)
    if patch is None:  # loops that touch or cross within the kernel's tolerance
        BRepMesh_IncrementalMesh(face, d, False, angle, False)
        return _patch(face)
    return patch


def _between(rings: list[Array], points: Array, axes: Array) -> Index | None:
    """Triangles between the loops of a flat face; None where the loops cannot be filled."""
    plane = [ring @ axes for ring in rings]
    plane.sort(key=lambda ring: -abs(_area(ring)))
    if any(len(ring) < 3 for ring in plane):
        return None
    shape = shapely.Polygon(plane[0], plane[1:])
    return _triangles(shape, points @ axes) if shapely.is_valid(shape) else None


def _triangles(shape: shapely.Polygon, at: Array) -> Index | None:
    """Triangles as places in ``at`` (all corners of the shape), counter-clockwise; None if they do not fill it."""
    corners = shapely.get_coordinates(shapely.constrained_delaunay_triangles(shape)).reshape(-1, 4, 2)[:, :3]
    # places are told apart as complex numbers, which numpy sorts by both of their parts
    place, wanted = at[:, 0] + 1j * at[:, 1], corners[..., 0] + 1j * corners[..., 1]
    order = np.argsort(place)
    known = place[order]
    if np.any(known[1:] == known[:-1]):
        return None
    where = np.minimum(np.searchsorted(known, wanted), len(known) - 1)
    if np.any(known[where] != wanted):
        return None
    tri = order[where]
    a, b, c = (at[tri[:, k]] for k in range(3))
    twice = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0])
    if not math.isclose(float(np.abs(twice).sum()) / 2, shape.area, rel_tol=1e-9):
        return None
    return np.where((twice < 0)[:, None], tri[:, ::-1], tri)


def _area(ring: Array) -> float:
    x, y = ring[:, 0], ring[:, 1]
    return float(np.dot(x, np.roll(y, -1)) - np.dot(y, np.roll(x, -1))) / 2


def loop_places(wire: Shape, face: Shape, off: float) -> Array:
    """Places (n × 3, mm) round a loop of a flat face, each once; lines between them lie off it by ``off`` at most."""
    return _ring(wire, face, ShapeMap(), off, ANGLE)


def _ring(wire: Shape, face: Shape, beside: ShapeMap[Shape], d: float, angle: float) -> Array:
    """The places round a loop of a flat face, each once."""
    runs = []
    walk = BRepTools_WireExplorer(wire, face)
    while walk.More():
        edge = walk.Current()
        run = _along(edge, beside.get(edge), d, angle)
        runs.append((run[::-1] if edge.Orientation() == TopAbs_REVERSED else run)[:-1])
        walk.Next()
    return np.concatenate(runs)


def _along(edge: Shape, neighbour: Shape | None, d: float, angle: float) -> Array:
    """Places along an edge in its own direction: those of the round face beside it, which has them already."""
    if neighbour is not None:
        t, _ = _triangulation(neighbour)
        on = BRep_Tool.PolygonOnTriangulation_s(edge, t, TopLoc_Location()) if t is not None else None
        if on is not None:
            patch = _patch(neighbour)
            return patch.points[[on.Node(i) - 1 for i in range(1, on.NbNodes() + 1)]]
    if BRepAdaptor_Curve(edge).GetType() == GeomAbs_Line:
        ends = TopExp.FirstVertex_s(edge), TopExp.LastVertex_s(edge)
        return np.array([(p.X(), p.Y(), p.Z()) for p in map(BRep_Tool.Pnt_s, ends)])
    forward = TopoDS.Edge(edge.Oriented(TopAbs_FORWARD))
    return _lines.get(forward, (d, angle), lambda: _line(forward, d, angle))


def _normals(face: Shape, p: Array, tri: Index) -> Array:
    s = surface(face)
    if s.kind == "cylinder":
        axis = np.array(s.direction)
        out = p - np.array(s.at)
        out -= np.outer(out @ axis, axis)
        out /= np.maximum(np.linalg.norm(out, axis=1), 1e-300)[:, None]
        return -out if s.hollow else out
    if s.kind == "plane":
        return np.broadcast_to(np.array(s.direction), p.shape)
    a, b, c = p[tri[:, 0]], p[tri[:, 1]], p[tri[:, 2]]
    flat = np.cross(b - a, c - a)
    n = np.zeros_like(p)
    for k in range(3):
        np.add.at(n, tri[:, k], flat)
    return n / np.maximum(np.linalg.norm(n, axis=1), 1e-300)[:, None]


def _octahedral(n: Array) -> NDArray[np.int8]:
    n = n / np.maximum(np.abs(n).sum(axis=1), 1e-300)[:, None]
    low = n[:, 2] < 0
    x = np.where(low, (1 - np.abs(n[:, 1])) * np.where(n[:, 0] >= 0, 1, -1), n[:, 0])
    y = np.where(low, (1 - np.abs(n[:, 0])) * np.where(n[:, 1] >= 0, 1, -1), n[:, 1])
    return np.round(np.stack([x, y], axis=1) * 127).astype(np.int8)


def _padded(data: bytes) -> bytes:
    return data + b"\0" * (-len(data) % 4)


def packed(m: Mesh) -> bytes:
    """The binary form described above."""
    every = np.concatenate([m.points, m.edge_points]) if len(m.points) else np.zeros((1, 3))
    lo, hi = every.min(axis=0), every.max(axis=0)
    span = np.where(hi - lo > 0, hi - lo, 1.0)

    def grid(p: Array) -> bytes:
        return _padded(np.round((p - lo) / span * 65535).astype("<u2").tobytes())

    wide = "<u4" if len(m.points) > 65535 else "<u2"
    counts = (len(m.points), len(m.triangles), len(m.face_start), len(m.edge_points), len(m.edge_start))
    return b"".join(
        [
            b"SVM1",
            np.array(counts, dtype="<u4").tobytes(),
            np.concatenate([lo, hi]).astype("<f4").tobytes(),
            grid(m.points),
            _padded(_octahedral(m.normals).tobytes()),
            _padded(m.triangles.astype(wide).tobytes()),
            np.array(m.face_start, dtype="<u4").tobytes(),
            grid(m.edge_points),
            np.array(m.edge_start, dtype="<u4").tobytes(),
        ]
    )


def stl(meshes: list[Mesh], title: str) -> bytes:
    """Binary STL of several meshes: 80 bytes of title, count, 50 bytes a triangle; mm."""
    parts = []
    for m in meshes:
        corners = m.points[m.triangles]
        n = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        n /= np.maximum(np.linalg.norm(n, axis=1), 1e-300)[:, None]
        record = np.zeros(len(corners), dtype=[("n", "<f4", 3), ("v", "<f4", (3, 3)), ("a", "<u2")])
        record["n"], record["v"] = n, corners
        parts.append(record.tobytes())
    count = sum(len(m.triangles) for m in meshes)
    head = f"Sulvak {title}".encode("ascii", "replace")[:80].ljust(80)
    return head + np.uint32(count).tobytes() + b"".join(parts)
