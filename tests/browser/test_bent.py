"""Ellipses, splines and text drawn on the board, tied down and made solid."""

import math
import os

import pytest
from playwright.sync_api import expect

from .conftest import Desk
from .test_drawing_tools import begin
from .test_shapes import state

LOOK = os.environ.get("SULVAK_LOOK", "")  # a folder for pictures of what the tests see


def look(desk: Desk, name: str) -> None:
    if LOOK:
        desk.page.screenshot(path=f"{LOOK}/{name}.png")


def test_an_ellipse_by_its_half_axes(desk: Desk) -> None:
    begin(desk, "Ellipse")
    desk.keys("d", "e")
    desk.press(0, 0)
    desk.move(12, 0)
    desk.typed_in("12")
    desk.move(3, 5)
    look(desk, "ellipse-ghost")
    desk.typed("5")
    look(desk, "ellipse")
    found = state(desk)
    assert found["area"] == pytest.approx(60 * math.pi, rel=1e-9)
    assert found["freedom"] == 0  # its centre on the origin, its axis level, both halves typed
    desk.keys("Escape")
    desk.extrude("3")
    assert desk.volume() == pytest.approx(60 * math.pi * 3, rel=1e-6)


def test_an_arc_of_an_ellipse_is_closed_by_a_line(desk: Desk) -> None:
    begin(desk, "Half ellipse")
    desk.keys("d", "i")
    desk.press(0, 0)
    desk.press(10, 0)
    desk.press(0, 6)
    desk.press(10, 0)
    desk.press(-10, 0)
    desk.saved()
    arc = desk.entities()["e1"]
    assert arc["kind"] == "ellipse_arc"
    desk.keys("Escape", "d", "l")
    desk.press(-10, 0)
    desk.press(10, 0)
    desk.saved()
    (mx, _), (_, ny) = arc["m"], arc["n"]
    assert state(desk)["area"] == pytest.approx(math.pi * mx * ny / 2, rel=1e-6)
    assert not state(desk)["open_ends"]


def test_a_spline_is_drawn_dragged_and_made_tangent(desk: Desk) -> None:
    begin(desk, "Spline")
    desk.keys("d", "u")
    expect(desk.reading).to_contain_text("where the spline starts")
    for at in [(-10, 0), (-4, 6), (4, 3), (10, 6)]:
        desk.press(*at)
    look(desk, "spline-ghost")
    desk.keys("Enter")
    desk.saved()
    look(desk, "spline")
    assert desk.entities()["s1"]["form"] == "through"
    desk.keys("Escape", "d", "l")
    desk.press(10, 6)
    desk.press(16, 2)
    desk.keys("Escape", "Escape")
    desk.press(13, 4)
    desk.press(0, 4.35, more=True)
    desk.keys("c", "t")
    desk.saved()
    expect(desk.page.get_by_role("alert")).to_have_count(0)
    curve, line = desk.entities()["s1"], desk.entities()["l1"]
    assert curve["points"][-1] == pytest.approx(line["p"], abs=1e-9)
    before = curve["points"][1]
    desk.drag((before[0], before[1]), (before[0] - 2, before[1] + 3))
    after = desk.entities()["s1"]["points"][1]
    assert after == pytest.approx([before[0] - 2, before[1] + 3], abs=0.3)


def test_control_points_are_switched_to_with_x(desk: Desk) -> None:
    begin(desk, "Control points")
    desk.keys("d", "u")
    desk.press(-10, 0)
    desk.keys("x")
    for at in [(-4, 8), (4, -6), (10, 4)]:
        desk.press(*at)
    desk.press(10, 4)  # the last point again ends it
    desk.saved()
    assert desk.entities()["s1"]["form"] == "control"
    desk.keys("Escape")
    expect(desk.page.locator('[data-entity="s1"]')).to_have_attribute("data-state", "pencil")


def test_text_is_written_sized_centred_and_engraved(desk: Desk) -> None:
    begin(desk, "Engraved")
    desk.keys("d", "r")
    desk.press(-16, -8)
    desk.press(16, 8)
    desk.keys("Escape", "d", "x")
    desk.press(-10, -2)
    desk.move(6, -2)
    expect(desk.reading).to_contain_text("type the text")
    desk.page.keyboard.type("KITE 8")
    look(desk, "text-ghost")
    desk.keys("Tab")
    desk.page.keyboard.type("3")
    desk.keys("Enter")
    desk.saved()
    desk.keys("Escape")
    look(desk, "text")
    written = desk.entities()["t1"]
    assert written["text"] == "KITE 8"
    assert math.dist(written["p"], written["m"]) == pytest.approx(3)
    desk.keys("v", "f")
    desk.press(0.7 * written["p"][0] + 0.3 * written["q"][0], written["p"][1])
    look(desk, "text-chosen")
    desk.keys("e", "w")
    field = desk.page.get_by_label("Value of the text")
    field.fill("KITE 88")
    field.press("Enter")
    desk.saved()
    again = desk.entities()["t1"]
    assert again["text"] == "KITE 88"
    assert math.dist(again["p"], again["q"]) > math.dist(written["p"], written["q"])
    assert math.dist(again["p"], again["m"]) == pytest.approx(3)
