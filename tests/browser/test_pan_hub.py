"""The pan hub modelled from nothing on the screen: round bodies, faces sketched on, holes on a pitch circle."""

import math

import pytest
from playwright.sync_api import expect

from .conftest import Desk

VOLUME = math.pi * (24**2 * 8 + 11**2 * 14 - 4**2 * 22 - 3 * 1.7**2 * 8)


def circle_at_origin(desk: Desk, diameter: str, reach: float) -> None:
    desk.keys("d", "c")
    desk.press(0, 0)
    desk.move(reach, reach / 3)
    desk.typed(diameter)


def test_the_pan_hub_from_nothing(desk: Desk) -> None:
    page = desk.page
    desk.new_part("Hub of the test")
    desk.sketch_on("Top")
    circle_at_origin(desk, "48", 12)
    desk.extrude("8")
    desk.keys("v", "i", "v", "f")

    # the boss on the top face
    desk.sketch_on_face("end face of step 20", 30)
    circle_at_origin(desk, "22", 8)
    desk.extrude("14")
    desk.keys("v", "i", "v", "f")

    # the bore from the boss's end
    desk.sketch_on_face("end face of step 40", 50)
    circle_at_origin(desk, "8", 5)
    desk.keys("b", "c")
    page.get_by_label("Extent").select_option("through all")
    expect(page.get_by_text("Removes")).to_be_visible()
    page.get_by_role("button", name="Keep").click()
    desk.saved()

    # three holes on a circle of radius 17, one drawn, its radius given, repeated round the axis
    desk.keys("v", "i", "v", "f")
    desk.sketch_on_face("end face of step 20", 70)
    desk.keys("d", "c")
    desk.press(0, 16)
    desk.move(1, 17)
    desk.typed("3.4")
    desk.keys("Escape")
    hole = desk.entities(6)["c1"]
    desk.dimension(tuple(hole["c"]), (0, 0), at=(8, 9), value="17")
    # caught on the upright axis, and on the circle that is asked for
    assert desk.entities(6)["c1"]["c"] == pytest.approx([0, 17], abs=1e-9)
    desk.press(0, 17 + 1.7)
    desk.keys("e", "g")
    desk.press(0, 0)
    desk.typed("3")
    assert len([e for e in desk.entities(6).values() if e["kind"] == "circle"]) == 3
    expect(desk.gauge("Freedom")).to_contain_text("0")
    desk.keys("b", "c")
    page.get_by_label("Extent").select_option("through all")
    expect(page.get_by_text(f"Removes {round(3 * math.pi * 1.7**2 * 8, 2):g} mm³.")).to_be_visible()
    page.get_by_role("button", name="Keep").click()
    desk.saved()
    assert desk.hand() <= 92  # docs/benchmarks.md
    ident = page.url.rsplit("/", 1)[1]
    expect(desk.route.get_by_text("Cut sketch 70 through all")).to_be_visible()
    page.wait_for_timeout(800)
    build = page.request.get(f"/api/parts/{ident}/build").json()
    assert build["mass"]["volume"] == pytest.approx(VOLUME, rel=1e-9)
