"""Cuts that go all the way through, one way or both."""

import math

import pytest

from .parts import disc, plate

PIN = disc((20, 15), 3)
AREA = math.pi * 9


def test_a_cut_from_a_plane_inside_the_part_goes_through_both_ways() -> None:
    made = plate()
    made.step("datum", "s3", form="offset", plane={"kind": "datum", "plane": "top"}, distance="4")
    made.sketch("s4", {"kind": "plane", "step": "s3"}, PIN)
    made.step("extrude", "s5", sketch="s4", operation="cut", extent={"kind": "through_all"})
    assert made.volume() == pytest.approx(12000 - AREA * 4, rel=1e-9)
    made.do("set_step", step="s5", changes={"extent": {"kind": "through_both"}})
    assert made.volume() == pytest.approx(12000 - AREA * 10, rel=1e-9)
    made.do("set_step", step="s2", changes={"extent": {"kind": "symmetric", "depth": "30"}})
    assert made.volume() == pytest.approx(36000 - AREA * 30, rel=1e-9)
    made.do("set_step", step="s5", changes={"operation": "add"})
    assert "give an added body a depth" in made.report("s5").said
