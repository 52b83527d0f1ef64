"""Sizes of every kind of step measured on the finished solid, and what a callout says besides its own size: circles and
rows of holes, spotfaces, what a thread is drilled from."""

from __future__ import annotations

import math
from typing import Any

import pytest

from sulvak_core.inspect.layout import misplaced, row_wrong
from sulvak_core.inspect.prove import prove
from sulvak_core.sheet.notation import parse
from sulvak_core.sketch.model import Point, Sketch

from .parts import Made, plate
from .sketches import arc, circle, line, rectangle, sizes, ties
from .test_rib import ribbed

Z = (0.0, 0.0, 1.0)


def one(made: Made, text: str, step: str, field: str) -> dict[str, Any]:
    """The verdict on one more callout, which feeds nothing."""
    n = len(made.document.callouts) + 1
    made.do("set_callout", callout={"id": f"b{n}", "number": n, "text": text})
    rows = [c.model_dump() for c in made.document.callouts]
    rows[-1]["link"] = {"step": step, "field": field}
    made.document = type(made.document).model_validate({**made.document.model_dump(), "callouts": rows})
    return prove(made.document, made.build())[-1]


def around(n: int, radius: float, start: float = 0.0, off: float = 0.0) -> list[tuple[float, float, float]]:
    turns = [math.radians(start + 360 * k / n + (off if k == 1 else 0.0)) for k in range(n)]
    return [(5 + radius * math.cos(t), 7 + radius * math.sin(t), float(k)) for k, t in enumerate(turns)]


@pytest.mark.parametrize(
    ("axes", "text", "wrong"),
    [
        (around(6, 30, 10), "6X ⌀5 EQ SP ON ⌀60 BC", []),
        (around(6, 30), "6X ⌀5 ON A ⌀60 BOLT CIRCLE", []),
        (around(6, 29.9), "6X ⌀5 EQ SP ON ⌀60 BC", ["on a circle of Ø59.8, 60 asked"]),
        (around(6, 30, off=1), "6X ⌀5 EQ SP ON ⌀60 BC", ["not equally spaced"]),
        (around(6, 30, off=1), "6X ⌀5 ON PCD 60", []),
        (around(2, 30), "2X ⌀5 ON PCD 60", []),
        ([(0, 0, 0), (10, 0, 3), (20, 0, 0)], "3X ⌀5 EQ SP", []),
        ([(0, 0, 0), (10, 0, 3), (21, 0, 0)], "3X ⌀5 EQ SP", ["not equally spaced"]),
        (around(6, 30), "6X ⌀5", []),
    ],
)
def test_where_holes_lie_to_each_other(axes: list[Any], text: str, wrong: list[str]) -> None:
    assert misplaced(axes, Z, parse(text, "mm")) == wrong


def test_what_is_on_no_circle() -> None:
    axes = [*around(5, 30), (0.0, 0.0, 0.0)]
    [said] = misplaced(axes, Z, parse("6X ⌀5 ON PCD 60", "mm"))
    assert said.startswith("not on one circle")


@pytest.mark.parametrize(
    ("places", "wrong"),
    [
        ([0, 12, 24, 36, 48, 60], []),
        ([60, 12, 24, 12, 36, 48, 0], []),
        ([0, 12, 24, 36, 48], ["4 spaces found, 5 asked", "48 together, 60 asked"]),
        ([0, 10, 24, 36, 48, 61], ["61 together, 60 asked"]),
    ],
)
def test_rows_of_so_many_spaces(places: list[float], wrong: list[str]) -> None:
    assert row_wrong(places, parse("5 × 12 (=60)", "mm")) == wrong


def drilled(step: dict[str, Any], points: list[tuple[float, float]] | None = None) -> Made:
    made = plate()
    at = points or [(10, 15), (30, 15)]
    entities = [Point(id=f"p{n}", at=p) for n, p in enumerate(at, 1)]
    made.sketch("s3", made.face("s2/end"), Sketch(entities=entities))
    made.step("hole", "s4", sketch="s3", **step)
    return made


def test_countersinks_drill_points_and_spotfaces() -> None:
    sunk = drilled({"form": "countersink", "diameter": "4", "sink_diameter": "8", "sink_angle": "90"})
    assert one(sunk, "2X Ø8", "s4", "sink_diameter")["state"] == "proven"
    assert one(sunk, "90°", "s4", "sink_angle")["measured"] == pytest.approx(90)
    assert one(sunk, "82°", "s4", "sink_angle")["state"] == "out"
    blind = drilled({"diameter": "4", "end": "blind", "depth": "5", "tip_angle": "118"})
    assert one(blind, "118°", "s4", "tip_angle")["measured"] == pytest.approx(118)
    spot = drilled({"form": "counterbore", "diameter": "4", "bore_diameter": "9", "bore_depth": "0.5"})
    assert one(spot, "2X Ø4 THRU SF Ø9 ↧ 0.5", "s4", "diameter")["state"] == "proven"
    assert "spotface Ø9, 10 asked" in one(spot, "2X Ø4 THRU SF Ø10", "s4", "diameter")["said"]
    assert "spotface ↧ 0.5, 1 asked" in one(spot, "2X Ø4 THRU SF Ø9 ↧ 1", "s4", "diameter")["said"]


def test_what_a_thread_is_drilled_from() -> None:
    made = drilled({"form": "tapped", "size": "M4", "end": "blind", "depth": "8"})
    assert one(made, "2X Ø3.3 ↧ 8 M4 ↧ 6", "s4", "diameter")["state"] == "proven"
    assert "drilled Ø3.3, 3.4 asked" in one(made, "2X Ø3.4 ↧ 8 M4 ↧ 6", "s4", "diameter")["said"]
    assert "drilled ↧ 8, 7 asked" in one(made, "2X Ø3.3 ↧ 7 M4 ↧ 6", "s4", "diameter")["said"]
    assert "too shallow" in one(made, "2X M4 ↧ 9", "s4", "diameter")["said"]


def test_holes_round_a_circle_are_held_to_it() -> None:
    at = [(20 + 9 * math.cos(t), 15 + 9 * math.sin(t)) for t in (0.0, math.pi / 2, math.pi, 1.5 * math.pi)]
    made = drilled({"diameter": "3"}, at)
    assert one(made, "4X Ø3 EQ SP ON Ø18 BC", "s4", "diameter")["state"] == "proven"
    assert "on a circle of Ø18, 20 asked" in one(made, "4X Ø3 EQ SP ON Ø20 BC", "s4", "diameter")["said"]
    # and so when they are circles of a sketch, cut through
    drawn = plate()
    holes = [circle(n, p, 1.5) for n, p in enumerate(at, 1)]
    drawn.sketch("s3", drawn.face("s2/end"), Sketch(entities=holes, dimensions=sizes("diameter 3 c1")))
    drawn.extrude("s4", "s3", None, "cut")
    assert one(drawn, "4X Ø3 EQ SP ON Ø18 BC", "s3", "d1")["state"] == "proven"
    assert "on a circle of Ø18, 19 asked" in one(drawn, "4X Ø3 ON Ø19 BC", "s3", "d1")["said"]


def rowed(count: int = 4, measure: str = "spacing", spacing: str = "8", **more: Any) -> Made:
    """A hole at (6, 15) of a plate 40 × 30, repeated along x."""
    made = drilled({"diameter": "3"}, [(6, 15)])
    made.step("pattern", "s5", of=["s4"], count=str(count), spacing=spacing, measure=measure, **more)
    return made


def test_rows_are_measured_from_copy_to_copy() -> None:
    x = {"along": {"kind": "axis", "axis": "x"}}
    assert one(rowed(**x), "8", "s5", "spacing")["measured"] == pytest.approx(8)
    assert one(rowed(**x), "3 × 8 (=24)", "s5", "spacing")["state"] == "proven"
    assert "3 spaces found, 4 asked" in one(rowed(**x), "4 × 8 (=32)", "s5", "spacing")["said"]
    assert one(rowed(3, "total", "20", **x), "20", "s5", "spacing")["measured"] == pytest.approx(20)
    both = rowed(
        3, **x, second={"kind": "axis", "axis": "y"}, second_count="2", second_spacing="7", second_reverse=True
    )
    assert one(both, "7", "s5", "second_spacing")["state"] == "proven"
    assert one(both, "7.5", "s5", "second_spacing")["state"] == "out"
    # one left out of the middle: the steps are still of 8
    gap = rowed(4, **x, left_out=[(2, 0)])
    assert one(gap, "8", "s5", "spacing")["state"] == "proven"


@pytest.mark.parametrize(
    ("count", "angle", "measure", "asked"),
    [
        (6, "360", "total", "360°"),
        (6, "60", "spacing", "60°"),
        (4, "90", "total", "90°"),
        (5, "100", "spacing", "100°"),
    ],
)
def test_turns_are_added_from_copy_to_copy(count: int, angle: str, measure: str, asked: str) -> None:
    """Round an axis of the part, four steps of 100° too, which go more than once round."""
    made = Made()
    made.sketch("s1", "top", Sketch(entities=[circle(1, (0, 0), 30)], dimensions=sizes("diameter 60 c1")))
    made.extrude("s2", "s1", "5")
    made.sketch("s3", made.face("s2/end"), Sketch(entities=[Point(id="p1", at=(20, 3))]))
    made.step("hole", "s4", sketch="s3", diameter="4")
    z = {"kind": "axis", "axis": "z"}
    made.step("pattern", "s5", form="circular", of=["s4"], count=str(count), angle=angle, measure=measure, along=z)
    found = one(made, asked, "s5", "angle")
    assert found["state"] == "proven", found
    assert one(made, "41°", "s5", "angle")["state"] == "out"


def test_a_row_in_a_sketch_is_counted_and_added() -> None:
    made = plate()
    at = [(5 + 6 * k, 15) for k in range(5)]
    holes = [circle(n, p, 1) for n, p in enumerate(at, 1)]
    drawn = Sketch(entities=holes, dimensions=sizes("diameter 2 c1", "distance 6 c1.c c2.c horizontal"))
    made.sketch("s3", made.face("s2/end"), drawn)
    made.extrude("s4", "s3", None, "cut")
    assert one(made, "4 × 6 (=24)", "s3", "d2")["state"] == "proven"
    assert "4 spaces found, 5 asked" in one(made, "5 × 6 (=30)", "s3", "d2")["said"]
    walls = one(made, "2 × 20 (=40)", "s1", "d1")
    assert walls["state"] == "used"
    assert "what it runs between is not round" in walls["said"]


def test_how_thick_a_rib_is_and_how_far_a_body_is_turned() -> None:
    tray = ribbed(line(1, (10, 20), (50, 20)), thickness="2.5")
    assert one(tray, "2.5", "s6", "thickness")["measured"] == pytest.approx(2.5)
    assert one(tray, "2", "s6", "thickness")["state"] == "out"
    made = Made()
    made.sketch("s5", "front", rectangle(x=5, y=0, w=10, h=8, held=False))
    made.step("revolve", "s6", sketch="s5", axis={"kind": "axis", "axis": "z"}, angle="250")
    assert one(made, "250°", "s6", "angle")["measured"] == pytest.approx(250)
    assert one(made, "240°", "s6", "angle")["state"] == "out"
    made.do("set_step", step="s6", changes={"angle": "360"})
    assert one(made, "360°", "s6", "angle")["measured"] == 360


def test_the_letters_of_a_text() -> None:
    made = plate()
    face = made.face("s2/end")
    made.step("text", "s3", text="HEX", face=face, height="6", depth="0.4")
    assert one(made, "0.4", "s3", "depth")["measured"] == pytest.approx(0.4)
    assert one(made, "6", "s3", "height")["measured"] == pytest.approx(6, abs=1e-6)
    assert one(made, "7", "s3", "height")["state"] == "out"
    raised = plate()
    raised.step("text", "s3", text="T4", face=face, height="5", depth="0.6", operation="raise")
    assert one(raised, "0.6", "s3", "depth")["measured"] == pytest.approx(0.6)


def test_the_wall_of_an_arc_is_as_long_as_it_is() -> None:
    made = Made()
    lens = Sketch(
        entities=[arc(1, (0, 0), 10, 0, 180), line(1, (-10, 0), (10, 0))],
        constraints=ties("coincident a1.p l1.q", "coincident a1.q l1.p"),
        dimensions=sizes(f"arc_length {10 * math.pi} a1"),
    )
    made.sketch("s1", "top", lens)
    made.extrude("s2", "s1", "4")
    found = one(made, "31.4159", "s1", "d1")
    assert found["measured"] == pytest.approx(10 * math.pi, abs=1e-4)
