"""Extrusions along an edge: they lean, and keep the volume of what is square to the sketch (Cavalieri)."""

from __future__ import annotations

import math
from typing import Any

import pytest

from sulvak_core.sketch.model import Sketch
from sulvak_core.solid.measure import box

from .parts import Made, disc
from .sketches import line, rectangle

TILT = math.radians(25)
SIDE = {"kind": "line", "step": "s1", "line": "l1"}


def rod(depth: str = "20", **fields: Any) -> Made:
    """A round of radius 4 on the top plane, extruded along a line of the front plane that leans by 25° to +X."""
    made = Made()
    made.sketch("s1", "front", Sketch(entities=[line(1, (0, 0), (10 * math.sin(TILT), 10 * math.cos(TILT)))]))
    made.sketch("s2", "top", disc((0, 0), 4))
    made.extrude("s3", "s2", depth=depth, along=SIDE, **fields)
    return made


def reach(made: Made) -> list[tuple[float, float]]:
    lo, hi = box(made.build().state.bodies[0].shape)
    return list(zip(lo, hi, strict=True))


def test_a_rod_leans_and_keeps_its_volume() -> None:
    made = rod()
    assert made.volume() == pytest.approx(math.pi * 16 * 20)
    (left, right), _, (low, high) = reach(made)
    assert (low, high) == pytest.approx((0, 20), abs=1e-5)
    assert (left, right) == pytest.approx((-4, 4 + 20 * math.tan(TILT)), abs=1e-5)
    assert "along line 1 of sketch 10" in made.report("s3").sentence


def test_turned_round_it_leans_the_other_way() -> None:
    (left, right), _, (low, high) = reach(rod(reverse=True))
    assert (low, high) == pytest.approx((-20, 0), abs=1e-5)
    assert (left, right) == pytest.approx((-4 - 20 * math.tan(TILT), 4), abs=1e-5)


def test_half_to_either_side() -> None:
    (left, right), _, (low, high) = reach(rod(kind="symmetric"))
    assert (low, high) == pytest.approx((-10, 10), abs=1e-5)
    assert (left, right) == pytest.approx((-4 - 10 * math.tan(TILT), 4 + 10 * math.tan(TILT)), abs=1e-5)


def test_a_leaning_hole_through_all() -> None:
    made = Made()
    made.sketch("s1", "front", Sketch(entities=[line(1, (0, 0), (10 * math.sin(TILT), 10 * math.cos(TILT)))]))
    made.sketch("s2", "top", rectangle(x=-40, y=-20, w=80, h=40, held=False))
    made.extrude("s3", "s2", depth="10")
    made.sketch("s4", "top", disc((0, 0), 4))
    made.extrude("s5", "s4", depth=None, operation="cut", along=SIDE)
    assert made.volume() == pytest.approx(80 * 40 * 10 - math.pi * 16 * 10)
    made.step("pattern", "s6", of=["s5"], form="linear", along={"kind": "axis", "axis": "x"}, count="2", spacing="15")
    assert made.volume() == pytest.approx(80 * 40 * 10 - 2 * math.pi * 16 * 10)


def test_to_a_tilted_face() -> None:
    made = rod()
    made.step("datum", "s5", form="offset", plane={"kind": "datum", "plane": "top"}, distance="30")
    made.sketch("s6", {"kind": "plane", "step": "s5"}, rectangle(x=-60, y=-60, w=120, h=120, held=False))
    made.extrude("s7", "s6", depth="5", operation="new")
    reached = {"kind": "to_face", "face": made.face("s7/start"), "offset": "2"}
    made.do("add_step", step={"kind": "sketch", "id": "s8", "on": {"kind": "datum", "plane": "top"}})
    made.do("sketch_add", step="s8", entities=[e.model_dump() for e in disc((30, 0), 4).entities])
    made.step("extrude", "s9", sketch="s8", operation="new", extent=reached, along=SIDE)
    lengths = {b.id: b.solid.volume() for b in made.build().state.bodies}
    assert not made.build().failed
    assert lengths["s9"] == pytest.approx(math.pi * 16 * 28)


@pytest.mark.parametrize(
    ("fields", "words"),
    [
        ({"along": {"kind": "axis", "axis": "x"}}, "lies in the sketch's plane"),
        ({"taper": "3"}, "cannot be had together"),
    ],
)
def test_what_cannot_be_is_told(fields: dict[str, Any], words: str) -> None:
    made = rod()
    made.do("set_step", step="s3", changes=fields)
    assert words in made.report("s3").said
