"""Solids drawn as on a sheet: what is seen and what is hidden, by exact hidden-line removal (OpenCASCADE's HLRBRep)."""

from __future__ import annotations

from dataclasses import dataclass

from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepLib import BRepLib
from OCP.GCPnts import GCPnts_TangentialDeflection
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt
from OCP.HLRAlgo import HLRAlgo_Projector
from OCP.HLRBRep import HLRBRep_Algo, HLRBRep_HLRToShape

from .frame import Frame
from .project import Flat, projected
from .shapes import Shape, compound, edges

XYZ = tuple[float, float, float]
Line = list[tuple[float, float]]
ISOMETRIC: tuple[XYZ, XYZ] = ((1.0, -1.0, 1.0), (1.0, 1.0, 0.0))  # towards the viewer; to the right
PAPER = Frame((0.0, 0.0, 0.0), (1.0, 0.0, 0.0), (0.0, 1.0, 0.0))  # in which what is drawn lies
BEND = 0.12  # rad between two pieces of a curve
DEEP = 0.05  # mm a piece may lie off its curve


@dataclass(frozen=True)
class Lines:
    """Runs of places in mm, to the right and up in the view: edges that are seen, ``smooth`` ones where faces run on
    into each other among those seen, and edges and outlines that are hidden."""

    seen: list[Line]
    smooth: list[Line]
    hidden: list[Line]


def lines(shapes: list[Shape], towards: XYZ, right: XYZ, deep: float = DEEP) -> Lines:
    """The lines of solids seen along a direction; ``towards`` the viewer, ``right`` on the sheet; curves as runs that
    lie off them by ``deep`` (mm) at most."""
    if not shapes:
        return Lines([], [], [])
    drawn = _removed(shapes, towards, right)
    return Lines(
        _runs(drawn.VCompound(), deep) + _runs(drawn.OutLineVCompound(), deep),
        _runs(drawn.Rg1LineVCompound(), deep),
        _runs(drawn.HCompound(), deep) + _runs(drawn.OutLineHCompound(), deep),
    )


def _removed(shapes: list[Shape], towards: XYZ, right: XYZ) -> HLRBRep_HLRToShape:
    """What hidden-line removal gives of solids seen along a direction."""
    worker = HLRBRep_Algo()
    worker.Add(compound(shapes))
    worker.Projector(HLRAlgo_Projector(gp_Ax2(gp_Pnt(0, 0, 0), gp_Dir(*towards), gp_Dir(*right))))
    worker.Update()
    worker.Hide()
    return HLRBRep_HLRToShape(worker)


@dataclass(frozen=True)
class Curves:
    """The same as ``Lines``, as the plane curves they are: lines, circles, arcs, ellipses; others through places."""

    seen: list[Flat]
    smooth: list[Flat]
    hidden: list[Flat]


def curves(shapes: list[Shape], towards: XYZ, right: XYZ) -> Curves:
    """The curves of solids seen along a direction, mm to the right and up; hidden ones under others are left out."""
    if not shapes:
        return Curves([], [], [])
    drawn = _removed(shapes, towards, right)
    told: set[tuple[object, ...]] = set()

    def of(*found: Shape | None) -> list[Flat]:
        made = []
        for one in found:
            if one is None or one.IsNull():
                continue
            BRepLib.BuildCurves3d_s(one)
            for edge in edges(one):
                flat = projected(edge, PAPER)
                if flat.kind != "point" and flat.key() not in told:
                    told.add(flat.key())
                    made.append(flat)
        return made

    seen = of(drawn.VCompound(), drawn.OutLineVCompound())
    smooth = of(drawn.Rg1LineVCompound())
    return Curves(seen, smooth, of(drawn.HCompound(), drawn.OutLineHCompound()))


def _runs(found: Shape | None, deep: float) -> list[Line]:
    if found is None or found.IsNull():
        return []
    BRepLib.BuildCurves3d_s(found)
    out: list[Line] = []
    for edge in edges(found):
        walk = GCPnts_TangentialDeflection(BRepAdaptor_Curve(edge), BEND, deep)
        points = [walk.Value(i) for i in range(1, walk.NbPoints() + 1)]
        out.append([(p.X(), p.Y()) for p in points])
    return out


def outline_svg(shapes: list[Shape], view: tuple[XYZ, XYZ] = ISOMETRIC) -> str:
    """SVG of the visible edges seen along ``view``, 320 × 240 units; empty for no shapes. No colours of its own."""
    return _svg(lines(shapes, *view).seen)


def _svg(drawn: list[Line]) -> str:
    xs = [x for line in drawn for x, _ in line]
    ys = [y for line in drawn for _, y in line]
    if not xs:
        return ""
    scale = min(280 / (max(xs) - min(xs) or 1), 200 / (max(ys) - min(ys) or 1))
    cx, cy = (max(xs) + min(xs)) / 2, (max(ys) + min(ys)) / 2
    parts = []
    for line in drawn:
        at = [f"{160 + (x - cx) * scale:.1f} {120 - (y - cy) * scale:.1f}" for x, y in line]
        parts.append("M" + "L".join(at))
    return f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 320 240"><path d="{"".join(parts)}"/></svg>'
