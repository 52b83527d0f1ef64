"""What two bodies hold in common: material that would be counted twice."""

from __future__ import annotations

from OCP.BRepAlgoAPI import BRepAlgoAPI_Common, BRepAlgoAPI_Section
from OCP.BRepExtrema import BRepExtrema_DistShapeShape

from .boolean import combine
from .measure import box, curve, face_area
from .shapes import KernelError, Shape, Solid, compound, edges, faces

SHARE = 1e-6  # of the smaller body: what is less is where they touch
TOUCH = 1e-6  # mm, mm²: nearer or smaller than that is none
_KNOWN = 64
_known: dict[tuple[int, int], tuple[Solid, Solid, float]] = {}  # the newest pairs; the solids stay, so ids do too


def shared_volume(a: Solid, b: Solid) -> float:
    """The volume two solids share, in mm³; 0 where they merely touch, or where it cannot be worked out."""
    key = (id(a), id(b))
    if key not in _known:
        if len(_known) >= _KNOWN:
            del _known[next(iter(_known))]
        _known[key] = (a, b, _shared(a, b))
    return _known[key][2]


def _shared(a: Solid, b: Solid) -> float:
    (low, high), (low2, high2) = box(a.shape), box(b.shape)
    deep = [min(high[i], high2[i]) - max(low[i], low2[i]) for i in range(3)]
    if min(deep) <= 1e-6 * max(1.0, *(high[i] - low[i] for i in range(3))):
        return 0.0
    try:
        found = sum(s.volume() for s in combine("intersect", [a], [b], "comparison"))
    except KernelError:
        return 0.0
    return found if found > SHARE * min(a.volume(), b.volume()) else 0.0


def touching(a: Shape, b: Shape) -> str:
    """How two solids that share no volume meet: in a “face”, only an “edge”, only a “point”, or not at all (“”)."""
    distance = BRepExtrema_DistShapeShape(a, b)
    if not distance.IsDone() or distance.Value() > TOUCH:
        return ""
    common = BRepAlgoAPI_Common(compound(faces(a)), compound(faces(b)))
    if common.IsDone() and any(face_area(f) > TOUCH for f in faces(common.Shape())):
        return "face"
    section = BRepAlgoAPI_Section(a, b)
    if section.IsDone() and any(curve(e).length > TOUCH for e in edges(section.Shape())):
        return "edge"
    return "point"
