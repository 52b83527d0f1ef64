"""What a cutter of a diameter can get at from one direction, on a grid of heights.

Looked at along its axis, the part is a field of heights H. A flat-ended cutter whose middle is at a place can go down
to the greatest height under its disk (a dilation of H by the disk); what stands over a place after it has been
everywhere is the least of that over the disks that cover the place (an erosion): the closing of H, in words of image
morphology (Serra 1982). Where the closing comes down to the surface, the cutter reaches it.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from .patches import Patches

Array = NDArray[np.float64]
CELLS = 220  # along the longer side of the grid
FEW = 6  # cells across a cutter's radius, where that does not make the grid too large
MOST = 480  # cells along a side
UPRIGHT = 0.05  # cosine to the direction: what is steeper is a wall, looked at from beside it
LEAST = 1.0  # cells: a radius below that is no cutter that the grid can show


@dataclass
class HeightField:
    """Heights along ``way`` (mm) on a grid of cells, −inf beside the part; ``closed``: what a cutter leaves."""

    way: Array
    along: Array
    across: Array
    low: Array  # the grid's corner in the plane, mm
    cell: float
    heights: Array
    closed: Array

    def index(self, places: Array) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        """The cells that places lie in, held to the grid."""
        u = np.floor((places @ self.along - self.low[0]) / self.cell).astype(np.int64)
        v = np.floor((places @ self.across - self.low[1]) / self.cell).astype(np.int64)
        return np.clip(u, 0, self.heights.shape[0] - 1), np.clip(v, 0, self.heights.shape[1] - 1)


def height_field(p: Patches, way: Array, radius: float, stands_out: float = 0.0, holder: float = 0.0) -> HeightField:
    """The part seen from ``way`` (towards where the cutter comes from), for a cutter of ``radius`` that ``stands_out``
    (0: as far as is needed) from a holder of the radius ``holder`` (mm)."""
    k = int(np.argmax(np.abs(way)))
    along, across = np.eye(3)[(k + 1) % 3], np.eye(3)[(k + 2) % 3]
    flat = p.corners.reshape(-1, 3)
    u, v, h = flat @ along, flat @ across, flat @ way
    room = 2.5 * radius
    low = np.array([u.min() - room, v.min() - room])
    high = np.array([u.max() + room, v.max() + room])
    longer = float((high - low).max())
    cell = max(min(longer / CELLS, radius / FEW), longer / MOST)
    n, m = (math.ceil(s / cell) for s in high - low)
    top = float(h.max()) + 1.0
    i, j = np.meshgrid(np.arange(n), np.arange(m), indexing="ij")
    start = (
        (low[0] + (i.ravel() + 0.5) * cell)[:, None] * along
        + (low[1] + (j.ravel() + 0.5) * cell)[:, None] * across
        + top * way
    )
    far, hit = p.rays.first(start, np.broadcast_to(-way, start.shape))
    heights = np.where(hit < 0, float(h.min()) - 1.0, top - far).reshape(n, m)
    tip = dilated(heights, radius / cell)
    if stands_out > 0 and holder > radius:
        tip = np.maximum(tip, dilated(heights, holder / cell) - stands_out)
    closed = -dilated(-tip, radius / cell)
    return HeightField(way, along, across, low, cell, heights, closed)


def dilated(heights: Array, radius: float) -> Array:
    """The greatest height under a disk of ``radius`` (cells) about each cell: row by row of the disk, so that a large
    one costs little more than a small one."""
    r = max(math.floor(radius), 0)
    wide = np.pad(heights, ((r, r), (0, 0)), mode="symmetric")
    made = np.full_like(heights, -np.inf)
    for i in range(-r, r + 1):
        across = math.floor(math.sqrt(radius * radius - i * i)) if radius >= abs(i) else 0
        row = wide[r + i : r + i + len(heights)]
        np.maximum(made, ndimage.maximum_filter1d(row, 2 * across + 1, axis=1), out=made)
    return made


def reached(field: HeightField, p: Patches) -> NDArray[np.bool_]:
    """Which small triangles the cutter gets at: with its end, or along a wall with its side."""
    places, out = p.middles, p.outward
    rise = out @ field.way
    slack = 1.5 * field.cell
    # beside a wall the cutter stands before it: look a cell out from the surface
    level = out - rise[:, None] * field.way
    size = np.linalg.norm(level, axis=1, keepdims=True)
    aside = np.divide(level, size, out=np.zeros_like(level), where=size > 1e-9) * (1.6 * field.cell)
    i, j = field.index(places + aside)
    height = places @ field.way
    steep = np.divide(size[:, 0], rise, out=np.zeros_like(rise), where=rise > UPRIGHT)
    allowed = slack * np.minimum(1 + steep, 4.0)  # on a slope heights change from cell to cell
    made: NDArray[np.bool_] = (rise > -1e-6) & (field.closed[i, j] <= height + allowed)
    return made
