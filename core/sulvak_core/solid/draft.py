"""Faces inclined so that a part comes out of its mould."""

from __future__ import annotations

import math
from dataclasses import dataclass

from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepAlgoAPI import BRepAlgoAPI_Check, BRepAlgoAPI_Defeaturing
from OCP.BRepOffsetAPI import BRepOffsetAPI_DraftAngle
from OCP.GeomAbs import GeomAbs_Cone
from OCP.gp import gp_Dir, gp_Pln, gp_Pnt

from .frame import XYZ
from .history import carried, named_rest, split_up
from .shapes import KernelError, Shape, ShapeMap, Solid, Tags, checked, faces

MEETS = "draft runs into itself"  # the cause when faces that were apart cross each other


@dataclass(frozen=True)
class Incline:
    """A face turned by ``angle`` degrees about where it meets the neutral plane (``at``, ``normal``).

    Positive: material is taken away on the side the ``pull`` points to, so that the part narrows that way.
    """

    face: Shape
    angle: float
    pull: XYZ
    at: XYZ
    normal: XYZ


def draft(solid: Solid, picks: list[Incline]) -> Solid:
    """A solid with faces inclined; each face keeps its tags. Raises KernelError naming what did not work."""
    worker = BRepOffsetAPI_DraftAngle(solid.shape)
    for p in picks:
        plane = gp_Pln(gp_Pnt(*p.at), gp_Dir(*p.normal))
        worker.Add(p.face, gp_Dir(*p.pull), math.radians(p.angle), plane)
        if not worker.AddDone():
            raise KernelError(
                "A face cannot be drafted about this neutral plane: it runs alongside it, or is not flat or round.",
                "draft add",
            )
    try:
        worker.Build()
    except Exception as error:
        raise KernelError("This draft cannot be worked out; try a smaller angle.", f"draft: {error}") from None
    if not worker.IsDone():
        raise KernelError("This draft cannot be worked out; try a smaller angle.", "draft not done")
    tags: ShapeMap[Tags] = ShapeMap()
    for face in faces(solid.shape):
        tags.put(worker.ModifiedShape(face), solid.face_tags(face))
    found = split_up(worker.Shape(), tags)
    if len(found) != 1:
        raise KernelError("This draft takes the body apart; try a smaller angle.", f"{len(found)} solids")
    made = Solid(found[0].shape, found[0].tags)
    if any(_pinched(f) for f in faces(made.shape)):
        raise KernelError("This draft cannot be worked out; try a smaller angle.", "a cone beyond its tip")
    if made.volume() <= 0 or abs(made.volume()) > 1e6 * solid.volume():
        raise KernelError("This draft cannot be worked out; try a smaller angle.", "draft volume")
    made = checked(made, "draft")
    if not BRepAlgoAPI_Check(made.shape, False, True).IsValid():
        raise KernelError("The drafted faces run into each other.", MEETS)
    return made


def _pinched(face: Shape) -> bool:
    """Whether a conical face runs through its own tip, which the kernel lets pass."""
    a = BRepAdaptor_Surface(face)
    if a.GetType() != GeomAbs_Cone:
        return False
    cone = a.Cone()
    ends = [cone.RefRadius() + v * math.sin(cone.SemiAngle()) for v in (a.FirstVParameter(), a.LastVParameter())]
    return ends[0] * ends[1] < -1e-12


def without(solid: Solid, unwanted: list[Shape]) -> Solid:
    """A solid with faces taken off and their neighbours carried on to close the gap (blends undone)."""
    worker = BRepAlgoAPI_Defeaturing()
    worker.SetShape(solid.shape)
    for face in unwanted:
        worker.AddFaceToRemove(face)
    worker.SetRunParallel(False)
    worker.Build()
    if not worker.IsDone() or worker.Shape().IsNull():
        raise KernelError("The blends here cannot be taken off for the draft.", "defeaturing")
    found = carried(worker, solid, worker.Shape())
    if len(found) != 1:
        raise KernelError("The blends here cannot be taken off for the draft.", f"{len(found)} solids")
    made = found[0]
    named_rest(made, lambda n: f"s0/rest/n{n}")
    return checked(made, "draft")
