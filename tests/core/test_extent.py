"""Boxes around shapes: closed forms, and the kernel's own search as a second opinion."""

import math
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from OCP.Bnd import Bnd_Box
from OCP.BRepBndLib import BRepBndLib
from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
from OCP.BRepPrimAPI import (
    BRepPrimAPI_MakeCone,
    BRepPrimAPI_MakeCylinder,
    BRepPrimAPI_MakeSphere,
    BRepPrimAPI_MakeTorus,
)
from OCP.gp import gp_Ax1, gp_Dir, gp_Pnt, gp_Trsf

from sulvak_core.solid.measure import box
from tests.examples import examples

from .parts import Made, plate

MAKE: dict[str, Any] = {
    "ball": lambda: BRepPrimAPI_MakeSphere(10.0).Shape(),
    "piece of a ball": lambda: BRepPrimAPI_MakeSphere(10.0, -0.6, 0.9, 2.0).Shape(),
    "ring": lambda: BRepPrimAPI_MakeTorus(10.0, 3.0).Shape(),
    "piece of a ring": lambda: BRepPrimAPI_MakeTorus(10.0, 3.0, -0.7, 2.1, 1.9).Shape(),
    "rod": lambda: BRepPrimAPI_MakeCylinder(4.0, 20.0).Shape(),
    "piece of a rod": lambda: BRepPrimAPI_MakeCylinder(4.0, 20.0, 1.2).Shape(),
    "cone": lambda: BRepPrimAPI_MakeCone(6.0, 2.0, 9.0, 4.0).Shape(),
}


def searched(shape: Any) -> list[float]:
    found = Bnd_Box()
    BRepBndLib.AddOptimal_s(shape, found, False, False)
    return [v for p in (found.CornerMin(), found.CornerMax()) for v in (p.X(), p.Y(), p.Z())]


@pytest.mark.parametrize("name", MAKE)
@settings(max_examples=examples(25))
@given(st.tuples(*[st.floats(-1, 1)] * 3).filter(lambda v: math.hypot(*v) > 0.1), st.floats(0, 6.3))
def test_however_it_is_turned(name: str, axis: tuple[float, float, float], angle: float) -> None:
    turn = gp_Trsf()
    turn.SetRotation(gp_Ax1(gp_Pnt(1, 2, 3), gp_Dir(*axis)), angle)
    shape = BRepBuilderAPI_Transform(MAKE[name](), turn, True).Shape()
    low, high = box(shape)
    assert [*low, *high] == pytest.approx(searched(shape), abs=2e-6)  # the search stops at a millionth


@pytest.mark.parametrize(
    ("name", "low", "high"),
    [
        ("ball", (-10, -10, -10), (10, 10, 10)),
        ("ring", (-13, -13, -3), (13, 13, 3)),
        ("rod", (-4, -4, 0), (4, 4, 20)),
    ],
)
def test_to_the_last_digit(name: str, low: tuple[float, ...], high: tuple[float, ...]) -> None:
    found = box(MAKE[name]())
    assert found[0] == pytest.approx(low, abs=1e-12)
    assert found[1] == pytest.approx(high, abs=1e-12)


def rounded() -> Made:
    made = plate()
    made.step("fillet", "s3", groups=[{"edges": [{"by": "corners", "step": "s2"}], "radius": "6"}])
    made.step("fillet", "s4", groups=[{"edges": [{"by": "around", "face": made.face("s2/end")}], "radius": "2"}])
    return made


def test_a_part_with_rounds_and_a_free_curve() -> None:
    assert box(rounded().build().state.bodies[0].shape) == (
        pytest.approx((0, 0, 0), abs=1e-9),
        pytest.approx((40, 30, 10), abs=1e-9),
    )
