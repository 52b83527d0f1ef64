"""Volume, surface, centre and inertia of solids: the sums over their faces (``face_sums``)."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .face_sums import FaceSums, face_sums
from .frame import XYZ
from .measure import box
from .shapes import KernelError, Shape, Solid, faces

Array = NDArray[np.float64]
FAR = 50.0  # so many times its size away from the origin a body is summed about a place of its own
GAPS = 1e-5  # share of the surface that its normals may fail to close by


@dataclass(frozen=True)
class Bulk:
    """Volume in mm³, surface in mm², centre in mm, inertia matrix about the centre in mm⁵ (times density). ``error`` is
    that of the volume, in mm³: none to speak of but for free forms, and where faces leave gaps between them."""

    volume: float
    area: float
    centre: XYZ
    inertia: tuple[XYZ, XYZ, XYZ]
    error: float = 0.0


def bulk(solid: Solid) -> Bulk:
    """Volume, surface, centre and inertia of a solid. Raises KernelError when its faces do not close."""
    sums, about, reach = _sums(solid.shape)
    volume, centre, inertia = _moments(sums, about)
    rows = tuple((float(r[0]), float(r[1]), float(r[2])) for r in inertia)
    # moved by so much as the body is large, what does not close would count so much
    error = sum(s.error for s in sums) + _open_by(sums) * reach / 3
    return Bulk(volume, sum(s.area for s in sums), centre, rows, error)  # type: ignore[arg-type]


def moments(shape: Shape) -> tuple[float, XYZ, Array]:
    """Volume in mm³, centre in mm, and the inertia matrix about the centre (3 × 3, mm⁵, times density)."""
    sums, about, _ = _sums(shape)
    return _moments(sums, about)


def volume(shape: Shape) -> float:
    """Volume in mm³ of a shape of closed solids."""
    return math.fsum(s.volume for s in _sums(shape)[0])


def volume_if_closed(shape: Shape) -> float | None:
    """The same; None where the faces do not close well enough for a mass. The kernel takes edges for one that lie up to
    their tolerance apart, which after a rounding can be much."""
    sums = _sums(shape)[0]
    return math.fsum(s.volume for s in sums) if _open_by(sums) <= GAPS * sum(s.area for s in sums) else None


def _open_by(sums: list[FaceSums]) -> float:
    """By how much, in mm², the faces of a closed skin fail to point as much one way as the other."""
    return float(np.abs(sum((s.vector for s in sums), np.zeros(3))).max())


def _sums(shape: Shape) -> tuple[list[FaceSums], Array, float]:
    """The sums over all faces, the place they are about, and how far it is across the shape in mm. Faces of a body near
    the origin are summed about that, so that what they give is found again when other faces of the body change."""
    lo, hi = (np.array(corner) for corner in box(shape))
    middle, size = (lo + hi) / 2, float((hi - lo).max())
    about = np.zeros(3) if float(np.abs(middle).max()) < FAR * size else np.round(middle)
    at = (float(about[0]), float(about[1]), float(about[2]))
    return [face_sums(f, at) for f in faces(shape)], about, math.dist(lo, hi)


def _moments(sums: list[FaceSums], about: Array) -> tuple[float, XYZ, Array]:
    mass = math.fsum(s.volume for s in sums)
    open_by = _open_by(sums)
    if not sums or mass == 0 or open_by > GAPS * sum(s.area for s in sums):
        raise KernelError("The mass of this body cannot be worked out; its faces do not close.", f"open by {open_by}")
    centre = sum((s.one for s in sums), np.zeros(3)) / mass
    spread = sum((s.two for s in sums), np.zeros((3, 3))) - mass * np.outer(centre, centre)
    inertia = np.trace(spread) * np.eye(3) - spread
    at = centre + about
    return mass, (float(at[0]), float(at[1]), float(at[2])), inertia
