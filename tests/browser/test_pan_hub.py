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
    desk.keys("Escape")


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

    # three holes on a circle of radius 17, a third of a turn apart
    desk.keys("v", "i", "v", "f")
    desk.sketch_on_face("end face of step 20", 70)
    circle_at_origin(desk, "34", 6)
    desk.press(-17, 0)
    desk.keys("e", "c")
    desk.saved()
    desk.keys("Escape")
    desk.keys("d", "c")
    for turn in (90, 210, 330):
        x, y = 17 * math.cos(math.radians(turn)), 17 * math.sin(math.radians(turn))
        desk.press(x, y)
        desk.press(x + 2, y)
        desk.saved()
    desk.keys("Escape")
    made = desk.entities(6)
    assert len(made) == 4
    rims = [(e["c"][0] - e["r"], e["c"][1]) for i, e in made.items() if i != "c1"]
    for i, rim in enumerate(rims):
        desk.press(*rim, more=i > 0)
    desk.keys("c", "e")
    desk.saved()
    made = desk.entities(6)
    desk.dimension((made["c2"]["c"][0] + made["c2"]["r"], made["c2"]["c"][1]), at=(12, 24), value="3.4")
    # the first was caught where the pitch circle meets the upright axis; lines from the centre give the angles
    assert desk.entities(6)["c2"]["c"] == pytest.approx([0, 17], abs=1e-9)
    desk.keys("d", "l")
    for other in ("c2", "c3", "c4"):
        desk.press(0, 0)
        desk.press(*desk.entities(6)[other]["c"])
        desk.saved()
        desk.keys("Escape")
    made = desk.entities(6)
    lines = [e for e in made.values() if e["kind"] == "line"]
    assert len(lines) == 3
    desk.keys("Escape")
    for i, e in enumerate(lines):
        desk.press(e["q"][0] * 0.3, e["q"][1] * 0.3, more=i > 0)
    desk.keys("e", "c")
    desk.saved()
    desk.keys("Escape")
    for other in (1, 2):
        made = desk.entities(6)
        lines = [e for e in made.values() if e["kind"] == "line"]
        a, b = (lines[i]["q"] for i in (0, other))
        desk.dimension(
            (a[0] * 0.4, a[1] * 0.4),
            (b[0] * 0.4, b[1] * 0.4),
            at=((a[0] + b[0]) * 0.5, (a[1] + b[1]) * 0.5),
            value="120",
        )
    expect(desk.gauge("Freedom")).to_contain_text("0")
    desk.keys("b", "c")
    page.get_by_label("Extent").select_option("through all")
    expect(page.get_by_text(f"Removes {round(3 * math.pi * 1.7**2 * 8, 2):g} mm³.")).to_be_visible()
    page.get_by_role("button", name="Keep").click()
    desk.saved()
    ident = page.url.rsplit("/", 1)[1]
    expect(desk.route.get_by_text("Cut sketch 70 through all")).to_be_visible()
    page.wait_for_timeout(800)
    build = page.request.get(f"/api/parts/{ident}/build").json()
    assert build["mass"]["volume"] == pytest.approx(VOLUME, rel=1e-9)
