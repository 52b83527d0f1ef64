"""Handles on the part for a step's values: where one stands, and which way it is pulled.

A grip is told as ``path`` (the field of the step), ``name`` (for the reader), ``at`` (mm), ``way`` (mm of pull for one
mm of the value) and ``value`` (mm): its handle stands at ``at`` + ``value`` × ``way``.
"""

from __future__ import annotations

import math
from typing import Any

from ..solid.edge_convexity import into
from ..solid.frame import XYZ, dot, scaled
from ..solid.measure import neighbours
from ..solid.shapes import Shape, Solid, faces


def grip(path: str, name: str, at: XYZ, way: XYZ, value: float) -> dict[str, Any]:
    return {"path": path, "name": name, "at": list(at), "way": list(way), "value": value}


def depths(extent: Any, at: XYZ, forward: XYZ, depth: float, back: float) -> list[dict[str, Any]]:
    """For an extrusion by depth: at its far end, and at the near one where that has a depth of its own. ``forward`` is
    how far it goes for one mm of depth."""
    half = 0.5 if extent.kind == "symmetric" else 1.0
    found = [grip("extent.depth", "Depth", at, scaled(forward, half), depth)]
    if extent.kind == "two_depths":
        found.append(grip("extent.back", "Depth the other way", at, scaled(forward, -1.0), back))
    return found


def sides(solid: Solid, edge: Shape) -> list[Shape]:
    """The two faces beside an edge, the one whose origin comes first before the other; none at an open edge."""
    every = faces(solid.shape)
    both = next((at for e, at in neighbours(solid) if e.IsSame(edge) and len(at) == 2), None)
    return [every[i] for i in sorted(both, key=lambda i: sorted(solid.face_tags(every[i])))] if both else []


def radius(path: str, name: str, solid: Solid, edge: Shape, value: float) -> list[dict[str, Any]]:
    """For a round: where it ends on one of the faces beside its edge, as if these were flat."""
    both = sides(solid, edge)
    if not both:
        return []
    (at, one), (_, two) = (into(edge, face) for face in both)
    between = math.acos(max(-1.0, min(1.0, dot(one, two))))
    reach = math.tan(between / 2)
    if not 0.05 < reach < 20:  # a fold, or nearly flat
        return []
    return [grip(path, name, at, scaled(one, 1 / reach), value)]
