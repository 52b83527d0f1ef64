"""Mass figures in other frames, against closed forms."""

from __future__ import annotations

import math

import pytest

from sulvak_core.inspect.mass_in_frame import frames, mass_in_frame

from .parts import Made, plate
from .sketches import rectangle

RHO = 1.05e-3
MASS = 40 * 30 * 10 * RHO


def part() -> Made:
    made = plate(material="ABS")
    return made


def block(a: float, b: float) -> float:
    """The moment about an axis through the middle, square to sides a and b."""
    return MASS * (a * a + b * b) / 12


def test_in_the_parts_own_frame_it_is_the_figures_themselves() -> None:
    made = part()
    found = mass_in_frame(made.document, made.build())
    assert found["centre"] == pytest.approx([20, 15, 5])
    assert found["moments"] == pytest.approx(sorted([block(30, 10), block(40, 10), block(40, 30)]))
    assert found["axes"] == [pytest.approx(v) for v in ([1, 0, 0], [0, 1, 0], [0, 0, 1])]
    # about the corner: a block's own over its edge, m (b² + c²) / 3
    assert [found["about"][k][k] for k in range(3)] == pytest.approx(
        [MASS * (900 + 100) / 3, MASS * (1600 + 100) / 3, MASS * (1600 + 900) / 3]
    )
    assert found["about"][0][1] == pytest.approx(-MASS * 20 * 15)
    assert found["box"] == [[0, 0, 0], pytest.approx([40, 30, 10])]


def test_in_a_sketchs_frame_on_the_front_plane() -> None:
    """The front plane looks along y: its own y is the part's z, its normal the part's −y."""
    made = part()
    made.sketch("s3", "front", rectangle(w=5, h=5))
    found = mass_in_frame(made.document, made.build(), "s3")
    assert found["centre"] == pytest.approx([20, 5, -15])
    assert found["frame_name"].startswith("Sketch")
    assert found["box"][0] == pytest.approx([0, 0, -30])
    assert [found["inertia"][k][k] for k in range(3)] == pytest.approx([block(30, 10), block(40, 30), block(40, 10)])
    assert found["axes"][2] == pytest.approx([0, 1, 0])  # most mass turns about the part's z


def test_on_a_face_that_lies_off_the_origin() -> None:
    made = part()
    made.sketch("s3", made.face("s2/end"), rectangle(w=5, h=5))
    built = made.build()
    (_, frame) = frames(made.document, built)["s3"]
    found = mass_in_frame(made.document, built, "s3")
    assert found["centre"][2] == pytest.approx(5 - frame.origin[2])
    assert found["about"][2][2] == pytest.approx(
        block(40, 30) + MASS * (found["centre"][0] ** 2 + found["centre"][1] ** 2)
    )


def test_principal_axes_of_a_turned_block() -> None:
    made = Made(material="ABS")
    side = rectangle(w=40, h=30)
    made.sketch("s1", "top", side)
    made.extrude("s2", "s1", "10")
    made.step("move", "s3", bodies=["s2"], axis={"kind": "axis", "axis": "z"}, angle="30")
    built = made.build()
    assert not built.failed, [r.said for r in built.failed]
    found = mass_in_frame(made.document, built)
    assert found["moments"] == pytest.approx([block(30, 10), block(40, 10), block(40, 30)])
    c, s = math.cos(math.radians(30)), math.sin(math.radians(30))
    assert found["axes"][0] == pytest.approx([c, s, 0], abs=1e-9)


def test_without_a_material_there_are_no_moments_and_an_unknown_frame_is_the_origin() -> None:
    made = plate()
    found = mass_in_frame(made.document, made.build(), "s99")
    assert (found["moments"], found["mass"], found["frame_name"]) == (None, None, "the part's origin")
    assert found["centre"] == pytest.approx([20, 15, 5])


def test_an_empty_part() -> None:
    made = Made()
    found = mass_in_frame(made.document, made.build())
    assert (found["box"], found["bodies"]) == (None, [])
