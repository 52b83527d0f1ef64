"""Patterns of faces: a hole, pocket or boss repeated by its shape, whatever made it."""

from __future__ import annotations

import math
from typing import Any

import pytest

from sulvak_core.exchange import solid_files

from .parts import Made, disc, plate
from .sketches import rectangle

X = {"kind": "axis", "axis": "x"}
BY_12 = {"form": "linear", "along": X, "count": "4", "spacing": "12"}


def pocketed(depth: str = "3") -> Made:
    """A plate 60 × 40 × 10 with a pocket 8 × 6 in its upper face, step s4."""
    made = plate(60, 40)
    made.sketch("s3", made.face("s2/end"), rectangle(x=4, y=4, w=8, h=6, held=False))
    made.extrude("s4", "s3", depth=depth, operation="cut")
    assert made.volume() == pytest.approx(24000 - 48 * float(depth))
    return made


def picked(made: Made, *origins: str) -> list[dict[str, Any]]:
    return [{"by": "pick", "face": made.face(o)} for o in origins]


def test_a_pocket_by_its_faces() -> None:
    made = pocketed()
    made.step("pattern", "s9", faces=[{"by": "made", "step": "s4"}], **BY_12)
    assert made.volume() == pytest.approx(24000 - 4 * 144)
    assert made.report("s9").sentence.startswith("Repeat in rows all faces of step 40 along the X axis 4 times")


def test_a_boss_by_its_faces_is_put_on() -> None:
    made = plate(60, 40)
    made.sketch("s3", made.face("s2/end"), disc((8, 8), 3))
    made.extrude("s4", "s3", depth="5")
    made.step("pattern", "s9", faces=picked(made, "s4/side/c1", "s4/end"), **BY_12)
    assert made.volume() == pytest.approx(24000 + 4 * math.pi * 9 * 5)


def test_a_hole_through_is_mirrored() -> None:
    made = plate(60, 40)
    made.sketch("s3", "top", disc((8, 8), 3))
    made.extrude("s4", "s3", depth=None, operation="cut")
    made.step("datum", "s5", form="offset", plane={"kind": "datum", "plane": "right"}, distance="30")
    made.step("pattern", "s9", form="mirror", faces=picked(made, "s4/side/c1"), plane={"kind": "plane", "step": "s5"})
    assert made.volume() == pytest.approx(24000 - 2 * math.pi * 9 * 10)


def test_a_hole_of_a_file_from_outside() -> None:
    source = plate(60, 40)
    source.sketch("s3", "top", disc((8, 8), 3))
    source.extrude("s4", "s3", depth=None, operation="cut")
    data = solid_files.step(source.document, source.build().state)
    made = Made()
    made.cache.file = lambda digest: data  # type: ignore[method-assign]
    made.cache.has_file = lambda digest: True  # type: ignore[method-assign]
    made.step("import", "s1", file="0" * 64, title="plate.step")
    [wall] = [f"s1/face/f{n}" for n in range(1, 9) if made.volume() and _is_round(made, f"s1/face/f{n}")]
    made.step("pattern", "s9", faces=picked(made, wall), **BY_12)
    assert made.volume() == pytest.approx(24000 - 4 * math.pi * 9 * 10, rel=1e-9)


def _is_round(made: Made, origin: str) -> bool:
    from sulvak_core.solid.measure import surface
    from sulvak_core.solid.shapes import faces

    return any(
        surface(f).kind == "cylinder"
        for b in made.build().state.bodies
        for f in faces(b.shape)
        if origin in b.solid.face_tags(f)
    )


def test_it_follows_what_it_repeats() -> None:
    made = pocketed()
    made.step("pattern", "s9", faces=[{"by": "made", "step": "s4"}], **BY_12)
    made.do("set_step", step="s4", changes={"extent": {"kind": "depth", "depth": "5"}})
    assert made.volume() == pytest.approx(24000 - 4 * 48 * 5)


def test_every_face_of_a_copy_has_an_origin_of_its_own() -> None:
    from sulvak_core.solid.shapes import faces

    made = pocketed()
    made.step("pattern", "s9", faces=[{"by": "made", "step": "s4"}], **BY_12)
    [body] = made.build().state.bodies
    copies = [t for f in faces(body.shape) for t in body.solid.face_tags(f) if t.startswith("s9/")]
    assert {t.split("/")[1] for t in copies} >= {"i1", "i2", "i3"}
    assert {f"s9/i{k}/s4/side/l1" for k in (1, 2, 3)} <= set(copies)


@pytest.mark.parametrize("origins", [("s2/end",), ("s2/side/l1", "s2/side/l3")])
def test_faces_that_the_part_stands_on_are_refused(origins: tuple[str, ...]) -> None:
    made = pocketed()
    made.step("pattern", "s9", faces=picked(made, *origins), **BY_12)
    report = made.report("s9")
    assert report.state == "failed"
    assert "all faces of one hole, pocket or boss" in report.said
    assert made.build().state.volume() == pytest.approx(24000 - 144)


def test_copies_beside_the_part_are_told() -> None:
    made = pocketed()
    made.step("pattern", "s9", faces=[{"by": "made", "step": "s4"}], form="linear", along=X, count="2", spacing="500")
    assert "change nothing" in made.report("s9").said
