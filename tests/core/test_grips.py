"""Where a step's values can be taken hold of: the handle stands where what the value makes ends, at any value."""

from __future__ import annotations

import math
from typing import Any

import pytest

from sulvak_core.sketch.model import Sketch
from sulvak_core.solid.frame import plus, scaled
from sulvak_core.solid.measure import surface
from sulvak_core.solid.shapes import faces

from .parts import Made, disc, plate
from .sketches import P
from .test_steps import face


def grips(made: Made, step: str) -> list[dict[str, Any]]:
    report = made.report(step)
    assert report.state == "ok", report.said
    found: list[dict[str, Any]] = report.extra["grips"]
    return found


def handle(grip: dict[str, Any], value: float | None = None) -> tuple[float, float, float]:
    return plus(grip["at"], scaled(grip["way"], grip["value"] if value is None else value))


@pytest.mark.parametrize(
    ("extent", "reverse", "ends"),
    [
        ({"kind": "depth", "depth": "8"}, False, [18.0]),
        ({"kind": "depth", "depth": "8"}, True, [2.0]),
        ({"kind": "symmetric", "depth": "8"}, False, [14.0]),
        ({"kind": "two_depths", "depth": "8", "back": "3"}, False, [18.0, 7.0]),
        ({"kind": "two_depths", "depth": "8", "back": "3"}, True, [2.0, 13.0]),
    ],
)
def test_depths_are_held_at_their_ends(extent: dict[str, str], reverse: bool, ends: list[float]) -> None:
    made = plate()
    made.sketch("s3", made.face("s2/end"), disc((20, 15), 6))
    made.step("extrude", "s4", sketch="s3", operation="new", extent=extent, reverse=reverse)
    found = grips(made, "s4")
    assert [g["path"] for g in found] == ["extent.depth", "extent.back"][: len(ends)]
    for g, z in zip(found, ends, strict=True):
        x, y, at = handle(g)
        assert math.hypot(x - 20, y - 15) < 6
        assert at == pytest.approx(z)


def test_a_cut_from_a_face_is_held_in_the_part_and_a_slanting_one_where_it_ends() -> None:
    made = plate()
    made.sketch("s3", made.face("s2/end"), disc((20, 15), 6))
    made.extrude("s4", "s3", "4", "cut")
    assert handle(grips(made, "s4")[0])[2] == pytest.approx(6)
    assert handle(grips(made, "s4")[0], 9)[2] == pytest.approx(1)


def test_a_blind_hole_is_held_at_its_depth_and_a_through_one_is_not() -> None:
    made = plate()
    made.sketch("s3", made.face("s2/end"), Sketch(entities=[P(id="p1", at=(12, 9))]))
    made.step("hole", "s4", sketch="s3", diameter="4", end="blind", depth="6")
    assert handle(grips(made, "s4")[0]) == pytest.approx((12, 9, 4))
    made.do("set_step", step="s4", changes={"end": "through"})
    assert "grips" not in made.report("s4").extra


@pytest.mark.parametrize("radius", [2.0, 3.5])
def test_a_round_is_held_where_it_ends_on_a_face(radius: float) -> None:
    """At a right angle as far from the edge as the radius; at a blunt one nearer."""
    made = plate()
    groups = [
        {"edges": [{"by": "around", "face": face("s2/end")}], "radius": str(radius)},
        {"edges": [made.edge("s2/side/l1", "s2/side/l2")], "radius": "1"},
    ]
    made.step("fillet", "s3", groups=groups)
    one, two = grips(made, "s3")
    assert (one["path"], two["path"]) == ("groups.0.radius", "groups.1.radius")
    assert math.hypot(*one["way"]) == pytest.approx(1)
    on = handle(one)
    walls = [surface(f) for b in made.build().state.bodies for f in faces(b.shape)]
    flat = [s for s in walls if s.kind == "plane"]
    # on a flat face, and on the line where the round begins: as far from the next face as the radius
    off = sorted(abs(sum((p - q) * n for p, q, n in zip(on, s.at, s.direction, strict=True))) for s in flat)
    assert off[0] == pytest.approx(0, abs=1e-9)
    assert off[1] == pytest.approx(radius)


def test_a_round_at_a_blunt_edge_ends_nearer_to_it() -> None:
    from sulvak_core.sketch.model import Line

    made = Made()
    corners = [(0, 0), (40, 0), (60, 20 * math.sqrt(3)), (0, 40)]
    lines = [Line(id=f"l{k + 1}", p=p, q=corners[(k + 1) % 4]) for k, p in enumerate(corners)]
    made.sketch("s1", "top", Sketch(entities=lines))
    made.extrude("s2", "s1", "10")
    made.step("fillet", "s3", groups=[{"edges": [made.edge("s2/side/l1", "s2/side/l2")], "radius": "6"}])
    [held] = grips(made, "s3")
    # 120° between the faces: the round ends r / tan 60° from the edge
    assert math.hypot(*held["way"]) == pytest.approx(1 / math.tan(math.radians(60)))


def test_on_the_rim_of_a_hole_the_distance_goes_into_the_material() -> None:
    """The middle of a face with a hole in it may lie in the hole."""
    made = plate()
    made.sketch("s3", made.face("s2/end"), disc((20, 15), 6))
    made.extrude("s4", "s3", None, "cut")
    made.step("chamfer", "s5", edges=[made.edge("s2/end", "s4/side/c1")], first="2")
    for side in made.report("s5").extra["sides"]:
        x, y, z = side["to"]
        out = math.hypot(x - 20, y - 15)
        assert (out, z) in (pytest.approx((8, 10)), pytest.approx((6, 8)))


def test_a_chamfer_is_held_by_each_of_its_distances() -> None:
    made = plate()
    made.step("chamfer", "s3", edges=[made.edge("s2/end", "s2/side/l1")], form="two", first="1", second="3")
    one, two = grips(made, "s3")
    assert (one["path"], two["path"]) == ("first", "second")
    assert math.dist(handle(one), one["at"]) == pytest.approx(1)
    assert math.dist(handle(two), two["at"]) == pytest.approx(3)
    made.do("set_step", step="s3", changes={"form": "equal"})
    assert [g["path"] for g in grips(made, "s3")] == ["first"]
