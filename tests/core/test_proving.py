"""Callouts proven on the finished solid: measured, never read back from the input."""

import math
from typing import Any

import pytest

from sulvak_core.inspect.prove import prove
from sulvak_core.sketch.model import Point, Sketch

from .parts import Made, plate
from .sketches import arc, circle, line, rectangle, sizes, ties


def verdicts(made: Made, *callouts: tuple[str, str, str]) -> list[dict[str, Any]]:
    for n, (text, step, field) in enumerate(callouts, 1):
        made.do("set_callout", callout={"id": f"b{n}", "number": n, "text": text})
        if step:
            link = {"step": step, "field": field}
            rows = [c.model_dump() for c in made.document.callouts]
            rows[-1]["link"] = link  # linked without feeding: the solid keeps its own size
            made.document = type(made.document).model_validate({**made.document.model_dump(), "callouts": rows})
    return prove(made.document, made.build())


def drilled() -> Made:
    """A plate 40 × 30 × 10 with two equal through holes 20 apart and a blind one."""
    made = plate()
    holes = Sketch(
        entities=[circle(1, (10, 15), 3), circle(2, (30, 15), 3)],
        constraints=ties("equal c1 c2", "horizontal c1.c c2.c"),
        dimensions=sizes("diameter 6 c1", "distance 20 c1.c c2.c", "distance 10 c1.c y", "distance 15 c1.c x"),
    )
    made.sketch("s3", made.face("s2/end"), holes)
    made.extrude("s4", "s3", None, "cut")
    made.sketch("s5", made.face("s2/end"), Sketch(entities=[circle(1, (20, 24), 2)], dimensions=sizes("diameter 4 c1")))
    made.extrude("s6", "s5", "5", "cut")
    return made


def test_what_a_step_that_is_not_built_asks_for_is_told_as_that() -> None:
    made = drilled()
    made.do("set_step", step="s6", changes={"suppressed": True})
    found = verdicts(made, ("5", "s6", "depth"), ("2", "s6", "taper"), ("3", "s6", "wall"), ("10", "s2", "depth"))
    assert [v["said"].partition("; ")[2] for v in found[:3]] == ["its step is not built"] * 3
    assert [v["state"] for v in found] == ["used", "used", "used", "proven"]


def test_sizes_of_every_kind_are_measured() -> None:
    found = verdicts(
        drilled(),
        ("40", "s1", "d1"),
        ("30 ±0.1", "s1", "d2"),
        ("10", "s2", "depth"),
        ("2X Ø6 THRU", "s3", "d1"),
        ("20", "s3", "d2"),
        ("15", "s3", "d4"),
        ("Ø4 ↧ 5", "s5", "d1"),
        ("5", "s6", "depth"),
        ("2X R3", "s3", "d1"),
        ("(40)", "s1", "d1"),
    )
    assert [v["state"] for v in found] == ["proven"] * 9 + ["reference"]
    wanted = [40, 30, 10, 6, 20, 15, 4, 5, 3, 40]
    assert [v["measured"] for v in found] == pytest.approx(wanted, abs=1e-9)
    assert found[3]["count"] == 2


@pytest.mark.parametrize(
    ("callout", "said"),
    [
        (("41", "s1", "d1"), "measures 40"),
        (("40.2 ±0.1", "s1", "d1"), "measures 40"),
        (("3X Ø6 THRU", "s3", "d1"), "2 found, 3 asked"),
        (("Ø4 THRU", "s5", "d1"), "does not go through"),
        (("Ø4 ↧ 6", "s5", "d1"), "5 mm deep, 6 asked"),
        (("Ø7 THRU", "s3", "d1"), "measures 6; 2 found, 1 asked"),
    ],
)
def test_what_is_not_as_asked_is_told(callout: tuple[str, str, str], said: str) -> None:
    found = verdicts(drilled(), callout)[0]
    assert found["state"] == "out"
    assert said in found["said"]


def test_tolerance_limits_count() -> None:
    found = verdicts(drilled(), ("40.1 ±0.1", "s1", "d1"), ("39.95 +0.1/-0.05", "s1", "d1"))
    assert [v["state"] for v in found] == ["proven", "proven"]


def test_a_wrong_solid_is_found_out_though_the_input_is_right() -> None:
    """The sketch says 40, but a later cut took 5 off the end: the dimension no longer holds on the part."""
    made = plate()
    made.sketch("s3", "top", rectangle(1, 35, -1, 10, 40, held=False))
    made.extrude("s4", "s3", None, "cut")
    found = verdicts(made, ("40", "s1", "d1"), ("30", "s1", "d2"))
    assert found[0]["state"] == "used"
    assert "no face of the part shows one of its ends" in found[0]["said"]
    assert found[1]["state"] == "proven"


def test_notes_open_ones_and_steps_not_built() -> None:
    made = drilled()
    made.do("set_hold", step="s2")
    found = verdicts(made, ("BREAK EDGES", "", ""), ("12", "", ""), ("Ø6", "s3", "d1"), ("5", "s6", "depth"))
    assert [v["state"] for v in found] == ["note", "open", "used", "used"]


def test_angles_arcs_and_slanted_lengths() -> None:
    made = Made()
    wedge = Sketch(
        entities=[
            line(1, (0, 0), (40, 0)),
            line(2, (40, 0), (40, 10)),
            line(3, (40, 10), (0, 25)),
            line(4, (0, 25), (0, 0)),
        ],
        constraints=ties(
            "coincident l1.q l2.p", "coincident l2.q l3.p", "coincident l3.q l4.p", "coincident l4.q l1.p",
            "coincident l1.p origin", "horizontal l1", "vertical l2", "vertical l4",
        ),
        dimensions=sizes("distance 40 l1", "angle 60 l4 l3", "distance 10 l2", "distance 11 l3"),
    )  # fmt: skip
    wedge.dimensions[3] = wedge.dimensions[3].model_copy(update={"driving": False})
    wedge.dimensions[1] = wedge.dimensions[1].model_copy(update={"supplement": True})
    made.sketch("s1", "front", wedge)
    made.extrude("s2", "s1", "8")
    slanted = 40 / math.cos(math.radians(30))
    found = verdicts(made, ("60°", "s1", "d2"), (f"{slanted:.9f} ±0.00001", "s1", "d4"), ("10", "s1", "d3"))
    assert [v["state"] for v in found] == ["proven"] * 3


def test_rounded_ends_count_their_radii() -> None:
    made = Made()
    slot = Sketch(
        entities=[
            line(1, (0, 5), (20, 5)),
            line(2, (20, -5), (0, -5)),
            arc(1, (20, 0), 5, -90, 90),
            arc(2, (0, 0), 5, 90, 270),
        ],
        constraints=ties(
            "coincident l1.q a1.q", "coincident a1.p l2.p", "coincident l2.q a2.q", "coincident a2.p l1.p",
            "tangent l1 a1", "tangent a1 l2", "tangent l2 a2", "tangent a2 l1", "equal a1 a2", "coincident a2.c origin",
            "horizontal l1",
        ),
        dimensions=sizes("radius 5 a1", "distance 20 a1.c a2.c"),
    )  # fmt: skip
    made.sketch("s1", "top", slot)
    made.extrude("s2", "s1", "3")
    assert made.volume() == pytest.approx((200 + 25 * math.pi) * 3, rel=1e-9)
    found = verdicts(made, ("2X R5", "s1", "d1"), ("20", "s1", "d2"))
    assert [v["state"] for v in found] == ["proven", "proven"]


def test_points_drilled_and_walls_about_one_centre_are_measured() -> None:
    made = plate()
    made.sketch("s3", made.face("s2/end"), Sketch(
        entities=[Point(id="p1", at=(10, 15)), Point(id="p2", at=(30, 15))],
        constraints=ties("horizontal p1 p2"),
        dimensions=sizes("distance 20 p1 p2", "distance 10 p1 y", "distance 15 p1 x"),
    ))  # fmt: skip
    made.step("hole", "s4", sketch="s3", diameter="3")
    made.sketch("s5", made.face("s2/end"), Sketch(
        entities=[circle(1, (20, 24), 4), circle(2, (20, 24), 2)],
        constraints=ties("concentric c1 c2"),
        dimensions=sizes("distance 2 c1 c2", "diameter 8 c1"),
    ))  # fmt: skip
    made.extrude("s6", "s5", "5")
    found = verdicts(made, ("20", "s3", "d1"), ("10", "s3", "d2"), ("15", "s3", "d3"), ("2", "s5", "d1"))
    assert [v["state"] for v in found] == ["proven"] * 4
    assert [v["measured"] for v in found] == pytest.approx([20, 10, 15, 2], abs=1e-9)


def test_sizes_from_construction_lines_show_where_their_ends_do() -> None:
    made = plate()
    made.sketch("s3", made.face("s2/end"), Sketch(
        entities=[line(1, (8, 8), (28, 8), construction=True), line(2, (8, 8), (18, 25), construction=True),
                  circle(1, (8, 8), 2), circle(2, (28, 8), 2), circle(3, (18, 25), 2)],
        constraints=ties("coincident l1.p c1.c", "coincident l1.q c2.c", "coincident l2.p c1.c",
                         "coincident l2.q c3.c", "equal c1 c2", "equal c1 c3", "horizontal l1"),
        dimensions=sizes("angle 60 l1 l2", "distance 20 l1", "diameter 4 c1"),
    ))  # fmt: skip
    made.extrude("s4", "s3", None, "cut")
    found = verdicts(made, ("60°", "s3", "d1"), ("20", "s3", "d2"), ("3X Ø4 THRU", "s3", "d3"))
    assert [v["state"] for v in found] == ["proven"] * 3
    assert found[0]["measured"] == pytest.approx(60, abs=1e-7)


@pytest.mark.parametrize("drafted", [False, True])
def test_the_corners_of_a_rounded_outline_are_measured_where_its_walls_would_meet(drafted: bool) -> None:
    made = plate()
    made.do("sketch_fillet", step="s1", corners=["l1.q", "l2.q", "l3.q", "l4.q"], radius="6")
    if drafted:  # drafted sizes are meant in the sketch's plane
        made.step("draft", "s3", neutral={"kind": "face", "face": made.face("s2/start")},
                  groups=[{"faces": [{"by": "sides", "step": "s2"}], "angle": "3"}])  # fmt: skip
    asked = [("40", "s1", "d1"), ("30", "s1", "d2"), ("4X R6", "s1", "d3")]
    found = verdicts(made, *asked, *([("3°", "s3", "angle")] if drafted else []))
    assert {v["state"] for v in found} == {"proven"}, [v["said"] for v in found]


def test_a_hole_through_two_walls_and_copies_in_a_pattern_are_counted() -> None:
    made = Made()
    u = [(0, 0), (40, 0), (40, 20), (36, 20), (36, 4), (4, 4), (4, 20), (0, 20)]
    outline = [line(i + 1, u[i], u[(i + 1) % 8]) for i in range(8)]
    made.sketch("s1", "front", Sketch(entities=outline))
    made.extrude("s2", "s1", "30", kind="symmetric")
    made.sketch("s3", "right", Sketch(entities=[circle(1, (-8, 12), 2)], dimensions=sizes("diameter 4 c1")))
    made.extrude("s4", "s3", "100", "cut", kind="symmetric")
    made.step("pattern", "s5", of=["s4"], along={"kind": "axis", "axis": "y"}, count="2", spacing="16")
    for asked, state in (("4X Ø4 THRU", "proven"), ("2X Ø4 THRU", "proven"), ("3X Ø4 THRU", "out")):
        [found] = verdicts(made, (asked, "s3", "d1"))
        assert found["state"] == state, found["said"]


@pytest.mark.parametrize(
    ("fields", "asked", "field", "state"),
    [
        ({"form": "equal", "first": "2"}, "2×45°", "first", "proven"),
        ({"form": "equal", "first": "2"}, "3×45°", "first", "out"),
        ({"form": "two", "first": "2", "second": "3"}, "2", "first", "proven"),
        ({"form": "two", "first": "2", "second": "3"}, "3", "second", "proven"),
        ({"form": "two", "first": "2", "second": "3"}, "2×45°", "first", "out"),
        ({"form": "angle", "first": "2", "angle": "30"}, "30°", "angle", "proven"),
        ({"form": "angle", "first": "2", "angle": "30"}, "2×30°", "first", "proven"),
    ],
)
@pytest.mark.parametrize("where", ["s2/side/l1", "s4/side/c1"])
def test_chamfers_are_measured_by_their_legs(
    where: str, fields: dict[str, str], asked: str, field: str, state: str
) -> None:
    made = plate()
    made.sketch("s3", made.face("s2/end"), Sketch(entities=[circle(1, (20, 15), 5)]))
    made.extrude("s4", "s3", None, "cut")
    made.step("chamfer", "s5", edges=[made.edge("s2/end", where)], **fields)
    [found] = verdicts(made, (asked, "s5", field))
    assert found["state"] == state, found["said"]


def test_thin_walls_tapers_two_depths_and_rounds_of_several_radii() -> None:
    made = plate()
    made.sketch("s3", made.face("s2/end"), Sketch(entities=[line(1, (6, 15), (30, 15))]))
    made.extrude("s4", "s3", "8", wall="1.5")
    made.sketch("s5", {"kind": "datum", "plane": "right"}, Sketch(entities=[circle(1, (40, 5), 2)]))
    made.do("add_step", step={"kind": "extrude", "id": "s6", "sketch": "s5", "operation": "new",
                              "extent": {"kind": "two_depths", "depth": "7", "back": "3"}})  # fmt: skip
    made.sketch("s7", "top", rectangle(1, 100, 0, 20, 20))
    made.extrude("s8", "s7", "10", "new", taper="5")
    made.step("fillet", "s9", groups=[{"edges": [made.edge("s2/side/l1", "s2/side/l2")], "radius": "3"},
                                      {"edges": [made.edge("s2/side/l2", "s2/side/l3")], "radius": "4"}])  # fmt: skip
    found = verdicts(made, ("1.5", "s4", "wall"), ("8", "s4", "depth"), ("7", "s6", "depth"), ("3", "s6", "back"),
                     ("5°", "s8", "taper"), ("R3", "s9", "radius"), ("R4", "s9", "radius2"),
                     ("R5", "s9", "radius2"))  # fmt: skip
    assert [(v["state"], v["said"]) for v in found[:7]] == [("proven", v["said"]) for v in found[:7]]
    assert [round(v["measured"], 6) for v in found[:7]] == [1.5, 8, 7, 3, 5, 3, 4]
    assert found[7]["state"] == "out"


def test_turned_walls_stand_where_they_were_drawn() -> None:
    made = Made()
    made.sketch("s1", "front", Sketch(
        entities=[line(1, (6, 0), (15, 0)), line(2, (15, 0), (15, 20)), line(3, (15, 20), (6, 20)),
                  line(4, (6, 20), (6, 0))],
        dimensions=sizes("distance 15 l2 y", "distance 9 l1", "distance 20 l2"),
    ))  # fmt: skip
    made.step("revolve", "s2", sketch="s1", axis={"kind": "axis", "axis": "z"})
    found = verdicts(made, ("15", "s1", "d1"), ("9", "s1", "d2"), ("20", "s1", "d3"))
    assert [v["state"] for v in found] == ["proven"] * 3, [v["said"] for v in found]
