"""What a plane square to the look cuts of a part, with its section lining, as plane curves (ISO 128-3)."""

from __future__ import annotations

import math

import numpy as np
import shapely

from ..part.callout import Side
from ..part.errors import Refusal
from ..solid.frame import Frame, dot, scaled
from ..solid.measure import surface
from ..solid.mesh import loop_places
from ..solid.outline import curves
from ..solid.project import Flat, flat_point, projected
from ..solid.shapes import Shape, edges, faces, wires
from .model_lines import SIDES, Model, Seen

LINING = 2.5  # mm between lines of section lining, where a cut is large enough
OFF = 0.01  # mm that section lining may end off a round edge
NEAR = 1e-6


def section_curves(model: Model, side: Side, at: float, apart: float = LINING) -> dict[str, list[Flat]]:
    """A part cut at a coordinate of its own axis (mm), seen from a side: CUT, OUTLINE, SMOOTH and LINING, mm to the
    right and up from the part's origin. ``apart``: mm of the part from one line of lining to the next. Raises Refusal
    where the plane misses the part."""
    towards, right = SIDES[side]
    depth = at * sum(towards)
    behind = model.behind(Seen(side, depth))
    up = tuple(np.cross(towards, right).tolist())
    frame = Frame(scaled(towards, depth), right, up)
    cut = [
        f
        for shape in behind
        for f in faces(shape)
        for s in [surface(f)]
        if s.kind == "plane" and abs(dot(s.direction, towards) - 1) < NEAR and abs(dot(s.at, towards) - depth) < NEAR
    ]
    if not cut:
        raise Refusal("The plane does not cut the part there; choose another place for it.")
    found = curves(behind, towards, right)
    outlines = [o for face in cut for o in face_outline(face, frame)]
    known = {o.key() for o in outlines}
    seen = [c for c in found.seen if c.key() not in known]
    lining = [line for face in cut for line in _lined(face, frame, apart)]
    return {"CUT": outlines, "OUTLINE": seen, "SMOOTH": found.smooth, "LINING": lining}


def face_outline(face: Shape, frame: Frame) -> list[Flat]:
    """A face's edges in a plane."""
    return [projected(e, frame) for e in edges(face)]


def _lined(face: Shape, frame: Frame, apart: float) -> list[Flat]:
    """Section lining of a cut face: lines at 45°."""
    loops = [[flat_point(frame, p) for p in loop_places(w, face, OFF).tolist()] for w in wires(face)]
    rings = sorted(loops, key=lambda r: -abs(shapely.Polygon(r).area))
    whole = shapely.Polygon(rings[0], rings[1:])
    if not whole.is_valid:
        whole = shapely.make_valid(whole)
    left, low, right, high = whole.bounds
    gap = apart * math.sqrt(2) if max(right - left, high - low) > 4 * apart else max(right - left, high - low) / 3
    start = math.floor((left - high) / gap) * gap
    found = []
    for k in range(math.ceil((right - low - start) / gap) + 1):
        c = start + k * gap  # the line x − y = c
        line = shapely.LineString([(low + c, low), (high + c, high)])
        for part in shapely.get_parts(shapely.intersection(whole, line)):
            if part.geom_type == "LineString" and part.length > NEAR:
                p, q = part.coords[0], part.coords[-1]
                found.append(Flat("line", {"p": (p[0], p[1]), "q": (q[0], q[1])}))
    return found
