"""Meshes from outside that are held beside a part: a scan of a made piece, or a shape that somebody sent."""

from __future__ import annotations

import math
from typing import Annotated, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from .callout import Strict

Array = NDArray[np.float64]
MeshUnit = Literal["um", "mm", "cm", "m", "in", "ft"]
MM: dict[MeshUnit, float] = {"um": 1e-3, "mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4, "ft": 304.8}
MOST = 20  # beside a part

ReferenceId = Annotated[str, Field(pattern=r"^r[0-9]{1,6}$")]
Place = Annotated[float, Field(ge=-1e6, le=1e6, allow_inf_nan=False)]
Turn = Annotated[float, Field(ge=-360, le=360, allow_inf_nan=False)]
Within = Annotated[float, Field(gt=0, le=1000, allow_inf_nan=False)]


class ReferenceMesh(Strict):
    """A file of triangles by its SHA-256. ``unit``: of its figures; ``turn``: degrees about the part's x, then y, then
    z; ``at``: where its origin lies then (mm); ``within``: how far it may lie off the part (mm)."""

    id: ReferenceId
    file: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
    name: Annotated[str, Field(max_length=200)] = ""
    unit: MeshUnit = "mm"
    turn: tuple[Turn, Turn, Turn] = (0.0, 0.0, 0.0)
    at: tuple[Place, Place, Place] = (0.0, 0.0, 0.0)
    within: Within = 0.1


def turned(degrees: tuple[float, float, float]) -> Array:
    """The rotation (3, 3) of turns about x, then y, then z."""
    (ca, sa), (cb, sb), (cc, sc) = ((math.cos(math.radians(d)), math.sin(math.radians(d))) for d in degrees)
    x = np.array([[1, 0, 0], [0, ca, -sa], [0, sa, ca]])
    y = np.array([[cb, 0, sb], [0, 1, 0], [-sb, 0, cb]])
    z = np.array([[cc, -sc, 0], [sc, cc, 0], [0, 0, 1]])
    made: Array = z @ y @ x
    return made


def turns_of(rotation: Array) -> tuple[float, float, float]:
    """Turns about x, y and z in degrees that make up a rotation (3, 3)."""
    b = math.asin(min(1.0, max(-1.0, -float(rotation[2, 0]))))
    if abs(rotation[2, 0]) < 1 - 1e-12:
        a = math.atan2(rotation[2, 1], rotation[2, 2])
        c = math.atan2(rotation[1, 0], rotation[0, 0])
    else:  # x and z turn about the same direction: all of it by x
        a, c = math.atan2(-rotation[1, 2], rotation[1, 1]), 0.0
    return (math.degrees(a), math.degrees(b), math.degrees(c))


def placed(points: Array, mesh: ReferenceMesh) -> Array:
    """Places of a file (n, 3), in mm of the part."""
    made: Array = points * MM[mesh.unit] @ turned(mesh.turn).T + np.array(mesh.at)
    return made
