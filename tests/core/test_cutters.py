"""Cutter access: what is reached from where, corners, pockets, slots, holes; set-ups."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from scipy import ndimage

from sulvak_core.making.cutters import check_cutters
from sulvak_core.making.drill_sizes import nearest_drill
from sulvak_core.making.finding import Checked, Finding
from sulvak_core.making.height_field import dilated
from sulvak_core.making.holes import holes
from sulvak_core.part.shop import CutterLimits
from sulvak_core.sketch.model import Sketch

from .parts import Made, disc, plate
from .sketches import P, rectangle
from .test_walls import bodies


def checked(made: Made, threads: Any = (), **limits: Any) -> Checked:
    return check_cutters(bodies(made), CutterLimits(**limits), threads)


def of(found: Checked, kind: str) -> list[Finding]:
    return [f for f in found.findings if f.kind == kind]


def pocket(w: float = 20, h: float = 14, depth: str = "6", radius: str = "") -> Made:
    """A pocket w × h in a plate 40 × 30 × 10, with rounded corners if asked."""
    made = plate()
    made.sketch("s3", made.face("s2/end"), rectangle(x=(40 - w) / 2, y=(30 - h) / 2, w=w, h=h, held=False))
    made.extrude("s4", "s3", depth, "cut")
    if radius:
        made.step("fillet", "s5", groups=[{"edges": [{"by": "corners", "step": "s4"}], "radius": radius}])
    return made


def test_a_block_is_milled_all_round_and_needs_two_set_ups() -> None:
    """From above everything is reached but the foot."""
    found = checked(plate())
    assert found.passed and not found.findings
    assert found.figures["set-ups"] == 2
    assert found.figures["unreached"] == pytest.approx(0, abs=1e-9)
    assert {b.name for b in found.bands if b.area > 1} <= {"+z", "-z", "+x", "-x", "+y", "-y"}


def test_a_pocket_with_sharp_corners() -> None:
    found = checked(pocket())
    sharp = of(found, "sharp corner")
    assert len(sharp) == 4
    assert {f.step for f in sharp} == {"s4"}
    assert (sharp[0].value, sharp[0].limit) == (0.0, 2.0)
    assert not of(found, "out of reach")  # a grid does not see into a corner


@pytest.mark.parametrize(("radius", "kinds"), [("1.5", ["small corner"] * 4), ("2", []), ("3", [])])
def test_rounds_are_held_against_the_cutter(radius: str, kinds: list[str]) -> None:
    found = checked(pocket(radius=radius))
    assert [f.kind for f in found.findings if f.worth == "out"] == kinds
    if kinds:
        assert found.findings[0].value == pytest.approx(1.5)
        assert found.findings[0].step == "s5"


def test_a_pocket_is_deep_for_its_corners() -> None:
    deep = of(checked(pocket(depth="9", radius="2"), pocket_depth=2), "deep pocket")
    assert len(deep) == 4 and deep[0].value == pytest.approx(9 / 4)
    assert not of(checked(pocket(depth="9", radius="2"), pocket_depth=2.3), "deep pocket")


def test_the_cutters_own_corner_against_sharp_floors() -> None:
    found = checked(pocket(radius="3"), corner=0.5)
    assert len(of(found, "sharp floor")) == 8  # four walls, four rounds
    assert found.passed  # it wants to be known


def test_a_slot_narrower_than_the_cutter() -> None:
    made = plate()
    made.sketch("s3", made.face("s2/end"), rectangle(x=10, y=-1, w=3, h=32, held=False))
    made.extrude("s4", "s3", "5", "cut")
    found = checked(made, ways=["+z", "-z"])
    [slot] = of(found, "narrow slot")
    assert slot.value == pytest.approx(3, rel=1e-4)
    assert of(found, "out of reach")  # its floor
    assert checked(made, ways=["+z", "-z"], diameter=2).passed
    assert of(checked(made), "out of reach")  # it is as narrow from the front


def test_what_is_covered_from_everywhere_is_told() -> None:
    """A slot under a lip: a T from the side, closed at both ends."""
    made = plate(40, 30, "20")
    made.sketch("s3", made.face("s2/end"), rectangle(x=17, y=8, w=6, h=14, held=False))
    made.extrude("s4", "s3", "14", "cut")
    made.step("datum", "s5", form="offset", plane={"kind": "datum", "plane": "top"}, distance="6")
    made.sketch("s6", {"kind": "plane", "step": "s5"}, rectangle(x=10, y=8, w=20, h=14, held=False))
    made.extrude("s7", "s6", "5", "cut", reverse=False)
    found = checked(made)
    hidden = of(found, "out of reach")
    under_lip = 2 * 7 * 14  # the roofs of the T
    assert hidden and hidden[0].value is not None and hidden[0].value > under_lip
    assert not found.passed


def hole(made: Made, ident: str, at: tuple[float, float], d: float, **fields: Any) -> Made:
    n = int(ident[1:])
    made.sketch(ident, made.face("s2/end"), disc(at, d / 2))
    made.step("hole", f"s{n + 1}", sketch=ident, diameter=f"{d:g}", **fields)
    return made


def test_holes_are_seen_with_their_ends() -> None:
    made = hole(plate(), "s3", (10, 15), 4)
    hole(made, "s5", (25, 15), 5, end="blind", depth="6")
    made.sketch("s7", made.face("s2/end"), disc((33, 8), 3))
    made.extrude("s8", "s7", "4", "cut")
    seen = {h.step: h for h in holes(bodies(made))}
    assert (seen["s4"].diameter, seen["s4"].open, seen["s4"].flat_end) == (pytest.approx(4), (True, True), False)
    assert seen["s6"].depth == pytest.approx(6)
    assert sum(seen["s6"].open) == 1 and not seen["s6"].flat_end
    assert len(seen["s6"].faces) >= 2  # its wall and its point
    assert sum(seen["s8"].open) == 1 and seen["s8"].flat_end
    assert all(h.slope == pytest.approx(0, abs=1e-9) for h in seen.values())


def test_flat_ends_and_odd_drills_are_told() -> None:
    made = plate()
    made.sketch("s3", made.face("s2/end"), disc((20, 15), 2.77))
    made.extrude("s4", "s3", "4", "cut")
    found = checked(made)
    [flat] = of(found, "flat end")
    assert flat.worth == "note"
    [odd] = of(found, "no drill")
    assert odd.limit == pytest.approx(5.5)
    assert "⌀5.5" in odd.said
    assert not of(checked(made, drills="any"), "no drill")


def test_deep_holes_and_holes_near_an_edge() -> None:
    made = hole(plate(40, 30, "24"), "s3", (4, 15), 2)
    found = checked(made)
    [deep] = of(found, "deep hole")
    assert deep.value == pytest.approx(12)
    assert not of(found, "near an edge")  # 3 to the side: one and a half of its diameter
    near = of(checked(hole(plate(), "s3", (4, 15), 5)), "near an edge")
    assert len(near) == 1 and near[0].value == pytest.approx(1.5 / 5, rel=2e-3)
    assert near[0].step == "s4"


def test_two_holes_close_together() -> None:
    made = hole(plate(), "s3", (15, 15), 6)
    hole(made, "s5", (22, 15), 6)
    near = of(checked(made), "near an edge")
    assert [f.value for f in near] == [pytest.approx(1 / 6, rel=0.01)] * 2


def test_a_hole_on_a_slope_and_one_along_no_direction() -> None:
    made = plate(40, 30, "20")
    made.step("chamfer", "s3", edges=[made.edge("s2/end", "s2/side/l1")], first="14")
    made.sketch("s4", "top", disc((20, 6), 2))
    made.step("hole", "s5", sketch="s4", diameter="4", reverse=True)
    found = checked(made)
    [slope] = of(found, "hole on a slope")
    assert slope.value == pytest.approx(45)
    made = plate(40, 30, "20")
    made.step("chamfer", "s3", edges=[made.edge("s2/end", "s2/side/l1")], first="14")
    assert slope.step == "s5"


def test_threads_deeper_than_they_hold() -> None:
    found = checked(plate(), [("s9", 6.0, 18.0), ("s11", 6.0, 12.0)])
    [deep] = of(found, "deep thread")
    assert (deep.step, deep.value) == ("s9", pytest.approx(3))


@pytest.mark.parametrize(
    ("diameter", "which", "name", "size"),
    [
        (3.3, "metric", "⌀3.3", 3.3),
        (2.05, "metric", "⌀2.05", 2.05),
        (10.24, "metric", "⌀10.2", 10.2),
        (17.6, "metric", "⌀17.5", 17.5),
        (6.35, "inch", "1/4 in", 6.35),
        (5.1, "inch", "number 7", 5.1054),
        (8.4, "inch", "letter Q", 8.4328),
        (28.575, "inch", "1 1/8 in", 28.575),
    ],
)
def test_drills_to_be_had(diameter: float, which: Any, name: str, size: float) -> None:
    found = nearest_drill(diameter, which)
    assert found is not None
    assert found == (name, pytest.approx(size))


def test_fewest_set_ups_reach_all() -> None:
    """A pocket from above and a hole from the front: the cutter's side does the rest, so two set-ups do. A hole from
    behind asks for a third."""
    made = pocket(radius="3")
    made.sketch("s6", "front", disc((20, 2.5), 2.2))
    made.extrude("s7", "s6", "5", "cut", reverse=True)
    found = checked(made)
    assert found.figures["from"] in ("+z, -y", "-y, +z")
    made.sketch("s8", made.face("s2/side/l3"), disc((-20, 2.5), 2.2))
    made.extrude("s9", "s8", "5", "cut")
    found = checked(made)
    assert set(str(found.figures["from"]).split(", ")) == {"+z", "-y", "+y"}
    assert [b.name for b in found.bands][-1] == "unreached"


def test_without_any_direction_nothing_is_reached() -> None:
    found = checked(plate(), ways=[])
    assert found.figures["set-ups"] == 0 and of(found, "out of reach")


@pytest.mark.parametrize("radius", [0.4, 1.0, 2.5, 6.0, 11.3])
def test_heights_under_a_disk(radius: float) -> None:
    heights = np.random.default_rng(3).normal(size=(40, 31))
    r = math.floor(radius)
    i, j = np.mgrid[-r : r + 1, -r : r + 1]
    disk = i * i + j * j <= radius * radius
    assert (dilated(heights, radius) == ndimage.grey_dilation(heights, footprint=disk)).all()


def test_a_holder_keeps_a_short_cutter_from_the_floor_of_a_pocket() -> None:
    """A pocket 24 × 14, 12 deep, in a plate of 12.5: a holder of 30 stays above it, so a cutter has to stand out
    12, and 12.5 to come down beside the plate; one of 10 goes in."""
    made = plate(60, 40, "12.5")
    made.sketch("s3", made.face("s2/end"), rectangle(x=18, y=13, w=24, h=14, held=False))
    made.extrude("s4", "s3", "12", "cut")
    ours = made.build().state.bodies

    def bare(**limits: float) -> float:
        """mm² that is not reached besides what is not from above anyway."""
        asked = {"ways": ["+z"], "diameter": 4, "corner": 2}
        plain, held = (check_cutters(ours, CutterLimits.model_validate({**asked, **more})) for more in ({}, limits))
        return float(held.figures["unreached"] or 0) - float(plain.figures["unreached"] or 0)  # type: ignore[arg-type]

    floor, rim, round_it = 24 * 14, 2 * (24 + 14), 2 * (60 + 40)
    assert bare(stands_out=13, holder=30) == 0
    for out in (11, 6):
        missing = floor + (12 - out) * rim + (12.5 - out) * round_it
        grid = 0.5 * (rim + round_it)  # walls are told by small triangles, and end within a cell and a half
        assert missing - 1.5 * grid < bare(stands_out=out, holder=30) <= missing + 1
    assert bare(stands_out=11, holder=3) == 0  # no thicker than the cutter
    # a holder that goes into the pocket reaches the middle of its floor
    assert bare(stands_out=6, holder=10) < bare(stands_out=6, holder=30) - 0.2 * floor


def test_a_counterbore_is_not_drilled() -> None:
    made = plate(40, 30, "12")
    made.sketch("s3", made.face("s2/end"), Sketch(entities=[P(id="p1", at=(20, 15))]))
    made.step("hole", "s4", sketch="s3", form="counterbore", diameter="5", bore_diameter="9.77", bore_depth="4")
    assert not of(checked(made, drills="metric"), "no drill")
    made.do("set_step", step="s4", changes={"diameter": "5.03"})
    [only] = of(checked(made, drills="metric"), "no drill")
    assert only.value == pytest.approx(5.03)
