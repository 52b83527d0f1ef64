"""Planes a sketch can lie on, as frames: an origin and two axes in space. No kernel here."""

from __future__ import annotations

import math
from dataclasses import dataclass

XYZ = tuple[float, float, float]


def dot(a: XYZ, b: XYZ) -> float:
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]


def cross(a: XYZ, b: XYZ) -> XYZ:
    return (a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0])


def scaled(a: XYZ, k: float) -> XYZ:
    return (a[0] * k, a[1] * k, a[2] * k)


def plus(a: XYZ, b: XYZ) -> XYZ:
    return (a[0] + b[0], a[1] + b[1], a[2] + b[2])


def unit(a: XYZ) -> XYZ:
    size = math.sqrt(dot(a, a))
    return scaled(a, 1.0 / size)


@dataclass(frozen=True)
class Frame:
    """A plane with axes: ``x`` and ``y`` are unit and square to each other; the normal is x × y."""

    origin: XYZ
    x: XYZ
    y: XYZ

    @property
    def normal(self) -> XYZ:
        return cross(self.x, self.y)

    def point(self, u: float, v: float) -> XYZ:
        """The point in space of sketch coordinates (u, v)."""
        return plus(self.origin, plus(scaled(self.x, u), scaled(self.y, v)))

    def direction(self, u: float, v: float) -> XYZ:
        return plus(scaled(self.x, u), scaled(self.y, v))


# Z is up; the front view looks along +Y, as the sheet reads
DATUM_FRAMES: dict[str, Frame] = {
    "front": Frame((0.0, 0.0, 0.0), (1.0, 0.0, 0.0), (0.0, 0.0, 1.0)),
    "top": Frame((0.0, 0.0, 0.0), (1.0, 0.0, 0.0), (0.0, 1.0, 0.0)),
    "right": Frame((0.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0)),
}


def on_plane(point: XYZ, normal: XYZ) -> Frame:
    """The frame of a plane as its view on the sheet reads: up is up, and the top view has X to the right.

    The origin is the part's origin dropped square onto the plane, so it stays when the face grows.
    """
    n = unit(normal)
    origin = scaled(n, dot(point, n))
    if abs(n[2]) > 1 - 1e-9:
        x = _clean(unit((1 - n[0] * n[0], -n[0] * n[1], -n[0] * n[2])))  # in the plane, however little that leans
        return Frame(origin, x, cross(n, x))
    up: XYZ = (-n[2] * n[0], -n[2] * n[1], n[0] * n[0] + n[1] * n[1])
    y = unit(up)
    return Frame(origin, _clean(cross(y, n)), _clean(y))


def _clean(a: XYZ) -> XYZ:
    return (a[0] + 0.0, a[1] + 0.0, a[2] + 0.0)
