"""What goes wrong while sketching and building, and how the board answers; single sizes: web/tests/board.test.ts."""

import math
import re

import pytest
from playwright.sync_api import Browser, Route, expect

from tests.conftest import Client, Part, Service

from .conftest import Desk


def rectangle(desk: Desk, name: str, w: str = "40", h: str = "30") -> None:
    desk.new_part(name)
    desk.sketch_on("Top")
    desk.keys("d", "r")
    desk.press(0, 0)
    desk.move(20, 10)
    desk.typed(w, h)
    desk.keys("Escape", "v", "f")


def test_undo_outlives_the_browser(desk: Desk) -> None:
    rectangle(desk, "Remembered")
    desk.keys("b", "e")
    desk.page.get_by_label("Depth", exact=True).fill("7")
    desk.page.get_by_label("Depth", exact=True).press("Enter")
    expect(desk.route.get_by_text("Extrude sketch 10 by 7 mm")).to_be_visible()
    desk.page.reload()
    expect(desk.route.get_by_text("Extrude sketch 10 by 7 mm")).to_be_visible()
    desk.keys("Control+z")
    expect(desk.route.get_by_text("Extrude sketch 10 by 7 mm")).to_have_count(0)
    desk.keys("Control+z")
    desk.saved()
    desk.page.get_by_role("button", name="Redo").click()
    desk.saved()
    desk.keys("Control+y")
    expect(desk.route.get_by_text("Extrude sketch 10 by 7 mm")).to_be_visible()


def test_a_cut_that_misses_says_so_and_is_turned_round(desk: Desk) -> None:
    rectangle(desk, "Missed")
    desk.keys("b", "e")
    desk.page.get_by_label("Depth", exact=True).press("Enter")
    desk.saved()
    desk.keys("v", "i")
    desk.press_on("Pointing at: end face of step 20")
    desk.keys("b", "s")
    expect(desk.page.get_by_text("Sketch 30 on the end face of step 20")).to_be_visible()
    desk.keys("d", "c")
    desk.press(20, 15)
    desk.move(24, 15)
    desk.typed("8")
    desk.keys("b", "c")
    desk.page.get_by_label("Depth", exact=True).fill("4")
    expect(desk.page.get_by_text("Removes 201.06 mm³.")).to_be_visible()
    desk.page.get_by_role("button", name="straight on").click()
    expect(desk.page.get_by_text("This removes nothing")).to_be_visible()
    desk.page.get_by_role("button", name="Turn round").click()
    expect(desk.page.get_by_text("Removes 201.06 mm³.")).to_be_visible()
    desk.page.get_by_label("Extent").select_option("through all")
    expect(desk.page.get_by_text("Removes 502.65 mm³.")).to_be_visible()
    desk.page.get_by_role("button", name="Keep").click()
    desk.saved()
    desk.keys("v", "i", "v", "f")
    expect(desk.route.get_by_text("Cut sketch 30 through all")).to_be_visible()
    # the hold point goes back a step and the hole is gone
    hold = desk.page.get_by_role("slider", name="Hold point")
    hold.focus()
    desk.keys("ArrowUp")
    desk.saved()
    hold.press("ArrowUp")
    desk.saved()
    assert desk.document()["hold"] == "s2"


def test_deleting_says_what_hangs_on_it(desk: Desk) -> None:
    rectangle(desk, "Deleted")
    desk.keys("b", "e")
    desk.page.get_by_label("Depth", exact=True).press("Enter")
    desk.saved()
    desk.route.get_by_text("Sketch on Top plane").click()
    desk.route.get_by_role("button", name="Delete").click()
    expect(desk.page.get_by_text("Step 20 is built on step 10. Delete it too?")).to_be_visible()
    desk.page.get_by_role("button", name="Delete them too").click()
    expect(desk.page.get_by_text("The route is empty.")).to_be_visible()


def test_a_sheet_is_put_in_and_ballooned(desk: Desk) -> None:
    desk.new_part("Ballooned")
    svg = b'<svg xmlns="http://www.w3.org/2000/svg" width="200mm" height="100mm"><rect width="90" height="40"/></svg>'
    desk.page.get_by_label("Drawing file").set_input_files(
        {"name": "d.svg", "mimeType": "image/svg+xml", "buffer": svg}
    )
    drawing = desk.page.get_by_role("group", name="Drawing", exact=True)
    expect(drawing).to_be_visible()
    desk.sheet.get_by_role("button", name="balloon", exact=True).click()
    drawing.click(position={"x": 120, "y": 60})
    desk.page.get_by_label("Callout text").fill("3X Ø3.4 THRU")
    desk.page.get_by_label("Callout text").press("Enter")
    expect(desk.page.get_by_role("button", name="Balloon 1: 3X Ø3.4 THRU")).to_be_visible()
    # one balloon after the other, until Esc; the field begins empty each time
    drawing.click(position={"x": 60, "y": 30})
    expect(desk.page.get_by_label("Callout text")).to_have_value("")
    desk.page.get_by_label("Callout text").fill("48 ±0.01")
    desk.page.get_by_label("Callout text").press("Enter")
    expect(desk.sheet.get_by_text("Press a size on the drawing")).to_be_visible()
    desk.keys("Escape")
    expect(desk.sheet.get_by_text("Press a size on the drawing")).to_have_count(0)
    # its text is corrected where it stands, the balloon stays in its place
    placed = desk.document()["callouts"][1]["at"]
    desk.sheet.get_by_text("48 ±0.01").dblclick()
    desk.page.get_by_label("Text of callout 2").fill("48 ±0.1")
    desk.page.get_by_label("Text of callout 2").press("Enter")
    expect(desk.page.get_by_role("button", name="Balloon 2: 48 ±0.1")).to_be_visible()
    desk.saved()
    assert [(c["text"], c["at"]) for c in desk.document()["callouts"]][1] == ("48 ±0.1", placed)
    desk.sheet.get_by_text("48 ±0.1").dblclick()
    desk.page.get_by_label("Text of callout 2").fill("9")
    desk.page.get_by_label("Text of callout 2").press("Escape")
    expect(desk.page.get_by_role("button", name="Balloon 2: 48 ±0.1")).to_be_visible()
    expect(desk.verdict(1)).to_contain_text("not used yet")
    desk.page.get_by_label("Drawing file").set_input_files(
        {"name": "d.pdf", "mimeType": "application/pdf", "buffer": b"nothing of the kind"}
    )
    expect(desk.page.get_by_text("none of them, whatever its name says")).to_be_visible()


def test_two_people_at_one_part(desk: Desk, service: Service, chromium: Browser) -> None:
    rectangle(desk, "Shared")
    ident = desk.page.url.rsplit("/", 1)[1]
    other = Part(Client(service, "tern"), ident)
    # the live channel brings the change: what is drawn after it is drawn into the part as it is now
    other.do(do="set_part", changes={"name": "Shared by two"})
    expect(desk.page.get_by_role("banner")).to_contain_text("Shared by two")
    desk.keys("d", "c")
    desk.press(10, 10)
    desk.press(14, 10)
    desk.saved()
    assert "c1" in desk.entities()

    # cut off from it, what is drawn into the part as it was is not made, and what happened meanwhile is told
    def late(route: Route) -> None:
        Part(Client(service, "tern"), ident).do(do="set_part", changes={"description": "tern was here"})
        route.continue_()

    desk.page.route("**/commands", late, times=1)
    desk.press(30, 20)
    desk.press(34, 20)
    expect(desk.page.get_by_role("alert")).to_contain_text("Meanwhile tern changed the part's data")
    assert "c2" not in desk.entities()
    assert desk.document()["description"] == "tern was here"
    desk.press(30, 20)
    desk.press(34, 20)
    desk.saved()
    assert "c2" in desk.entities()


def test_a_viewer_looks_and_changes_nothing(page, service: Service) -> None:  # type: ignore[no-untyped-def]
    desk = Desk(page)
    desk.sign_in("rook")
    expect(page.get_by_role("button", name="New part")).to_have_count(0)
    desk.open("Cross plate")
    expect(desk.gauge("Proven")).to_contain_text("8 / 8")
    expect(desk.deck.get_by_role("button", name="Extrude")).to_have_count(0)
    desk.route.get_by_text("Sketch on Top plane").click()
    desk.page.get_by_role("button", name="Open the sketch").click()
    expect(page.get_by_text("on the top plane")).to_be_visible()
    expect(page.locator("[data-state=ink]")).to_have_count(17)


def test_an_action_is_found_by_search(desk: Desk) -> None:
    rectangle(desk, "Searched")
    desk.keys("/")
    desk.page.get_by_label("Search actions").fill("circ")
    desk.keys("Enter")
    expect(desk.page.get_by_role("dialog")).to_have_count(0)
    expect(desk.reading).to_contain_text("press where the centre goes")
    desk.press(20, 15)
    desk.press(25, 15)
    desk.saved()
    assert desk.entities()["c1"]["r"] == pytest.approx(5, abs=0.3)
    desk.keys("Escape", "?")  # every one of them: web/tests/board.test.ts
    expect(desk.page.get_by_role("heading", name="Keys and pointer")).to_be_visible()
    assert math.isfinite(desk.entities()["c1"]["c"][0])


def test_what_lies_under_the_pointer_is_stepped_through(desk: Desk) -> None:
    """What is about to be picked is named before the press; Tab steps on to what else lies there."""
    rectangle(desk, "Stepped through")
    desk.move(40, 30)
    expect(desk.reading).to_contain_text("Pointing at: ")
    count = int(re.search(r"1 of (\d+) here, Tab steps on", desk.reading.inner_text())[1])  # type: ignore[index]
    named = [desk.reading.inner_text()]
    for _ in range(count - 1):
        desk.keys("Tab")
        named.append(desk.reading.inner_text())
    assert len(set(named)) == count
    wanted = next(i for i, words in enumerate(named) if "Pointing at: line 2" in words)
    desk.keys("Tab")  # round to the first again
    assert desk.reading.inner_text() == named[0]
    for _ in range(wanted):
        desk.keys("Tab")
    desk.page.mouse.click(*desk.place(40, 30))
    expect(desk.deck.get_by_text("line 2", exact=True)).to_be_visible()
    desk.keys("Escape", "v", "f")
    desk.extrude("10")
    desk.over("Pointing at: end face of step 20")
    expect(desk.reading).to_contain_text("1 of 2 here, Tab steps on")
    front = desk.reading.inner_text()
    desk.keys("Tab")
    assert desk.reading.inner_text() != front
    expect(desk.reading).to_contain_text("2 of 2 here")
