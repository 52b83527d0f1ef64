"""Bodies hollowed out to a wall."""

from __future__ import annotations

from OCP.BRepOffset import BRepOffset_MakeOffset, BRepOffset_Mode
from OCP.GeomAbs import GeomAbs_JoinType
from OCP.TopoDS import TopoDS

from .boolean import combine
from .history import split_up
from .shapes import KernelError, Shape, ShapeMap, Solid, Tags, checked, faces, listed, solids

TOLERANCE = 1e-4


def _offset(
    solid: Solid, by: float, opened: list[Shape], own: list[tuple[Shape, float]], join: GeomAbs_JoinType, thick: bool
) -> tuple[BRepOffset_MakeOffset, Shape]:
    worker = BRepOffset_MakeOffset()
    worker.Initialize(solid.shape, by, TOLERANCE, BRepOffset_Mode.BRepOffset_Skin, True, False, join, thick, False)
    for face in opened:
        worker.AddFace(TopoDS.Face(face))
    for face, other in own:
        worker.SetOffsetOnFace(TopoDS.Face(face), other)
    try:
        if thick:
            worker.MakeThickSolid()
        else:
            worker.MakeOffsetShape()
    except Exception as error:
        raise KernelError("This wall does not fit: it is too thick for the body.", f"offset: {error}") from None
    if not worker.IsDone() or worker.Shape().IsNull():
        raise KernelError("This wall does not fit: it is too thick for the body.", f"offset error {worker.Error()}")
    return worker, worker.Shape()


def shell(solid: Solid, opened: list[Shape], thickness: float, own: list[tuple[Shape, float]], step: str) -> Solid:
    """A solid hollowed to a wall of ``thickness`` mm inwards (negative: outwards), open at ``opened``.

    ``own``: faces with a thickness of their own. The new walls are tagged ``step/inner/<of what>``
    (``outer`` when the wall grows outwards), rims ``step/rim/…``.
    """
    by = -thickness
    join = GeomAbs_JoinType.GeomAbs_Intersection
    theirs = [(f, -t) for f, t in own]
    if not opened:
        return _closed(solid, thickness, theirs, step)
    worker, shape = _offset(solid, by, opened, theirs, join, True)
    tags: ShapeMap[Tags] = ShapeMap()
    role = "inner" if thickness > 0 else "outer"
    for face in faces(solid.shape):
        mine = solid.face_tags(face)
        gone = any(face.IsSame(o) for o in opened)
        for after in listed(worker.Generated(face)):
            tags.put(after, (tags.get(after) or frozenset()) | _copies(mine, step, "rim" if gone else role))
        become = listed(worker.Modified(face)) or ([] if worker.IsDeleted(face) or gone else [face])
        for after in become:
            tags.put(after, (tags.get(after) or frozenset()) | mine)
    made = _one(shape, tags, step)
    walls = {t for _, mine in made.tags.items() for t in mine if t.startswith(f"{step}/{role}/")}
    kept = [f for f in faces(solid.shape) if not any(f.IsSame(o) for o in opened)]
    bare = [f for f in kept if not _copies(solid.face_tags(f), step, role) & walls]
    filled = thickness > 0 and made.volume() > solid.volume() * (1 - 1e-12)
    if len(bare) == len(kept) or filled:
        raise KernelError("This wall does not fit: it is too thick for the body.", "no hollow is left")
    return made


def _copies(tags: Tags, step: str, role: str) -> Tags:
    return frozenset(f"{step}/{role}/{t}" for t in tags)


def _closed(solid: Solid, thickness: float, own: list[tuple[Shape, float]], step: str) -> Solid:
    """A hollow without an opening: the offset body taken out of it (or it out of the offset body)."""
    worker, shape = _offset(solid, -thickness, [], own, GeomAbs_JoinType.GeomAbs_Intersection, False)
    tags: ShapeMap[Tags] = ShapeMap()
    role = "inner" if thickness > 0 else "outer"
    for face in faces(solid.shape):
        for after in listed(worker.Generated(face)):
            tags.put(after, (tags.get(after) or frozenset()) | _copies(solid.face_tags(face), step, role))
    other = _one(_as_solid(shape), tags, step)
    big, small = (solid, other) if thickness > 0 else (other, solid)
    made = combine("subtract", [big], [small], "shell")
    if len(made) != 1:
        raise KernelError("This wall does not fit: it is too thick for the body.", f"{len(made)} solids")
    return made[0]


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
        raise KernelError("This wall does not fit: it is too thick for the body.", f"{len(found)} solids")
    made = found[0]
    if made.volume() < 0:
        made = Solid(made.shape.Reversed(), made.tags)
    count = 0
    for face in faces(made.shape):
        if not made.face_tags(face):
            count += 1
            made.tags.put(face, frozenset({f"{step}/rim/n{count}"}))
    return checked(made, "shell")
