"""Triangles and edge lines for the screen and for STL, and their compact binary form.

The binary form (little-endian), made for sending: ``b"SVM1"``, then uint32 counts of vertices,
triangles, faces, edge points and edges; the box (6 × float32); positions as 3 × uint16 of the box;
normals as 2 × int8 (octahedral; Cigolle et al., JCGT 3(2), 2014) padded to a multiple of 4;
triangles as 3 × uint16 or uint32 (uint32 from 65,536 vertices), padded; per face uint32 first
triangle; edge points as 3 × uint16 of the box, padded; per edge uint32 first point.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepMesh import BRepMesh_IncrementalMesh
from OCP.GCPnts import GCPnts_TangentialDeflection
from OCP.TopAbs import TopAbs_REVERSED
from OCP.TopLoc import TopLoc_Location

from .measure import box, surface
from .shapes import Shape, Solid, faces

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


def mesh(solid: Solid, solid_edges: list[Shape], deflection: float | None = None, angle: float = 0.17) -> Mesh:
    """Triangulate a solid. ``deflection`` in mm (a thousandth of its diagonal by default), ``angle`` in radians."""
    lo, hi = box(solid.shape)
    diagonal = float(np.linalg.norm(np.subtract(hi, lo)))
    d = deflection or max(diagonal / 1000, 1e-4)
    BRepMesh_IncrementalMesh(solid.shape, d, False, angle, False)
    points, normals, triangles, starts = [], [], [], []
    count = done = 0
    for face in faces(solid.shape):
        starts.append(done)
        location = TopLoc_Location()
        t = BRep_Tool.Triangulation_s(face, location)
        if t is None:
            continue
        moved = None if location.IsIdentity() else location.Transformation()
        nodes = [t.Node(i) for i in range(1, t.NbNodes() + 1)]
        if moved is not None:
            nodes = [n.Transformed(moved) for n in nodes]
        p = np.array([(n.X(), n.Y(), n.Z()) for n in nodes])
        tri = np.array([t.Triangle(i).Get() for i in range(1, t.NbTriangles() + 1)], dtype=np.int64) - 1
        if face.Orientation() == TopAbs_REVERSED:
            tri = tri[:, ::-1]
        points.append(p)
        normals.append(_normals(face, p, tri))
        triangles.append(tri + count)
        count += len(p)
        done += len(tri)
    lines, line_starts, total = [], [], 0
    for edge in solid_edges:
        line_starts.append(total)
        if BRep_Tool.Degenerated_s(edge):
            continue
        walk = GCPnts_TangentialDeflection(BRepAdaptor_Curve(edge), angle / 2, d)
        line = [walk.Value(i) for i in range(1, walk.NbPoints() + 1)]
        lines.append(np.array([(q.X(), q.Y(), q.Z()) for q in line]))
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


def _normals(face: Shape, p: Array, tri: Index) -> Array:
    s = surface(face)
    if s.kind == "plane":
        return np.broadcast_to(np.array(s.direction), p.shape).copy()
    if s.kind == "cylinder":
        axis = np.array(s.direction)
        out = p - np.array(s.at)
        out -= np.outer(out @ axis, axis)
        out /= np.maximum(np.linalg.norm(out, axis=1), 1e-300)[:, None]
        return -out if s.hollow else out
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
