"""A part in inches on the screen: what is typed, offered and said is in inches; changes without a material are told."""

import pytest
from playwright.sync_api import expect

from .conftest import Desk


def test_an_inch_part_speaks_inches(desk: Desk) -> None:
    page = desk.page
    desk.library()
    page.get_by_role("button", name="New part").click()
    page.get_by_label("Name", exact=True).fill("Inch block")
    page.get_by_label("Unit").select_option("in")
    page.get_by_role("button", name="Make the part").click()
    desk.sketch_on("Top")
    desk.keys("d", "r")
    desk.press(0, 0)
    desk.move(20, 12)
    desk.typed("4", "1 1/2")
    desk.keys("Escape", "v", "f")
    expect(desk.route.get_by_text("1 closed region, 6.00000 in².")).to_be_visible()
    desk.keys("b", "e")
    expect(page.get_by_label("Depth", exact=True)).to_have_value("1/2")
    page.get_by_label("Extent").select_option("both ways by")
    expect(page.get_by_label("Depth back")).to_have_value("1/4")
    page.get_by_label("Extent").select_option("by")
    desk.keys("Enter")
    desk.saved()
    assert desk.volume() == pytest.approx(3 * 25.4**3)
    # no material yet: the step tells its volume
    expect(desk.route.get_by_text("+3.0000 in³")).to_be_visible()
    desk.keys("v", "i", "v", "f")
    desk.over("Pointing at: end face of step 20")
    expect(desk.reading).to_contain_text("flat · 6.0000 in²")
    desk.keys("r", "f")
    desk.press_on("Pointing at: end face of step 20")
    expect(page.get_by_label("Radius", exact=True)).to_have_value("1/16")
    page.get_by_label("Radius", exact=True).fill("2")
    expect(desk.route.get_by_role("alert")).to_contain_text("R2 does not fit here; the largest that does is about R0.4")
    desk.route.get_by_role("button", name="Take ").click()
    expect(desk.route.get_by_text("4 edges rounded. Removes ")).to_be_visible()
    expect(desk.route.get_by_text(" in³.")).to_be_visible()
