"""Union, subtraction and intersection of tagged solids; the tags follow the faces through."""

from __future__ import annotations

import math

from OCP.BRepAlgoAPI import BRepAlgoAPI_Common, BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
from OCP.collections import List_TopoDS_Shape
from OCP.ShapeUpgrade import ShapeUpgrade_UnifySameDomain

from .extent import box
from .history import split_up
from .joining import may_join
from .local_cut import local_cut
from .shapes import KernelError, Shape, ShapeMap, Solid, Tags, checked, faces, listed, sound_skin

NEAR = 1e-6  # mm
MEASURED_EACH = 4  # tools up to which each is measured
MEASURED = 1e-6  # how far the volume of a sound solid may be off, as a share
_UNDONE = "The {} could not be worked out; move or resize it a little."
_OPERATIONS = {"union": BRepAlgoAPI_Fuse, "subtract": BRepAlgoAPI_Cut, "intersect": BRepAlgoAPI_Common}


def _list(shapes: list[Shape]) -> List_TopoDS_Shape:
    found = List_TopoDS_Shape()
    for shape in shapes:
        found.Append(shape)
    return found


def combine(operation: str, bodies: list[Solid], tools: list[Solid], doing: str) -> list[Solid]:
    """``bodies`` united or intersected with ``tools``, or these subtracted from them: what comes out, each checked.

    ``doing`` names the work in error sentences. Faces that fall into one plane or cylinder become
    one and carry the tags of all.
    """
    if operation == "subtract" and len(bodies) == 1:
        made = local_cut(bodies[0], tools, lambda part, tool: _whole("subtract", [part], [tool], doing))
        if made is not None and sound_skin(made):
            return [made]
    return _whole(operation, bodies, tools, doing)


def _whole(operation: str, bodies: list[Solid], tools: list[Solid], doing: str) -> list[Solid]:
    """What the kernel's boolean gives. It can go wrong without a word, and leave a part out: then its volume tells, and
    it is tried once more with what lies ``NEAR`` taken for one place."""
    refused: KernelError | None = None
    for near in (0.0, NEAR):
        try:
            made = _once(operation, bodies, tools, doing, near)
        except KernelError as error:
            refused = refused or error
            continue
        if _possible(operation, bodies, tools, made):
            return made
    raise refused or KernelError(_UNDONE.format(doing), "a volume that cannot be")


def _possible(operation: str, bodies: list[Solid], tools: list[Solid], made: list[Solid]) -> bool:
    """Whether the volume that comes of a boolean is one that can come of these."""
    after, ours = sum(s.volume() for s in made), [s.volume() for s in bodies]
    all_ours, all_theirs = sum(ours), _at_most(tools)
    least, most = {
        "union": (max(ours), all_ours + all_theirs),
        "subtract": (all_ours - all_theirs, all_ours),
        "intersect": (0.0, min(all_ours, all_theirs)),
    }[operation]
    slack = MEASURED * (all_ours + all_theirs)
    return least - slack <= after <= most + slack


def _at_most(tools: list[Solid]) -> float:
    """What tools take up, in mm³, each for itself; of many, that of the boxes around them, which costs less."""
    if len(tools) <= MEASURED_EACH or all(t._volume is not None for t in tools):
        return sum(t.volume() for t in tools)
    return sum(math.prod(b - a for a, b in zip(*box(t.shape), strict=True)) for t in tools)


def _once(operation: str, bodies: list[Solid], tools: list[Solid], doing: str, near: float) -> list[Solid]:
    worker = _OPERATIONS[operation]()
    worker.SetArguments(_list([b.shape for b in bodies]))
    worker.SetTools(_list([t.shape for t in tools]))
    worker.SetRunParallel(False)
    if near:
        worker.SetFuzzyValue(near)
    worker.Build()
    if not worker.IsDone() or worker.Shape().IsNull():
        raise KernelError(_UNDONE.format(doing), "boolean not done")
    tags: ShapeMap[Tags] = ShapeMap()
    known: ShapeMap[bool] = ShapeMap()
    fresh: list[Shape] = []  # what may be one with a face of the first body
    trimmed: list[Shape] = []  # of that body's what is still one face, with other edges
    for k, solid in enumerate([*bodies, *tools]):
        for face in faces(solid.shape):
            known.put(face, True)
            mine = solid.face_tags(face)
            become = listed(worker.Modified(face))
            if not become and not worker.IsDeleted(face):
                become = [face]
            for after in become:
                tags.put(after, (tags.get(after) or frozenset()) | mine)
            if k or len(become) > 1:
                fresh += become
            elif become and become[0] is not face:
                trimmed += become
    if bodies[0].joined and not may_join(worker.Shape(), fresh, trimmed):
        return _joined([checked(s, doing, known) for s in split_up(worker.Shape(), tags)])
    try:
        return _joined([checked(s, doing, known) for s in _merged(worker.Shape(), tags)])
    except KernelError:  # joining faces can go wrong where their seams lie apart: then they stay several
        return [checked(s, doing, known) for s in split_up(worker.Shape(), tags)]


def _joined(made: list[Solid]) -> list[Solid]:
    for solid in made:
        solid.joined = True
    return made


def _merged(shape: Shape, tags: ShapeMap[Tags]) -> list[Solid]:
    merge = ShapeUpgrade_UnifySameDomain(shape, True, True, False)
    merge.Build()
    history = merge.History()
    after: ShapeMap[Tags] = ShapeMap()
    for face in faces(shape):
        mine = tags.get(face) or frozenset()
        become = listed(history.Modified(face))
        if not become and not history.IsRemoved(face):
            become = [face]
        for new in become:
            after.put(new, (after.get(new) or frozenset()) | mine)
    return split_up(merge.Shape(), after)
