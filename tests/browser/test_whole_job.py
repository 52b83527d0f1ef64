"""From sign-in to the downloaded STEP: the ballast bar modelled from its sheet, all by mouse and keyboard."""

import math
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from sulvak_core.solid.files import step_volumes

from .conftest import Desk

VOLUME = 120 * 24 * 10 - 2 * math.pi * 3.25**2 * 10 - 60 * 12 * 4
K = math.sqrt(0.5)


def test_the_ballast_bar_from_its_sheet_to_step(page: Page) -> None:
    desk = Desk(page)
    desk.sign_in()
    desk.copy("Ballast bar", "Ballast bar of the test")
    expect(desk.gauge("Proven")).to_contain_text("0 / 8")

    # the base, as the top view shows it
    desk.hand()  # signing in and copying are not counted
    desk.sketch_on("Top")
    desk.keys("d", "r")
    desk.press(0, 0)
    desk.move(40, 10)
    desk.callout("120")  # callouts go into what is drawn, as typed values do
    desk.callout("24")
    desk.keys("Enter")
    desk.saved()
    desk.keys("v", "f")
    desk.keys("d", "c")
    desk.press(12, 14)
    desk.move(15, 14)
    desk.callout("2X Ø6.5 THRU")
    desk.keys("Enter")
    desk.saved()
    desk.press(105, 9)
    desk.press(108, 10)
    desk.saved()
    desk.keys("Escape")
    c1, c2 = desk.entities()["c1"], desk.entities()["c2"]
    desk.press(c1["c"][0] - K * c1["r"], c1["c"][1] - K * c1["r"])
    desk.press(c2["c"][0] - K * c2["r"], c2["c"][1] - K * c2["r"], more=True)
    desk.deck.get_by_role("button", name="Equal").click()
    desk.saved()
    desk.press(*c1["c"])
    desk.press(*c2["c"], more=True)
    desk.keys("c", "h")
    desk.saved()
    expect(desk.gauge("Freedom")).to_contain_text("3")
    page.get_by_role("button", name="Show what can move").click()
    expect(desk.route.get_by_text("Circle 1 and circle 2 slide up and down")).to_be_visible()
    desk.keys("Escape")

    c1, c2 = desk.entities()["c1"], desk.entities()["c2"]
    desk.dimension(tuple(c1["c"]), tuple(c2["c"]), at=(70, 34), callout="100", more=True)
    c1 = desk.entities()["c1"]
    desk.dimension((0, 20), tuple(c1["c"]), at=(5, -7), value="(120-100)/2", more=True)
    c1 = desk.entities()["c1"]
    desk.dimension((50, 0), tuple(c1["c"]), at=(-12, 6), value="24/2")
    expect(desk.gauge("Freedom")).to_contain_text("0")
    expect(page.locator("[data-state=pencil]")).to_have_count(0)
    sizes = {d["expr"] for d in desk.document()["steps"][0]["sketch"]["dimensions"]}
    assert sizes == {"120", "24", "6.5", "100", "(120-100)/2", "24/2"}
    links = [c["link"] for c in desk.document()["callouts"] if c.get("link")]
    assert len(links) == 4

    # solid, with the depth from the sheet
    desk.keys("b", "e")
    expect(page.get_by_label("Depth", exact=True)).to_be_focused()
    expect(page.get_by_text("Makes 1 body.")).to_be_visible()
    desk.callout("10")
    page.get_by_label("Depth", exact=True).press("Enter")
    desk.saved()
    expect(desk.verdict(3)).to_contain_text("proven 10")

    # the pocket, on the top face
    desk.keys("v", "i")
    desk.press_on("Pointing at: end face of step 20")
    desk.deck.get_by_role("button", name="Sketch here").click()
    expect(page.get_by_text("Sketch 30 on the end face of step 20")).to_be_visible()
    desk.keys("d", "r")
    desk.press(33, 5)
    desk.move(80, 15)
    desk.callout("60")
    desk.callout("12")
    desk.keys("Enter")
    desk.saved()
    lines = desk.entities(2)
    desk.dimension((0, 22), tuple(lines["l4"]["p"]), at=(15, 30), value="30", more=True)
    lines = desk.entities(2)
    desk.dimension((110, 0), tuple(lines["l1"]["p"]), at=(-10, 3), value="6")
    desk.keys("b", "c")
    expect(page.get_by_label("Depth", exact=True)).to_be_focused()
    desk.callout("4")
    expect(page.get_by_text("Removes 2880 mm³.")).to_be_visible()
    page.get_by_label("Depth", exact=True).press("Enter")
    desk.saved()

    assert desk.hand() <= 69  # docs/benchmarks.md
    # proven, weighed, out
    expect(desk.gauge("Freedom")).to_contain_text("0")
    expect(desk.gauge("Proven")).to_contain_text("8 / 8")
    expect(desk.gauge("Mass")).to_contain_text(f"{VOLUME * 8.47e-3:.2f} g")
    page.get_by_role("button", name="Files out").click()
    with page.expect_download() as download:
        page.get_by_role("menuitem", name="STEP file").click()
    assert download.value.suggested_filename == "Ballast-bar-of-the-test.step"
    volumes = step_volumes(Path(download.value.path()).read_bytes())
    assert volumes == pytest.approx([VOLUME], rel=1e-9)
