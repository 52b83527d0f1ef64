"""A part drawn as on a sheet: visible outlines by true hidden-line removal, as SVG."""

from __future__ import annotations

from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepLib import BRepLib
from OCP.GCPnts import GCPnts_TangentialDeflection
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt
from OCP.HLRAlgo import HLRAlgo_Projector
from OCP.HLRBRep import HLRBRep_Algo, HLRBRep_HLRToShape

from .shapes import Shape, compound, edges

ISOMETRIC = ((1.0, -1.0, 1.0), (1.0, 1.0, 0.0))  # towards the viewer; to the right


def outline_svg(
    shapes: list[Shape], view: tuple[tuple[float, float, float], tuple[float, float, float]] = ISOMETRIC
) -> str:
    """SVG of the visible edges seen along ``view``, 320 × 240 units; empty for no shapes. No colours of its own."""
    if not shapes:
        return ""
    hidden = HLRBRep_Algo()
    hidden.Add(compound(shapes))
    towards, right = view
    hidden.Projector(HLRAlgo_Projector(gp_Ax2(gp_Pnt(0, 0, 0), gp_Dir(*towards), gp_Dir(*right))))
    hidden.Update()
    hidden.Hide()
    drawn = HLRBRep_HLRToShape(hidden)
    lines: list[list[tuple[float, float]]] = []
    for found in (drawn.VCompound(), drawn.OutLineVCompound()):
        if found is None or found.IsNull():
            continue
        BRepLib.BuildCurves3d_s(found)
        for edge in edges(found):
            walk = GCPnts_TangentialDeflection(BRepAdaptor_Curve(edge), 0.2, 0.05)
            points = [walk.Value(i) for i in range(1, walk.NbPoints() + 1)]
            lines.append([(p.X(), -p.Y()) for p in points])
    return _svg(lines)


def _svg(lines: list[list[tuple[float, float]]]) -> str:
    xs = [x for line in lines for x, _ in line]
    ys = [y for line in lines for _, y in line]
    if not xs:
        return ""
    scale = min(280 / (max(xs) - min(xs) or 1), 200 / (max(ys) - min(ys) or 1))
    cx, cy = (max(xs) + min(xs)) / 2, (max(ys) + min(ys)) / 2
    parts = []
    for line in lines:
        at = [f"{160 + (x - cx) * scale:.1f} {120 + (y - cy) * scale:.1f}" for x, y in line]
        parts.append("M" + "L".join(at))
    return f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 320 240"><path d="{"".join(parts)}"/></svg>'
