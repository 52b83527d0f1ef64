"""The outline of a lever drawn as a drafter does: two circles, the lines that touch both, the rest cut away."""

import math

import pytest
from playwright.sync_api import expect

from .conftest import Desk

BIG, SMALL, APART = 20.0, 12.0, 60.0
TURN = math.asin((BIG - SMALL) / APART)
AREA = (
    BIG**2 * (math.pi / 2 + TURN)
    + SMALL**2 * (math.pi / 2 - TURN)
    + (BIG + SMALL) * math.sqrt(APART**2 - (BIG - SMALL) ** 2)
)


def circles(desk: Desk) -> None:
    """Both circles with their sizes, 60 apart on the x axis, in view."""
    desk.keys("d", "c")
    desk.press(0, 0)
    desk.move(15, 4)
    desk.typed("40")
    desk.keys("Escape")
    desk.move(-18, 10)
    desk.page.mouse.wheel(0, 500)
    desk.settled()
    desk.keys("d", "c")
    desk.press(60, 0)
    desk.move(65, 4)
    desk.typed("24")
    desk.keys("Escape", "v", "f")
    desk.settled()
    desk.dimension((0, 0), (60, 0), at=(30, -28), value="60")


def test_a_lever_is_lines_that_touch_two_circles(desk: Desk) -> None:
    desk.new_part("Lever of the test")
    desk.sketch_on("Top")
    circles(desk)
    # pressed a little beside where they touch: both ends slide there, and it is said before the press
    desk.keys("d", "l")
    for side in (1, -1):
        desk.press(4, side * 19.6)
        desk.move(62, side * 11.8)
        expect(desk.reading).to_contain_text("tangent to circle 1 and circle 2")
        desk.press(62, side * 11.8)
        desk.saved()
        desk.keys("Enter")
    expect(desk.gauge("Freedom")).to_contain_text("0")
    desk.keys("e", "t")
    desk.press(19.6, 3.5)
    desk.saved()
    desk.press(48.2, 2)
    desk.saved()
    expect(desk.gauge("Freedom")).to_contain_text("0")
    desk.extrude("10")
    assert desk.hand() <= 57  # docs/benchmarks.md
    assert desk.volume() == pytest.approx(10 * AREA, rel=1e-9)


def test_what_a_line_or_circle_would_touch_is_caught(desk: Desk) -> None:
    desk.new_part("Touching")
    desk.sketch_on("Top")
    circles(desk)
    # from a free place to the rim: where it touches, and where it stands square
    desk.keys("d", "l")
    desk.press(20, -30)
    touch = math.atan2(-30, -40) + math.acos(SMALL / 50)
    at = (60 + SMALL * math.cos(touch), SMALL * math.sin(touch))
    desk.move(at[0] + 0.4, at[1] - 0.3)
    expect(desk.reading).to_contain_text("tangent to circle 2")
    desk.move(60 - SMALL * 0.8, -SMALL * 0.6)
    expect(desk.reading).to_contain_text("square to circle 2")
    desk.press(60 - SMALL * 0.8, -SMALL * 0.6)
    desk.saved()
    desk.keys("Escape", "Escape")
    made = desk.entities()["l1"]
    assert math.dist(made["p"], made["q"]) == pytest.approx(math.dist(made["p"], (60, 0)) - SMALL, abs=1e-6)
    # a circle about a place whose rim comes to the circle: it touches it there
    desk.keys("d", "c")
    desk.press(34, 22)
    out = math.dist((34, 22), (0, 0)) - BIG
    at = (34 * BIG / (BIG + out), 22 * BIG / (BIG + out))
    desk.move(at[0] + 0.3, at[1] - 0.3)
    desk.press(at[0] + 0.3, at[1] - 0.3)
    desk.saved()
    desk.keys("Escape", "Escape")
    made = desk.entities()["c3"]
    assert made["r"] == pytest.approx(math.dist(made["c"], (0, 0)) - BIG, abs=1e-6)
    ties = desk.document()["steps"][0]["sketch"]["constraints"]
    assert {"c1", "c3"} in [set(t["refs"]) for t in ties if t["kind"] == "tangent"]
