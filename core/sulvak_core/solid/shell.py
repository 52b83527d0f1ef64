"""Bodies hollowed out to a wall."""

from __future__ import annotations

import math
import random
from collections.abc import Iterator

from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeVertex
from OCP.BRepClass3d import BRepClass3d_SolidClassifier
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.BRepOffset import BRepOffset_MakeOffset, BRepOffset_Mode
from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism
from OCP.GeomAbs import GeomAbs_JoinType
from OCP.gp import gp_Pnt, gp_Vec
from OCP.TopAbs import TopAbs_IN
from OCP.TopoDS import TopoDS

from .boolean import combine
from .extent_to_face import half_space
from .frame import XYZ, plus, scaled, unit
from .history import split_up
from .measure import box, on_face, surface
from .shapes import KernelError, Shape, ShapeMap, Solid, Tags, checked, compound, faces, listed, solids

TOLERANCE = 1e-4
TOO_THICK = "This wall does not fit: it is too thick for the body."
SHARP, ROUND = GeomAbs_JoinType.GeomAbs_Intersection, GeomAbs_JoinType.GeomAbs_Arc
PLACES = 160  # looked at inside and outside of a wall before it is believed
Walls = list[tuple[Shape, float]]


def shell(solid: Solid, opened: list[Shape], thickness: float, own: Walls, step: str) -> Solid:
    """A solid hollowed to a wall of ``thickness`` mm inwards (negative: outwards), open at ``opened``.

    ``own``: faces with a thickness of their own. The new walls are tagged ``step/inner/<of what>``
    (``outer`` when the wall grows outwards), rims ``step/rim/…``.

    The kernel's own way of making a thick solid gives shapes that look valid and cannot be cut where neighbouring
    faces are opened. So the hollow is made as a solid of its own, in one of several ways, and taken out of the body;
    what comes out is measured and looked at in many places before it is believed.
    """
    for way in (_carried_past, _through_ceilings):
        for join in (SHARP, ROUND):
            try:
                made = way(solid, opened, thickness, own, step, join)
            except KernelError:
                continue
            if _holds(solid, made, opened, thickness, own):
                return made
    raise KernelError(TOO_THICK, "no way gives a sound wall")


def _carried_past(
    solid: Solid, opened: list[Shape], thickness: float, own: Walls, step: str, join: GeomAbs_JoinType
) -> Solid:
    """The hollow as the body moved in at its walls and out at its openings. Fails where an opening runs smoothly into a
    wall."""
    past = [(f, abs(thickness)) for f in opened] if thickness > 0 else [(f, 0.0) for f in opened]
    other = _moved(solid, thickness, [*((f, -t) for f, t in own), *past], step, join)
    return _parted(solid, other, opened, thickness, step)


def _through_ceilings(
    solid: Solid, opened: list[Shape], thickness: float, own: Walls, step: str, join: GeomAbs_JoinType
) -> Solid:
    """The hollow as the body moved in all over, and carried on through the openings square to these, which are flat."""
    if not opened:
        raise KernelError(TOO_THICK, "nothing to carry on")
    ceilings: list[Solid] = []
    other = _moved(solid, thickness, [(f, -t) for f, t in own], step, join)
    for face in opened:
        plane = surface(face)
        if plane.kind != "plane":
            raise KernelError("Only a flat face can be opened here.", "curved opening that runs on smoothly")
        mine = _copies(solid.face_tags(face), step, _role(thickness))
        found = [f for f in faces(other.shape) if other.face_tags(f) & mine]
        for ceiling in found:
            reach = 1.25 * abs(thickness) if thickness > 0 else -abs(thickness)
            prism = BRepPrimAPI_MakePrism(ceiling, gp_Vec(*scaled(plane.direction, reach))).Shape()
            ceilings.append(checked(Solid(prism, ShapeMap()), "shell"))
    if not ceilings:
        raise KernelError(TOO_THICK, "no ceiling is left")
    joined = combine("union" if thickness > 0 else "subtract", [other], ceilings, "shell")
    if len(joined) != 1:
        raise KernelError(TOO_THICK, f"{len(joined)} hollows")
    walls = joined[0]
    for face in faces(walls.shape):
        if not walls.face_tags(face):
            walls.tags.put(face, frozenset({f"{step}/rim/way"}))
    return _parted(solid, walls, opened, thickness, step)


def _role(thickness: float) -> str:
    return "inner" if thickness > 0 else "outer"


def _moved(solid: Solid, thickness: float, walls: Walls, step: str, join: GeomAbs_JoinType) -> Solid:
    """The body with its faces moved in by ``thickness``, those of ``walls`` out by as much as they say."""
    worker = BRepOffset_MakeOffset()
    mode = BRepOffset_Mode.BRepOffset_Skin
    worker.Initialize(solid.shape, -thickness, TOLERANCE, mode, True, False, join, False, False)
    for face, by in walls:
        worker.SetOffsetOnFace(TopoDS.Face(face), by)
    try:
        worker.MakeOffsetShape()
    except Exception as error:
        raise KernelError(TOO_THICK, f"offset: {error}") from None
    if not worker.IsDone() or worker.Shape().IsNull():
        raise KernelError(TOO_THICK, f"offset error {worker.Error()}")
    tags: ShapeMap[Tags] = ShapeMap()
    for face in faces(solid.shape):
        for after in listed(worker.Generated(face)):
            mine = _copies(solid.face_tags(face), step, _role(thickness))
            tags.put(after, (tags.get(after) or frozenset()) | mine)
    return _one(_as_solid(worker.Shape()), tags, step)


def _parted(solid: Solid, other: Solid, opened: list[Shape], thickness: float, step: str) -> Solid:
    """The hollow taken out of the body, or the body out of what was grown round it; what is left of an opening is its
    rim."""
    rims: ShapeMap[Tags] = ShapeMap()
    for face in faces(solid.shape):
        mine = solid.face_tags(face)
        gone = any(face.IsSame(o) for o in opened)
        rims.put(face, mine | _copies(mine, step, "rim") if gone else mine)
    body = Solid(solid.shape, rims)
    big, small = (body, other) if thickness > 0 else (other, body)
    made = combine("subtract", [big], [small], "shell")
    if len(made) != 1:
        raise KernelError(TOO_THICK, f"{len(made)} solids")
    return made[0]


def _copies(tags: Tags, step: str, role: str) -> Tags:
    return frozenset(f"{step}/{role}/{t}" for t in tags)


def _holds(solid: Solid, made: Solid, opened: list[Shape], thickness: float, own: Walls) -> bool:
    """Whether ``made`` is sound and its walls are as thick as they should be: cut in two it weighs as before, and at
    many places it is there or not as the distance from the walls says."""
    low, high = box(made.shape)
    middle = scaled(plus(low, high), 0.5)
    aside = scaled((0.0137, 0.0171, 0.0193), math.dist(low, high))
    half = half_space(plus(middle, aside), unit((0.31, 0.47, 0.83)), made)
    try:
        parts = [*combine("subtract", [made], [half], "shell"), *combine("intersect", [made], [half], "shell")]
    except KernelError:
        return False
    if abs(sum(p.volume() for p in parts) - made.volume()) > 1e-6 * made.volume():
        return False
    size = abs(thickness)
    thick = {i: abs(t) for i, (_, t) in enumerate(own)}
    kept = [f for f in faces(solid.shape) if not any(f.IsSame(o) for o in opened)]
    special = [next((thick[i] for i, (o, _) in enumerate(own) if o.IsSame(f)), size) for f in kept]
    inside_of, inside_made = BRepClass3d_SolidClassifier(solid.shape), BRepClass3d_SolidClassifier(made.shape)
    seen = 0
    walls = [(t, _Distance([f for f, own in zip(kept, special, strict=True) if own == t])) for t in set(special)]
    opening = _Distance(opened)
    for at in _places(kept, special, low, high, thickness):
        inside_of.Perform(gp_Pnt(*at), 1e-7)
        if (inside_of.State() == TopAbs_IN) != (thickness > 0):
            continue
        away = min(distance.of(at) / t for t, distance in walls)
        if 0.93 < away < 2.3 or opening.of(at) < 1.5 * size:  # corners, and how an opening is edged, differ by way
            continue
        inside_made.Perform(gp_Pnt(*at), 1e-7)
        if (inside_made.State() == TopAbs_IN) != (away < 1):
            return False
        seen += 1
    return seen > 0


class _Distance:
    """How far (mm) places are from the nearest of some faces; inf where there are none."""

    def __init__(self, faces: list[Shape]) -> None:
        self._some = bool(faces)
        self._kernel = BRepExtrema_DistShapeShape()
        self._kernel.LoadS1(compound(faces))

    def of(self, at: XYZ) -> float:
        if not self._some:
            return math.inf
        self._kernel.LoadS2(BRepBuilderAPI_MakeVertex(gp_Pnt(*at)).Vertex())
        self._kernel.Perform()
        return float(self._kernel.Value())


def _places(kept: list[Shape], thick: list[float], low: XYZ, high: XYZ, thickness: float) -> Iterator[XYZ]:
    """Places spread over the body's box, and some in and behind every wall."""
    rnd = random.Random(7)
    for _ in range(PLACES // 2):
        yield (rnd.uniform(low[0], high[0]), rnd.uniform(low[1], high[1]), rnd.uniform(low[2], high[2]))
    each = max(1, PLACES // 2 // max(1, len(kept)))
    for face, t in zip(kept, thick, strict=True):
        for at, normal in on_face(face, each):
            sign = -1.0 if thickness > 0 else 1.0
            for share in (0.5, 2.4):
                x, y, z = (a + sign * share * t * n for a, n in zip(at, normal, strict=True))
                yield x, y, z


def _as_solid(shape: Shape) -> Shape:
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeSolid
    from OCP.BRepLib import BRepLib
    from OCP.TopAbs import TopAbs_SHELL
    from OCP.TopExp import TopExp_Explorer

    if TopExp_Explorer(shape, TopAbs_SHELL).More() and not solids(shape):
        walk = TopExp_Explorer(shape, TopAbs_SHELL)
        maker = BRepBuilderAPI_MakeSolid(TopoDS.Shell(walk.Current()))
        made = maker.Solid()
        BRepLib.OrientClosedSolid_s(made)
        return made
    return shape


def _one(shape: Shape, tags: ShapeMap[Tags], step: str) -> Solid:
    found = split_up(shape, tags)
    if len(found) != 1:
        raise KernelError(TOO_THICK, f"{len(found)} solids")
    made = found[0]
    if made.volume() < 0:
        made = Solid(made.shape.Reversed(), made.tags)
    count = 0
    for face in faces(made.shape):
        if not made.face_tags(face):
            count += 1
            made.tags.put(face, frozenset({f"{step}/rim/n{count}"}))
    return checked(made, "shell")
