"""Ellipses, splines and text drawn on the board, tied down and made solid."""

import math
import os

import pytest
from playwright.sync_api import expect

from .conftest import Desk
from .test_drawing_tools import begin

LOOK = os.environ.get("SULVAK_LOOK", "")  # a folder for pictures of what the tests see


def look(desk: Desk, name: str) -> None:
    if LOOK:
        desk.page.screenshot(path=f"{LOOK}/{name}.png")


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
