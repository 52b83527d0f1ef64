"""Triangles from outside: STL (binary and text), 3MF and glTF in one file (GLB), read as they stand in the file.

Nothing in such a file is believed: counts, numbers of corners, trees of parts and figures are looked at before they are
used. STL has no unit; 3MF says its own; glTF is in metres with y up, and is turned so that z is up as the part has it.
"""

from __future__ import annotations

import io
import re
import struct
import zipfile
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..part.errors import Refusal
from ..part.reference import MeshUnit

Array = NDArray[np.float64]
Index = NDArray[np.int64]
MOST = 1_000_000  # triangles
FARTHEST = 1e7  # of a figure in a file, in its own unit
UNPACKED = 500_000_000  # bytes of what is in an archive
DEEPEST = 30  # things within things
PIECES = 20_000  # things put together, at most
HEAD = 84  # bytes ahead of the triangles of a binary STL file
ROW = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("more", "<u2")])
NAMED = re.compile(rb"^[ \t]*(end)?solid[^\n]*\n", re.IGNORECASE | re.MULTILINE)
COMPRESSED = "This file is compressed in a way that Sulvak does not read ({}); save it without."


@dataclass
class MeshIn:
    """``points`` (n, 3) in ``unit`` (None: the file does not say), ``triangles`` (m, 3) that have an area; ``names`` of
    the bodies in it; ``notes``: what is to be known of it. ``loose``: edges that do not lie between two triangles."""

    points: Array
    triangles: Index
    unit: MeshUnit | None
    names: list[str] = field(default_factory=list)
    notes: list[str] = field(default_factory=list)
    loose: int = 0

    @property
    def volume(self) -> float | None:
        """In the file's unit to the third; None where the mesh is not closed."""
        if self.loose:
            return None
        a, b, c = (self.points[self.triangles[:, k]] for k in range(3))
        return float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum() / 6)


def read_mesh(data: bytes) -> MeshIn:
    """What is in a file. Raises Refusal with a way out for what is none of these forms, cut short, empty or wrong."""
    if data[:4] == b"glTF":
        found = _glb(data)
    elif data[:2] == b"PK":
        found = _threemf(data)
    elif len(data) >= HEAD and _says(data) * ROW.itemsize + HEAD == len(data):
        found = _stl(data)
    elif data[:1000].lstrip(b"\xef\xbb\xbf \t\r\n")[:5].lower() == b"solid" and b"\0" not in data[:1000]:
        found = _stl_text(data)
    elif len(data) >= HEAD and _looks_binary(data):
        found = _stl(data)
    else:
        raise Refusal("This is no mesh that Sulvak reads. Bring STL, 3MF or glTF in one file (GLB).")
    return _looked_over(found)


def _says(data: bytes) -> int:
    return int(struct.unpack("<I", data[80:84])[0])


def _looks_binary(data: bytes) -> bool:
    return b"\0" in data[:HEAD] or data[:5].lower() != b"solid"


def _stl(data: bytes) -> MeshIn:
    count, there = _says(data), (len(data) - HEAD) // ROW.itemsize
    if count == 0 or (count > MOST and there < count) or there * 3 < count:
        raise Refusal("This is no mesh that Sulvak reads. Bring STL, 3MF or glTF in one file (GLB).")
    if there < count:
        raise Refusal(f"This STL file is cut short: it says {count} triangles and holds {there}. Export it again.")
    _few(count)
    rows = np.frombuffer(data, ROW, count, HEAD)
    over = len(data) - HEAD - count * ROW.itemsize
    notes = [f"{over} bytes after the last triangle were passed over."] if over else []
    return _of_corners(rows["corners"].astype(float).reshape(-1, 3), notes)


def _few(count: int) -> None:
    if count > MOST:
        raise Refusal(f"This mesh has {count:,} triangles; Sulvak takes {MOST:,}. Export it coarser.")


def _stl_text(data: bytes) -> MeshIn:
    if b"endsolid" not in {w.lower() for w in data[-4000:].split()}:
        raise Refusal("This STL file is cut short: its last solid does not end. Export it again.")
    words = NAMED.sub(b"", data.replace(b"\r", b"\n")).split()  # a solid may be called by any words
    at = [i for i, w in enumerate(words) if w == b"vertex" or w.lower() == b"vertex"]
    _few(len(at) // 3)
    if not at or len(at) % 3:
        raise Refusal("This STL file does not hold three corners for every triangle. Export it again.")
    try:
        corners = np.array([words[i + 1 : i + 4] for i in at]).astype(float)
    except ValueError:
        bad = next(w for i in at for w in words[i + 1 : i + 4] if not _is_figure(w))
        raise Refusal(
            f"In this STL file “{bad[:20].decode(errors='replace')}” stands where a figure should be. Export it again."
        ) from None
    return _of_corners(corners, [])


def _is_figure(word: bytes) -> bool:
    try:
        float(word)
    except ValueError:
        return False
    return True


def _of_corners(corners: Array, notes: list[str]) -> MeshIn:
    """Three corners after three; those that are the same become one."""
    points, same = np.unique(corners, axis=0, return_inverse=True)
    return MeshIn(points, same.reshape(-1, 3).astype(np.int64), None, [], notes)


def _threemf(data: bytes) -> MeshIn:
    import lib3mf

    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            size = sum(i.file_size for i in archive.infolist())
    except (zipfile.BadZipFile, NotImplementedError, OSError):
        raise Refusal("This archive cannot be opened; it may be cut short. Export it again.") from None
    if size > UNPACKED:
        raise Refusal("This 3MF file unpacks to far more than a mesh needs. Export it coarser.")
    model = lib3mf.get_wrapper().CreateModel()
    try:
        model.QueryReader("3mf").ReadFromBuffer(data)
    except Exception:  # whatever the library finds wrong
        raise Refusal("This is not a 3MF file, or it is damaged. Export it again.") from None
    units: dict[Any, MeshUnit] = {
        lib3mf.ModelUnit.MicroMeter: "um",
        lib3mf.ModelUnit.MilliMeter: "mm",
        lib3mf.ModelUnit.CentiMeter: "cm",
        lib3mf.ModelUnit.Inch: "in",
        lib3mf.ModelUnit.Foot: "ft",
        lib3mf.ModelUnit.Meter: "m",
    }
    pieces: list[tuple[Array, Index]] = []
    names: list[str] = []
    left: list[int] = []
    total, seen = 0, 0

    def take(thing: Any, place: Array, depth: int) -> None:
        nonlocal total, seen
        seen += 1
        if depth > DEEPEST or seen > PIECES:
            raise Refusal("This 3MF file puts things into things without end. Export the one piece you need.")
        if thing.IsComponentsObject():
            for k in range(thing.GetComponentCount()):
                part = thing.GetComponent(k)
                own = _matrix(part.GetTransform()) if part.HasTransform() else np.eye(4)
                take(part.GetObjectResource(), place @ own, depth + 1)
            return
        if thing.GetType() in (lib3mf.ObjectType.Support, lib3mf.ObjectType.SolidSupport):
            left.append(1)
            return
        total += thing.GetTriangleCount()
        _few(total)
        points = np.array([v.Coordinates[:] for v in thing.GetVertices()], dtype=float).reshape(-1, 3)
        corners = np.array([t.Indices[:] for t in thing.GetTriangleIndices()], dtype=np.int64).reshape(-1, 3)
        pieces.append((points @ place[:3, :3].T + place[:3, 3], corners))
        if thing.GetName():
            names.append(thing.GetName())

    items = model.GetBuildItems()
    while items.MoveNext():
        item = items.GetCurrent()
        take(
            item.GetObjectResource(), _matrix(item.GetObjectTransform()) if item.HasObjectTransform() else np.eye(4), 0
        )
    notes = ["Supports in it were passed over."] if left else []
    return MeshIn(*_together(pieces), units.get(model.GetUnit(), "mm"), names, notes)


def _matrix(transform: Any) -> Array:
    made = np.eye(4)
    made[:3, :4] = np.array([row[:] for row in transform.Fields], dtype=float).T
    return made


def _together(pieces: list[tuple[Array, Index]]) -> tuple[Array, Index]:
    if not pieces:
        return np.zeros((0, 3)), np.zeros((0, 3), dtype=np.int64)
    starts = np.cumsum([0, *(len(p) for p, _ in pieces[:-1])])
    corners = np.concatenate([c + s for (_, c), s in zip(pieces, starts, strict=True)])
    points, same = np.unique(np.concatenate([p for p, _ in pieces]), axis=0, return_inverse=True)
    return points, same.reshape(-1)[corners].astype(np.int64)


def _glb(data: bytes) -> MeshIn:
    import pygltflib

    broken = Refusal("This GLB file is damaged. Export it again.")
    try:
        file = pygltflib.GLTF2.load_from_bytes(data)
        blob = file.binary_blob() or b""
    except Exception:  # whatever the library stumbles over
        raise broken from None
    if file is None:
        raise broken
    needed = [e for e in file.extensionsRequired or [] if isinstance(e, str) and e != "KHR_texture_transform"]
    if needed:
        raise Refusal(COMPRESSED.format(", ".join(needed)[:80]))
    try:
        pieces, names, notes = _of_scene(file, blob)
    except (TypeError, ValueError, IndexError, AttributeError, KeyError, OverflowError):
        raise broken from None
    points, corners = _together(pieces)
    upright: Array = np.stack([points[:, 0], -points[:, 2], points[:, 1]], axis=1)
    return MeshIn(upright, corners, "m", names, notes)


def _of_scene(file: Any, blob: bytes) -> tuple[list[tuple[Array, Index]], list[str], list[str]]:
    pieces: list[tuple[Array, Index]] = []
    names: list[str] = []
    passed: set[str] = set()
    total, seen = 0, 0

    def take(number: int, place: Array, depth: int) -> None:
        nonlocal total, seen
        seen += 1
        if depth > DEEPEST or seen > PIECES:
            raise Refusal("This GLB file puts things into things without end. Export the one piece you need.")
        node = file.nodes[_number(number, file.nodes)]
        here = place @ _own(node)
        if node.mesh is not None:
            mesh = file.meshes[_number(node.mesh, file.meshes)]
            before = len(pieces)
            for shape in mesh.primitives:
                triangles = _triangles(file, blob, shape)
                if triangles is None:
                    passed.add("lines and points")
                    continue
                points, corners = triangles
                total += len(corners)
                _few(total)
                pieces.append((points @ here[:3, :3].T + here[:3, 3], corners))
            if len(pieces) > before and (node.name or mesh.name):
                names.append(str(node.name or mesh.name))
        for child in node.children or []:
            take(child, here, depth + 1)

    if file.scenes:
        tops = file.scenes[_number(file.scene or 0, file.scenes)].nodes or []
    else:
        tops = range(len(file.nodes))
    for top in tops:
        take(top, np.eye(4), 0)
    return pieces, names, [f"{w.capitalize()} in it were passed over." for w in sorted(passed)]


def _number(number: Any, among: Any) -> int:
    if not isinstance(number, int) or isinstance(number, bool) or not 0 <= number < len(among):
        raise IndexError(number)
    return number


def _own(node: Any) -> Array:
    """Where a node stands in what it is in."""
    if node.matrix:
        return np.array(node.matrix, dtype=float).reshape(4, 4).T
    x, y, z, w = np.array(node.rotation or [0, 0, 0, 1], dtype=float)
    n = x * x + y * y + z * z + w * w
    s = 2 / n if n > 0 else 0.0
    turn = np.array(
        [
            [1 - s * (y * y + z * z), s * (x * y - z * w), s * (x * z + y * w)],
            [s * (x * y + z * w), 1 - s * (x * x + z * z), s * (y * z - x * w)],
            [s * (x * z - y * w), s * (y * z + x * w), 1 - s * (x * x + y * y)],
        ]
    )
    made = np.eye(4)
    made[:3, :3] = turn * np.array(node.scale or [1, 1, 1], dtype=float)
    made[:3, 3] = np.array(node.translation or [0, 0, 0], dtype=float)
    return made


TYPES = {5121: "<u1", 5123: "<u2", 5125: "<u4", 5126: "<f4"}
STRIP, FAN, TRIANGLES = 5, 6, 4


def _values(file: Any, blob: bytes, number: Any, kind: str, allowed: tuple[int, ...]) -> NDArray[Any]:
    """What an accessor gives: a row for each."""
    accessor = file.accessors[_number(number, file.accessors)]
    if accessor.sparse is not None:
        raise Refusal("This GLB file holds its places sparsely, which Sulvak does not read; save it without.")
    if accessor.type != kind or accessor.componentType not in allowed:
        raise ValueError(accessor.type)
    view = file.bufferViews[_number(accessor.bufferView, file.bufferViews)]
    buffer = file.buffers[_number(view.buffer, file.buffers)]
    if buffer.uri:
        raise Refusal("This GLB file leaves its places in another file; save it as one.")
    dtype = np.dtype(TYPES[accessor.componentType])
    wide = 3 if kind == "VEC3" else 1
    each = dtype.itemsize * wide
    step = view.byteStride or each
    start, count = (view.byteOffset or 0) + (accessor.byteOffset or 0), accessor.count
    for n in (start, count, step):
        if not isinstance(n, int) or n < 0:
            raise ValueError(n)
    if count == 0 or step < each or start + step * (count - 1) + each > len(blob):
        raise IndexError(count)
    made = np.ndarray((count, wide), dtype, blob, start, (step, dtype.itemsize))
    return np.array(made)


def _triangles(file: Any, blob: bytes, shape: Any) -> tuple[Array, Index] | None:
    """Places and triangles of a mesh's piece; None where it is made of lines or points."""
    mode = TRIANGLES if shape.mode is None else shape.mode
    if mode not in (TRIANGLES, STRIP, FAN):
        return None
    points = _values(file, blob, shape.attributes.POSITION, "VEC3", (5126,)).astype(float)
    if shape.indices is None:
        order: Index = np.arange(len(points))
    else:
        order = _values(file, blob, shape.indices, "SCALAR", (5121, 5123, 5125)).ravel().astype(np.int64)
    if len(order) and order.max() >= len(points):
        raise IndexError(int(order.max()))
    if mode == STRIP:
        three = np.stack([order[:-2], order[1:-1], order[2:]], axis=1)
        three[1::2] = three[1::2, [1, 0, 2]]
    elif mode == FAN:
        three = np.stack([np.full(max(len(order) - 2, 0), order[0]), order[1:-1], order[2:]], axis=1)
    else:
        if len(order) % 3:
            raise ValueError(len(order))
        three = order.reshape(-1, 3)
    return points, three


def _looked_over(found: MeshIn) -> MeshIn:
    """Refused where it is empty or has impossible figures; without triangles that come to nothing."""
    if not len(found.triangles):
        raise Refusal("There are no triangles in this file.")
    used = found.points[np.unique(found.triangles)]
    if not np.isfinite(used).all() or np.abs(used).max() > FARTHEST:
        raise Refusal("This file has figures that no part can have (not a number, or far too large). Export it again.")
    a, b, c = (found.points[found.triangles[:, k]] for k in range(3))
    area = np.linalg.norm(np.cross(b - a, c - a), axis=1)
    size = float(np.linalg.norm(used.max(axis=0) - used.min(axis=0)))
    whole = area > max(1e-16 * size * size, 1e-300)
    if not whole.any():
        raise Refusal("All triangles in this file are without area.")
    flat = int((~whole).sum())
    notes = [*found.notes, *([f"{flat} triangles without area were left out."] if flat else [])]
    corners = found.triangles[whole]
    return MeshIn(found.points, corners, found.unit, found.names[:200], notes, _loose(found.triangles))


def _loose(triangles: Index) -> int:
    """How many edges are not run through once each way by two triangles; those of no length do not count."""
    start, end = triangles[:, [0, 1, 2]].ravel(), triangles[:, [1, 2, 0]].ravel()
    real = start != end
    start, end = start[real], end[real]
    low, high = np.minimum(start, end), np.maximum(start, end)
    way = np.where(start < end, 1, -1)
    _, inverse, count = np.unique(low * (int(triangles.max()) + 1) + high, return_inverse=True, return_counts=True)
    balance = np.bincount(inverse.reshape(-1), weights=way)
    return int(((balance != 0) | (count < 2)).sum())
