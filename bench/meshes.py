"""Rows on meshes held beside a part."""

from __future__ import annotations

import numpy as np

from sulvak_core.exchange.mesh_files import stl
from sulvak_core.meshes.compare import compare
from sulvak_core.meshes.fit import fit
from sulvak_core.meshes.read import read_mesh
from sulvak_core.part.reference import ReferenceMesh
from sulvak_core.rebuild.engine import build

from .solid import plate
from .timing import median


def scanned() -> str:
    """a mesh of 60 steps' part in some 100,000 triangles: read and every place measured; laid on the part | – | –"""
    document = plate(30)
    made = build(document)
    data = finer(stl(document, made.state, 0.01).data, 100_000)
    asked = ReferenceMesh(id="r1", file="0" * 64)
    moved = asked.model_copy(update={"turn": (20.0, -35.0, 100.0), "at": (30.0, 80.0, -7.0)})
    found = read_mesh(data)
    measured = median(lambda: compare(made.state.bodies, read_mesh(data), asked), 3)
    laid = median(lambda: fit(made.state.bodies, found, moved), 3)
    return f"{measured:.2f} s; {laid:.2f} s ({len(found.triangles):,} triangles)"


def finer(data: bytes, count: int) -> bytes:
    """A binary STL file with its triangles halved across their longest sides until there are so many."""
    row = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("more", "<u2")])
    corners = np.frombuffer(data, row, offset=84)["corners"].astype(float)
    while len(corners) < count:
        sides = np.linalg.norm(np.roll(corners, -1, axis=1) - corners, axis=2)
        k = sides.argmax(axis=1)
        each = np.arange(len(corners))
        a, b, c = corners[each, k], corners[each, (k + 1) % 3], corners[each, (k + 2) % 3]
        middle = (a + b) / 2
        corners = np.concatenate([np.stack([a, middle, c], axis=1), np.stack([middle, b, c], axis=1)])
    rows = np.zeros(len(corners), row)
    rows["corners"] = corners
    return b"bench".ljust(80) + np.uint32(len(corners)).tobytes() + rows.tobytes()


ROWS = [scanned]

if __name__ == "__main__":
    for work in ROWS:
        print(work.__doc__, work())
