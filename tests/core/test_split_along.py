"""Bodies parted along what a sketch draws, and by faces carried on: volumes of the pieces by hand."""

from __future__ import annotations

import math
from typing import Any

import pytest

from sulvak_core.sketch.model import Sketch

from .parts import Made, disc, plate
from .sketches import arc, line, rectangle

WHOLE = 60 * 40 * 10


def parted(drawn: Sketch, **fields: Any) -> Made:
    made = plate(60, 40)
    made.sketch("s3", "top", drawn)
    made.step("split", "s4", by="sketch", outline="s3", **fields)
    return made


def pieces(made: Made) -> list[float]:
    assert not made.build().failed, made.report("s4").said
    return sorted(b.solid.volume() for b in made.build().state.bodies)


def test_along_a_closed_outline() -> None:
    made = parted(disc((20, 20), 8))
    inside = math.pi * 64 * 10
    assert pieces(made) == pytest.approx([inside, WHOLE - inside])
    assert made.report("s4").sentence == "Split all bodies along the outline of sketch 30 keeping both sides"


@pytest.mark.parametrize(("keep", "share"), [("front", 1), ("back", 0)])
def test_one_side_of_it(keep: str, share: int) -> None:
    inside = math.pi * 64 * 10
    assert pieces(parted(disc((20, 20), 8), keep=keep)) == pytest.approx([inside if share else WHOLE - inside])


def test_along_a_chain_that_ends_inside_the_part() -> None:
    # a step in the middle: carried on straight, it parts the plate in two
    drawn = Sketch(entities=[line(1, (10, 15), (30, 15)), line(2, (30, 15), (30, 25)), line(3, (30, 25), (50, 25))])
    below = (30 * 15 + 30 * 25) * 10
    assert pieces(parted(drawn)) == pytest.approx(sorted([below, WHOLE - below]))
    # left of the chain as it is drawn lies above it
    assert pieces(parted(drawn, keep="front")) == pytest.approx([WHOLE - below])


def test_along_an_arc() -> None:
    # a half circle about (30, 0) from right to left, carried on straight down at both ends
    drawn = Sketch(entities=[arc(1, (30, 0), 10, 0, 180)])
    assert pieces(parted(drawn)) == pytest.approx(sorted([math.pi * 50 * 10, WHOLE - math.pi * 50 * 10]))


def test_two_regions_part_at_once() -> None:
    drawn = disc((15, 20), 5)
    drawn.entities += rectangle(first=5, x=35, y=10, w=10, h=10, held=False).entities
    made = parted(drawn)
    assert pieces(made) == pytest.approx(sorted([math.pi * 250, 1000, WHOLE - math.pi * 250 - 1000]))


def test_the_cut_faces_have_origins() -> None:
    from sulvak_core.solid.shapes import faces

    made = parted(disc((20, 20), 8))
    for body in made.build().state.bodies:
        tags = [t for f in faces(body.shape) for t in body.solid.face_tags(f)]
        assert "s4/side/c1" in tags
        assert all(body.solid.face_tags(f) for f in faces(body.shape))


REFUSED = [
    (disc((200, 20), 8), "passes through none"),
    (Sketch(entities=[line(1, (0, 5), (10, 5)), line(2, (0, 25), (10, 25))]), "this sketch has 2 chains"),
    (Sketch(entities=[]), "this sketch has none"),
]


@pytest.mark.parametrize(("drawn", "words"), REFUSED)
def test_what_parts_nothing_is_told(drawn: Sketch, words: str) -> None:
    made = parted(drawn)
    assert words in made.report("s4").said
    assert made.build().state.volume() == pytest.approx(WHOLE)


def test_what_is_not_chosen_is_asked_for() -> None:
    made = plate(60, 40)
    made.step("split", "s4", by="sketch")
    assert made.report("s4").said.startswith("Choose the sketch")
    made.step("split", "s5")
    assert made.report("s5").said.startswith("Choose the plane")


def post(taper: str = "0", **fields: Any) -> Made:
    """A round post of radius 8 on a plate 60 × 40 × 10, parted by the post's wall carried on."""
    made = plate(60, 40)
    made.sketch("s3", made.face("s2/end"), disc((30, 20), 8))
    made.extrude("s4", "s3", "20", taper=taper)
    made.step("split", "s5", by="face", face=made.face("s4/side/c1"), **fields)
    return made


def of(made: Made) -> list[float]:
    assert not made.build().failed, made.report("s5").said
    return sorted(b.solid.volume() for b in made.build().state.bodies)


def test_a_round_wall_carried_on_parts_the_plate_under_it() -> None:
    core = math.pi * 64
    assert of(post()) == pytest.approx([core * 30, WHOLE - core * 10], rel=1e-9)
    assert of(post(keep="front")) == pytest.approx([core * 30], rel=1e-9)
    assert of(post(keep="back")) == pytest.approx([WHOLE - core * 10], rel=1e-9)
    assert post().report("s5").sentence == (
        "Split all bodies where it meets the wall of step 40 from circle 1 carried on, keeping both sides"
    )


def test_a_tapered_wall_carried_on_is_a_cone() -> None:
    slope = math.tan(math.radians(5))

    def cone(low: float, high: float) -> float:
        one, two = 8 - low * slope, 8 - high * slope
        return math.pi * (high - low) / 3 * (one * one + one * two + two * two)

    assert of(post("5")) == pytest.approx(sorted([cone(-10, 20), WHOLE - cone(-10, 0)]), rel=1e-9)


def test_a_flat_wall_carried_on() -> None:
    made = plate(60, 40)
    drawn = Sketch(entities=rectangle(x=20, y=10, w=10, h=20, held=False).entities)
    made.sketch("s3", made.face("s2/end"), drawn)
    made.extrude("s4", "s3", "5")
    left = next(e.id for e in drawn.entities if e.kind == "line" and e.p[0] == e.q[0] == 20)
    made.step("split", "s5", by="face", face=made.face(f"s4/side/{left}"))
    assert of(made) == pytest.approx([20 * 40 * 10, 40 * 40 * 10 + 10 * 20 * 5], rel=1e-9)
    wider = made.report("s5").sentence
    assert "carried on" in wider


def test_the_cut_faces_have_names_that_stay() -> None:
    made = post()
    tags = {t for b in made.build().state.bodies for _, ts in b.solid.tags.items() for t in ts}
    assert {"s5/section/front", "s5/section/back"} <= tags or {"s4/side/c1", "s5/section/back"} <= tags


def test_faces_that_part_nothing() -> None:
    made = plate(60, 40)
    made.step("split", "s5", by="face", face=made.face("s2/end"))
    assert "passes through none" in made.report("s5").said
    made = plate(60, 40)
    made.step("split", "s5", by="face")
    assert "Choose the face" in made.report("s5").said
