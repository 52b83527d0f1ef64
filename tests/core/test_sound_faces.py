"""Faces with many holes are judged as the kernel's own check judges them, only sooner."""

from __future__ import annotations

import pytest
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge, BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakePolygon
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeWire as MakeWire
from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.gp import gp_Ax2, gp_Circ, gp_Dir, gp_Pln, gp_Pnt
from OCP.TopoDS import TopoDS

from sulvak_core.solid.shapes import MANY_LOOPS, Shape, sound_face

XY = tuple[float, float]
SQUARE: list[XY] = [(0, 0), (100, 0), (100, 100), (0, 100)]
GRID: list[XY] = [(8 + 12 * i, 8 + 12 * j) for i in range(8) for j in range(8)]


def polygon(places: list[XY]) -> Shape:
    maker = BRepBuilderAPI_MakePolygon()
    for x, y in places:
        maker.Add(gp_Pnt(x, y, 0))
    maker.Close()
    return maker.Wire()


def ring(at: XY, r: float, turned: bool = True) -> Shape:
    edge = BRepBuilderAPI_MakeEdge(gp_Circ(gp_Ax2(gp_Pnt(*at, 0), gp_Dir(0, 0, 1)), r)).Edge()
    wire = MakeWire(edge).Wire()
    return TopoDS.Wire(wire.Reversed()) if turned else wire


def face(outer: list[XY], loops: list[Shape]) -> Shape:
    maker = BRepBuilderAPI_MakeFace(gp_Pln(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), polygon(outer), True)
    for loop in loops:
        maker.Add(loop)
    return maker.Face()


BOW_TIE: list[XY] = [(0, 0), (100, 100), (100, 0), (0, 100)]
CASES: dict[str, tuple[Shape, bool]] = {
    "holes apart": (face(SQUARE, [ring(at, 3) for at in GRID]), True),
    "two that cross": (face(SQUARE, [*(ring(at, 3) for at in GRID), ring((10, 8), 3)]), False),
    "one across the rim": (face(SQUARE, [*(ring(at, 3) for at in GRID), ring((100, 50), 3)]), False),
    "one outside": (face(SQUARE, [*(ring(at, 3) for at in GRID), ring((150, 50), 3)]), False),
    "one in another": (face(SQUARE, [*(ring(at, 3) for at in GRID), ring(GRID[9], 1)]), False),
    "one turned the wrong way": (face(SQUARE, [*(ring(at, 3) for at in GRID[1:]), ring(GRID[0], 3, False)]), False),
    "an outline that crosses itself": (face(BOW_TIE, [ring((30 + k, 60), 0.01) for k in range(40)]), False),
}  # fmt: skip


@pytest.mark.parametrize("name", CASES)
def test_as_the_kernel_judges(name: str) -> None:
    made, sound = CASES[name]
    assert bool(BRepCheck_Analyzer(made).IsValid()) is sound
    assert sound_face(made) is sound


def test_few_holes_are_left_to_the_kernel() -> None:
    few = [ring(at, 3) for at in GRID[: MANY_LOOPS - 2]]
    assert sound_face(face(SQUARE, few))
    assert not sound_face(face(SQUARE, [*few[1:], ring((100, 50), 3)]))
