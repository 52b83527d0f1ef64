"""Ribs: open lines thickened to both sides until they meet the body."""

from __future__ import annotations

from typing import Any

import pytest

from sulvak_core.part.errors import Refusal
from sulvak_core.sketch.model import Sketch

from .parts import Made, plate
from .sketches import line, rectangle

TOP = {"kind": "face", "face": {"origins": ["s2/end"]}}
WALL, FLOOR = 3.0, 3.0


def tray(w: float = 60, h: float = 40, t: float = 20) -> Made:
    """An open tray: a plate with a pocket in it, walls and floor 3 thick."""
    made = plate(w, h, repr(t))
    made.sketch("s3", TOP, rectangle(x=WALL, y=WALL, w=w - 2 * WALL, h=h - 2 * WALL, held=False))
    made.extrude("s4", "s3", depth=repr(t - FLOOR), operation="cut")
    return made


def ribbed(*lines: Any, on: Any = None, **fields: Any) -> Made:
    made = tray()
    made.sketch("s5", on or TOP, Sketch(entities=list(lines)))
    made.step("rib", "s6", sketch="s5", **{"thickness": "2", **fields})
    return made


def said(made: Made) -> str:
    report = next(r for r in made.build().reports if r.id == "s6")
    assert report.state == "failed", report.said
    return report.said


def test_a_rib_reaches_from_wall_to_wall_and_down_to_the_floor() -> None:
    bare = tray().volume()
    made = ribbed(line(1, (10, 20), (50, 20)))
    assert made.volume() - bare == pytest.approx((60 - 2 * WALL) * 2 * (20 - FLOOR), rel=1e-9)
    assert len(made.build().state.bodies) == 1


def test_bends_are_followed_and_two_lines_make_two_ribs() -> None:
    bare = tray().volume()
    bent = ribbed(line(1, (10, 20), (30, 20)), line(2, (30, 20), (30, 30)))
    # along the long wall to the bend, from there to the other wall; the square of the bend is there once
    assert bent.volume() - bare == pytest.approx(((31 - WALL) * 2 + (40 - WALL - 21) * 2) * 17, rel=1e-9)
    two = ribbed(line(1, (10, 12), (50, 12)), line(2, (10, 28), (50, 28)))
    assert two.volume() - bare == pytest.approx(2 * 54 * 2 * 17, rel=1e-9)


def test_a_lower_rib_ends_below_the_rim() -> None:
    made = tray()
    made.step("datum", "s5", form="offset", plane={"kind": "datum", "plane": "top"}, distance="10")
    made.sketch("s7", {"kind": "plane", "step": "s5"}, Sketch(entities=[line(1, (10, 20), (50, 20))]))
    bare = made.volume()
    made.step("rib", "s6", sketch="s7", thickness="1.5")
    assert made.volume() - bare == pytest.approx(54 * 1.5 * (10 - FLOOR), rel=1e-9)


def test_a_rib_follows_the_tray_and_takes_what_comes_after() -> None:
    """It is rounded, drilled and repeated as any other material."""
    made = ribbed(line(1, (20, 12), (20, 28)))
    before = made.volume()
    made.do("set_step", step="s4", changes={"extent": {"kind": "depth", "depth": "10"}})
    assert made.volume() == pytest.approx(60 * 40 * 20 - 54 * 34 * 10 + 34 * 2 * 10, rel=1e-9)
    made.do("set_step", step="s4", changes={"extent": {"kind": "depth", "depth": "17"}})
    x = {"kind": "axis", "axis": "x"}
    made.step("pattern", "s7", form="linear", of=["s6"], along=x, count="3", spacing="10")
    assert made.volume() - before == pytest.approx(2 * 34 * 2 * 17, rel=1e-9)
    top = {"origins": ["s6/start"]}
    made.step("fillet", "s8", groups=[{"edges": [{"by": "around", "face": top}], "radius": "0.5"}])
    rounded = made.build()
    assert not rounded.failed, rounded.failed[0].said
    assert rounded.state.volume() < before + 2 * 34 * 2 * 17


@pytest.mark.parametrize(
    ("lines", "fields", "words"),
    [
        (rectangle(x=10, y=10, w=20, h=10, held=False).entities, {}, "there is none"),
        ([line(1, (1, 10), (1, 30))], {}, "inside the part"),
        ([line(1, (10, 20), (50, 20))], {"reverse": True}, "Turn it round"),
    ],
)
def test_refusals_say_what_to_do(lines: list[Any], fields: dict[str, Any], words: str) -> None:
    made = ribbed(*lines, **fields)
    assert words in said(made)
    assert made.build().state.volume() == pytest.approx(tray().volume(), rel=1e-12)


def test_a_thickness_is_more_than_zero() -> None:
    made = ribbed(line(1, (10, 20), (50, 20)))
    with pytest.raises(Refusal, match="thickness is more than zero"):
        made.do("set_step", step="s6", changes={"thickness": "0"})
    made.do("set_value", name="web", expr="2")
    made.do("set_step", step="s6", changes={"thickness": "web - 2 + 1"})
    assert made.volume() == pytest.approx(tray().volume() + 54 * 17, rel=1e-9)


def test_a_line_that_points_past_the_part_is_told() -> None:
    made = plate(60, 40, "5")  # a floor and one wall
    made.sketch("s3", TOP, rectangle(x=0, y=0, w=3, h=40, held=False))
    made.extrude("s4", "s3", depth="15")
    high = {"kind": "face", "face": {"origins": ["s4/end"]}}
    made.sketch("s5", high, Sketch(entities=[line(1, (10, 20), (30, 20))]))
    made.step("rib", "s6", sketch="s5", thickness="2")
    assert "runs past the part" in said(made)
