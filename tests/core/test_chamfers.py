"""A chamfer tells which of its distances lies on which face, and where."""

import math
from typing import Any

import pytest

from sulvak_core.part.units import in_unit

from .parts import Made, plate

EDGE = {"by": "pick", "edge": {"between": [{"origins": ["s2/end"]}, {"origins": ["s2/side/l1"]}]}}


def chamfered(**fields: Any) -> tuple[Made, str, list[dict[str, Any]]]:
    made = plate()
    made.do("add_step", step={"kind": "chamfer", "id": "s3", "edges": [EDGE], **fields})
    report = made.build().reports[-1]
    assert report.state == "ok", report.said
    return made, in_unit(report.said, "mm"), report.extra["sides"]


def test_both_distances_name_their_faces_and_can_be_swapped() -> None:
    made, said, sides = chamfered(form="two", first="1", second="3")
    assert said.startswith(
        "1 edge chamfered: 1 mm on the end face of step 20, 3 mm on the wall of step 20 from line 1."
    )
    assert made.build().state.volume() == pytest.approx(12000 - 40 * 1.5)
    # the first runs over the upper face, the second down the wall
    assert [s["size"] for s in sides] == [1, 3]
    (ax, ay, az), (bx, by, bz) = sides[0]["to"], sides[1]["to"]
    assert (ax, ay, az) == pytest.approx((20, 1, 10), abs=1e-9)
    assert (bx, by, bz) == pytest.approx((20, 0, 7), abs=1e-9)
    _, swapped, other = chamfered(form="two", first="1", second="3", swap=True)
    assert "1 mm on the wall of step 20 from line 1, 3 mm on the end face of step 20" in swapped
    assert other[0]["to"] == pytest.approx([20, 0, 9], abs=1e-9)


def test_an_angle_is_from_the_face_it_lies_on() -> None:
    made, said, sides = chamfered(form="angle", first="2", angle="30")
    assert "2 mm on the end face of step 20, 30° from it" in said
    depth = 2 * math.tan(math.radians(30))
    assert sides[1]["to"] == pytest.approx([20, 0, 10 - depth], abs=1e-9)
    assert made.build().state.volume() == pytest.approx(12000 - 40 * depth)


def test_an_equal_one_needs_no_names() -> None:
    _, said, sides = chamfered(first="2")
    assert said.startswith("1 edge chamfered. Removes")
    assert len(sides) == 2
