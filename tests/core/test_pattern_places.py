"""Where the places of a pattern are told to be: on the copies themselves."""

import math
from typing import Any

import numpy as np
import pytest

from sulvak_core.inspect.mass import mass
from sulvak_core.sketch.model import Sketch
from sulvak_core.solid.measure import box
from sulvak_core.solid.shapes import faces

from .parts import Made, disc, plate
from .sketches import rectangle

X, Y, Z = ({"kind": "axis", "axis": a} for a in "xyz")


def drilled(**fields: Any) -> Made:
    made = plate(120, 80)
    made.sketch("s3", "top", disc((60, 20), 3))
    made.extrude("s4", "s3", None, "cut")
    made.step("pattern", "s5", of=["s4"], **fields)
    return made


def told(grid: dict[str, Any], i: int, j: int) -> np.ndarray[Any, Any]:
    """As the screen works a place out from what is told."""
    at = np.array(grid["at"])
    if "axis" not in grid:
        return at + i * np.array(grid["first"]) + j * np.array(grid["second"])
    about, way = np.array(grid["axis"]["at"]), np.array(grid["axis"]["direction"])
    angle, d = math.radians(i * grid["degrees"]), at - about
    turned = d * math.cos(angle) + np.cross(way, d) * math.sin(angle) + way * (way @ d) * (1 - math.cos(angle))
    return about + turned


@pytest.mark.parametrize(
    "fields",
    [
        {"along": X, "count": "3", "spacing": "12", "second": Y, "second_count": "2", "second_spacing": "30"},
        {"along": X, "count": "4", "spacing": "36", "measure": "total", "reverse": True},
        {"along": Y, "count": "3", "spacing": "15", "second": X, "second_spacing": "14", "second_reverse": True},
    ],
)
def test_places_in_rows_are_those_of_the_copies(fields: dict[str, Any]) -> None:
    check(drilled(**fields))


@pytest.mark.parametrize(
    "fields", [{"count": "4"}, {"count": "3", "angle": "40", "measure": "spacing"}, {"count": "3", "angle": "90"}]
)
@pytest.mark.parametrize("reverse", [False, True])
def test_places_round_an_axis_are_those_of_the_copies(fields: dict[str, Any], reverse: bool) -> None:
    made = plate(120, 80)
    made.sketch("s3", "top", disc((60, 20), 3))
    made.extrude("s4", "s3", None, "cut")
    made.sketch("s6", "top", disc((60, 40), 1))
    made.extrude("s7", "s6", None, "cut")
    axis = {"kind": "face", "face": made.face("s7/side/c1")}
    made.step(
        "pattern", "s5", of=["s4"], form="circular", along=axis, reverse=reverse, **{"measure": "total", **fields}
    )
    check(made)


def check(made: Made) -> None:
    build = made.build()
    report = build.reports[-1]
    assert report.state == "ok", report.said
    grid, solid = report.extra["grid"], build.state.bodies[0].solid
    walls = {t: f for f in faces(solid.shape) for t in solid.face_tags(f) if t.startswith("s5/")}
    assert len({t.split("/")[1] for t in walls}) == grid["counts"][0] * grid["counts"][1] - 1
    for tag, wall in walls.items():
        name = tag.split("/")[1][1:]
        i, _, j = name.partition("x")
        low, high = box(wall)
        middle = (np.array(low) + np.array(high)) / 2
        # the tool goes through and beyond: only where it stands counts
        assert told(grid, int(i), int(j or 0))[:2] == pytest.approx(middle[:2], abs=1e-9)


def test_a_mirroring_has_no_places() -> None:
    made = drilled(form="mirror", plane={"kind": "datum", "plane": "front"})
    assert "grid" not in made.build().reports[-1].extra


def test_the_box_around_bodies_and_the_part() -> None:
    made = plate(120, 80)
    made.sketch("s3", "top", disc((200, 10), 5))
    made.extrude("s4", "s3", "30", "new")
    found = mass(made.document, made.build().state)
    assert [b["box"] for b in found["bodies"]] == [[[0, 0, 0], [120, 80, 10]], [[195, 5, 0], [205, 15, 30]]]
    assert found["box"] == [[0, 0, 0], [205, 80, 30]]
    assert mass(Made().document, Made().build().state)["box"] is None


def test_cuts_repeated_together_take_away_what_they_do_one_by_one() -> None:
    """Overlapping cuts and holes mirrored in one step, and each in a step of its own: the same faces with the same
    origins, but for the step's own name; also where the cuts split the body."""

    def begun() -> Made:
        made = plate(60, 30)
        for n, (x, y, r) in enumerate([(12, 10, 4), (17, 12, 3), (14, 22, 5)]):
            made.sketch(f"s{10 + n}", made.face("s2/end"), disc((x, y), r))
            made.extrude(f"s{20 + n}", f"s{10 + n}", None if n else "4", "cut")
        made.sketch("s13", made.face("s2/end"), Sketch(entities=rectangle(x=24, y=0, w=3, h=30).entities))
        made.extrude("s23", "s13", None, "cut")
        made.step("datum", "s30", form="offset", plane={"kind": "datum", "plane": "right"}, distance="30")
        return made

    def named(made: Made) -> set[frozenset[str]]:
        bodies = made.build().state.bodies
        return {
            frozenset(t.split("/i1/")[-1] if t.split("/")[0] in names else t for t in tags)
            for b in bodies
            for _, tags in b.solid.tags.items()
        }

    names = {"s40", "s41", "s42", "s43"}
    plane = {"kind": "plane", "step": "s30"}
    together, apart = begun(), begun()
    together.step("pattern", "s40", form="mirror", of=["s20", "s21", "s22", "s23"], plane=plane)
    for n in range(4):
        apart.step("pattern", f"s4{n}", form="mirror", of=[f"s2{n}"], plane=plane)
    assert together.volume() == pytest.approx(apart.volume(), rel=1e-12)
    assert len(together.build().state.bodies) == len(apart.build().state.bodies) == 3
    assert named(together) == named(apart)
