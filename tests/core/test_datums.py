"""Datum points and the planes and axes that go through points: where they are, that they follow, what is refused."""

from __future__ import annotations

import math
from typing import Any

import pytest

from sulvak_core.sketch.model import Sketch

from .parts import Made, disc, plate
from .sketches import line

TOP = {"kind": "datum", "plane": "top"}
RIGHT = {"kind": "datum", "plane": "right"}
ORIGIN = {"kind": "origin"}


def corner(one: str, two: str, at: tuple[float, float, float]) -> dict[str, Any]:
    return {"edge": {"between": [{"origins": [one]}, {"origins": [two]}]}, "at": at}


FAR = corner("s2/side/l2", "s2/end", (40, 30, 10))  # of the plate 40 × 30 × 10


def drilled() -> Made:
    """The plate with a hole of radius 5 at (12, 9)."""
    made = plate()
    made.sketch("s3", "top", disc((12, 9), 5))
    made.extrude("s4", "s3", None, "cut")
    return made


RIM = {"kind": "edge", "edge": {"between": [{"origins": ["s4/side/c1"]}, {"origins": ["s2/end"]}]}}
WALL = {"kind": "face", "face": {"origins": ["s4/side/c1"]}}


@pytest.mark.parametrize(
    ("fields", "at", "said"),
    [
        ({"form": "point", "corners": [FAR]}, (40, 30, 10), "Datum point at a corner of the wall of step 20"),
        ({"form": "point", "corners": [ORIGIN]}, (0, 0, 0), "Datum point at the origin"),
        (
            {"form": "point", "corners": [{"kind": "point", "step": "s3", "point": "c1.c"}]},
            (12, 9, 0),
            "Datum point at a point of sketch 30",
        ),
        ({"form": "between", "corners": [ORIGIN, FAR]}, (20, 15, 5), "Datum point midway between the origin and a"),
        ({"form": "centre", "axis": RIM}, (12, 9, 10), "Datum point at the centre of the edge between the wall of"),
        ({"form": "centre", "axis": WALL}, (12, 9, 5), "Datum point at the centre of"),
        ({"form": "centre", "axis": {"kind": "face", "face": {"origins": ["s2/side/l1"]}}}, (20, 0, 5), "centre of"),
        ({"form": "meeting", "axis": WALL, "plane": TOP}, (12, 9, 0), "Datum point where the axis of the wall of"),
    ],
)  # fmt: skip
def test_points(fields: dict[str, Any], at: tuple[float, float, float], said: str) -> None:
    made = drilled()
    made.step("datum", "s5", **fields)
    report = made.report("s5")
    assert report.state == "ok", report.said
    assert report.extra["point"] == pytest.approx(at, abs=1e-9)
    assert report.sentence.startswith(said) or said in report.sentence


def test_the_middle_of_a_straight_edge() -> None:
    made = drilled()
    edge = {"kind": "edge", "edge": {"between": [{"origins": ["s2/side/l1"]}, {"origins": ["s2/end"]}]}}
    made.step("datum", "s5", form="centre", axis=edge)
    assert made.report("s5").extra["point"] == pytest.approx((20, 0, 10))


def test_a_point_follows_the_part_and_what_is_made_from_it_follows_too() -> None:
    made = drilled()
    made.step("datum", "s5", form="point", corners=[FAR])
    made.step("datum", "s6", form="between", corners=[ORIGIN, {"kind": "datum", "step": "s5"}])
    made.step("datum", "s7", form="alongside", plane=TOP, corners=[{"kind": "datum", "step": "s6"}])
    made.step("datum", "s8", form="joining", corners=[ORIGIN, {"kind": "datum", "step": "s5"}])
    made.step("datum", "s9", form="square", plane=RIGHT, corners=[{"kind": "datum", "step": "s6"}])
    made.do("sketch_dimension", step="s1", dimension="d1", changes={"expr": "60"})
    assert made.report("s6").extra["point"] == pytest.approx((30, 15, 5))
    assert made.report("s7").frame["origin"][2] == pytest.approx(5)
    assert made.report("s7").frame["normal"] == pytest.approx((0, 0, 1))
    long = math.sqrt(60**2 + 30**2 + 10**2)
    assert made.report("s8").extra["axis"]["direction"] == pytest.approx((60 / long, 30 / long, 10 / long))
    square = made.report("s9").extra["axis"]
    assert square["at"] == pytest.approx((30, 15, 5))
    assert [abs(v) for v in square["direction"]] == pytest.approx((1, 0, 0))


def test_a_hole_is_drilled_at_a_datum_point_and_moves_with_it() -> None:
    from sulvak_core.rebuild.external_edges import on_offer

    made = plate()
    made.step("datum", "s3", form="between", corners=[ORIGIN, FAR])
    made.sketch("s4", "top")
    built = made.build()
    offered = on_offer([], built.guides.frames["s4"], built.guides, ["s1", "s2", "s3"])
    assert [(o["of"], o["entity"]["kind"], o["entity"]["at"]) for o in offered] == [({"step": "s3"}, "point", [20, 15])]
    entity = {**offered[0]["entity"], "id": "p1"}
    projections = [{"of": offered[0]["of"], "entity": "p1"}]
    made.do("sketch_add", step="s4", entities=[entity], projections=projections)
    made.step("hole", "s5", sketch="s4", diameter="6", reverse=True)
    assert made.volume() == pytest.approx(12000 - math.pi * 9 * 10)
    made.do("sketch_dimension", step="s1", dimension="d1", changes={"expr": "60"})
    assert made.build().sketches["s4"].entities[0].at == pytest.approx((30, 15))
    assert made.volume() == pytest.approx(18000 - math.pi * 9 * 10)
    # without the point the sketch keeps what was drawn and says that its source is gone
    made.do("set_step", step="s3", changes={"suppressed": True})
    assert "gone" in made.report("s4").said


def test_an_axis_is_offered_to_sketches_as_a_line_that_bounds_nothing() -> None:
    from sulvak_core.rebuild.external_edges import on_offer

    made = drilled()
    made.step("datum", "s5", form="axis", axis=WALL)
    made.step("datum", "s6", form="crossing", plane=RIGHT, other=TOP)
    made.sketch("s7", "top")
    built = made.build()
    upright, level = on_offer([], built.guides.frames["s7"], built.guides, ["s5", "s6"])
    assert (upright["entity"]["kind"], upright["entity"]["at"]) == ("point", pytest.approx([12, 9]))
    assert level["entity"]["construction"] is True
    assert level["entity"]["p"][0] == pytest.approx(0) and level["entity"]["q"][0] == pytest.approx(0)


def test_a_line_axis_follows_a_sketch_that_follows_the_part() -> None:
    """The axis is where the sketch's line is now, not where it was drawn."""
    made = plate()
    made.step("datum", "s3", form="point", corners=[FAR])
    made.sketch("s4", "top")
    made.do("sketch_add", step="s4", entities=[{"id": "p1", "kind": "point", "at": [40, 30]}],
            projections=[{"of": {"step": "s3"}, "entity": "p1"}])  # fmt: skip
    drawn = Sketch(entities=[line(1, (40, 30), (40, 50))]).model_dump(mode="json")
    made.do("sketch_add", step="s4", entities=drawn["entities"],
            constraints=[{"id": "k1", "kind": "coincident", "refs": ["l1.p", "p1"]},
                         {"id": "k2", "kind": "vertical", "refs": ["l1"]}],
            dimensions=[{"id": "d1", "kind": "distance", "refs": ["l1.p", "l1.q"], "expr": "20"}])  # fmt: skip
    made.step("datum", "s5", form="axis", axis={"kind": "line", "step": "s4", "line": "l1"})
    made.do("sketch_dimension", step="s1", dimension="d1", changes={"expr": "55"})
    assert made.report("s5").extra["axis"]["at"] == pytest.approx((55, 30, 0))


@pytest.mark.parametrize(
    ("fields", "said"),
    [
        ({"form": "point"}, "takes one point"),
        ({"form": "between", "corners": [ORIGIN]}, "takes two points"),
        ({"form": "joining", "corners": [ORIGIN, ORIGIN]}, "in one place"),
        ({"form": "centre"}, "Choose a round edge"),
        ({"form": "centre", "axis": {"kind": "axis", "axis": "x"}}, "no centre"),
        ({"form": "meeting", "axis": {"kind": "axis", "axis": "x"}}, "Choose the plane"),
        ({"form": "meeting", "axis": {"kind": "axis", "axis": "x"}, "plane": TOP}, "never goes through"),
        ({"form": "square", "corners": [ORIGIN]}, "Choose the plane"),
        ({"form": "alongside", "corners": [ORIGIN]}, "Choose the plane"),
        ({"form": "point", "corners": [{"kind": "datum", "step": "s4"}]}, "point of step 40 is not there"),
        ({"form": "point", "corners": [{"kind": "point", "step": "s3", "point": "c9.c"}]}, "no longer in sketch 30"),
        ({"form": "point", "corners": [{"kind": "point", "step": "s2", "point": "c9.c"}]}, "no place in the part"),
    ],
)
def test_what_cannot_be_is_said(fields: dict[str, Any], said: str) -> None:
    made = drilled()
    made.step("datum", "s5", **fields)
    report = made.report("s5")
    assert report.state == "failed"
    assert said in report.said


def test_points_a_form_does_not_take_are_not_looked_for() -> None:
    made = plate()
    gone = corner("s2/side/l9", "s2/end", (0, 0, 0))  # no such wall
    made.step("datum", "s3", form="offset", plane=TOP, distance="4", corners=[gone])
    assert made.report("s3").frame["origin"][2] == pytest.approx(4)
