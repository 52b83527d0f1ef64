"""What must not stand in the way: Esc, early keys, Enter and Tab wherever the focus is, rows that do not jump."""

import re

from playwright.sync_api import Page, Route, expect

from .conftest import Desk
from .test_drawing_tools import begin, circle, line, shape
from .test_solids import TOP, plate, step


def test_esc_ends_a_chain_at_once_and_never_leaves_the_sketch(desk: Desk) -> None:
    page = desk.page
    begin(desk, "Stays open")
    desk.keys("d", "l")
    desk.press(-20, 0)
    desk.press(10, 0)
    desk.saved()
    desk.press(10, 15)
    desk.saved()
    desk.keys("Enter")  # the chain ends, the tool stays for another
    expect(desk.reading).to_contain_text("press where the line starts")
    desk.press(-20, 20)
    desk.press(0, 20)
    desk.saved()
    desk.keys("Escape")  # as a circle: one Esc, and nothing is in hand
    expect(desk.reading).not_to_contain_text("Line:")
    page.wait_for_timeout(1600)  # two in one breath ask for nothing: web/tests/drawing.test.ts
    desk.keys("Escape")
    expect(page.get_by_text("The sketch stays open")).to_be_visible()
    expect(page.get_by_text("on the top plane")).to_be_visible()
    # left and opened again it is seen as it was left
    desk.move(0, 0)
    page.mouse.wheel(0, -600)
    desk.settled()
    before = page.get_by_test_id("sketch").get_attribute("data-affine")
    desk.keys("e", "x")
    expect(page.get_by_test_id("sketch")).to_have_count(0)
    desk.keys("v", "i", "v", "f")
    page.get_by_role("button", name="Open the sketch").click()
    expect(page.get_by_test_id("sketch")).to_have_attribute("data-affine", str(before))
    desk.keys("v", "f")  # fitted it is still square on
    a, b, c, d, _, _ = map(float, str(page.get_by_test_id("sketch").get_attribute("data-affine")).split())
    assert abs(b) < 1e-9
    assert abs(c) < 1e-9
    assert abs(a + d) < 1e-9


def slowly(page: Page, seconds: float) -> None:
    """Every change of the part is answered late."""

    def late(route: Route) -> None:
        page.wait_for_timeout(seconds * 1000)
        route.continue_()

    page.route("**/commands", late)


def test_keys_wait_for_what_is_opening_and_caps_lock_is_no_matter(desk: Desk) -> None:
    page = desk.page
    desk.new_part("Early keys")
    slowly(page, 0.5)
    desk.deck.get_by_role("button", name="Top plane").click()
    desk.keys("d", "c")  # the sketch is not there yet
    expect(desk.reading).to_contain_text("Circle: press where the centre goes")
    page.unroute("**/commands")
    expect(page.get_by_text("on the top plane")).to_be_visible()
    desk.keys("Escape")
    page.evaluate(
        """() => { for (const key of ["D", "R"])
        document.body.dispatchEvent(new KeyboardEvent("keydown", { key, modifierCapsLock: true, bubbles: true })) }"""
    )
    expect(desk.reading).to_contain_text("Rectangle:")


def test_search_shows_each_row_once_and_finds_bodies_and_part_data(desk: Desk) -> None:
    page = desk.page
    desk.open("Pan hub")
    desk.volume()
    desk.keys("/")
    search = page.get_by_label("Search actions")
    rows = page.get_by_role("dialog").get_by_role("listitem")
    for words in ("spl", "split", "spli", "split"):
        search.fill(words)
    expect(rows.filter(has_text="Split")).to_have_count(2)  # of bodies, and of lines
    search.fill("zzz")
    expect(rows).to_have_count(1)
    expect(rows).to_contain_text("No action answers to that.")
    search.fill("body of")
    expect(rows.first).to_contain_text("Body of step")
    search.fill("density")
    search.press("Enter")
    expect(page.get_by_role("combobox", name="Material")).to_be_focused()
    desk.keys("Escape")


def test_enter_keeps_a_step_and_tab_steps_on_wherever_the_focus_is(desk: Desk) -> None:
    page = desk.page
    plate(desk, "Enter anywhere")
    desk.keys("r", "f")
    desk.over("Pointing at: edge between")
    expect(desk.reading).to_contain_text("Tab steps on")
    first = desk.reading.inner_text()
    page.get_by_label("Radius", exact=True).focus()
    page.mouse.move(*(v + 0.3 for v in desk.over("Pointing at: edge between")))
    desk.keys("Tab")
    expect(desk.reading).not_to_contain_text("1 of")
    expect(page.get_by_label("Radius", exact=True)).to_be_focused()
    desk.keys("Shift+Tab")
    expect(desk.reading).to_contain_text("1 of")
    assert first
    page.mouse.click(*desk.over("Pointing at: edge between"))
    expect(page.get_by_text("1 edge rounded")).to_be_visible()
    page.get_by_role("button", name="Top view").click()
    desk.keys("Enter")
    expect(page.get_by_role("button", name="Drop")).to_have_count(0)
    desk.saved()
    assert [s["kind"] for s in desk.document()["steps"]] == ["sketch", "extrude", "fillet"]


def test_shift_enter_goes_on_as_it_was_kept_with_the_next_region(desk: Desk) -> None:
    page = desk.page
    rims = [circle("c1", (10, 15), 3), circle("c2", (30, 15), 4)]
    plate(desk, "Two cuts", step("sketch", "s3", on=TOP), {"do": "sketch_add", "step": "s3", "entities": rims})
    desk.keys("b", "c")
    expect(page.get_by_text("Removes")).to_be_visible()
    page.get_by_label("Extent").select_option("through all, both ways")
    regions = page.get_by_role("checkbox", name=re.compile("^Region"))
    expect(regions).to_have_count(2)
    regions.nth(1).hover()
    expect(desk.reading).to_contain_text(
        re.compile(r"region 2, [\d.]+ mm², bounded by circle \d: press to leave it out")
    )
    regions.nth(1).click()
    expect(regions.nth(1)).not_to_be_checked()
    expect(page.get_by_text("Removes")).to_be_visible()
    desk.keys("Shift+Enter")
    expect(regions.nth(1)).to_be_checked()
    expect(regions.nth(0)).not_to_be_checked()
    expect(page.get_by_label("Extent")).to_have_value("through_both")
    desk.keys("Enter")
    desk.saved()
    steps = desk.document()["steps"]
    assert [(s["operation"], s["extent"]["kind"]) for s in steps[-2:]] == [("cut", "through_both")] * 2


def test_rows_stay_under_the_pointer_and_several_are_taken(desk: Desk) -> None:
    page = desk.page
    desk.copy("Camera cradle", "Rows of the test")
    desk.volume()
    rows = desk.route.locator("[data-step] button[aria-expanded]")
    rows.nth(1).click()
    expect(desk.route.get_by_role("button", name="Change")).to_be_visible()
    at = rows.nth(3).bounding_box()
    assert at
    page.mouse.dblclick(at["x"] + 40, at["y"] + 10)
    expect(page.get_by_label("Radius", exact=True)).to_have_value("15")  # the row pressed, not the one that moved there
    desk.keys("Escape")
    rows.nth(5).click()
    rows.nth(7).click(modifiers=["Shift"])
    taken = page.get_by_role("region", name="Several steps")
    expect(taken).to_contain_text("60, 70, 80")
    taken.get_by_role("button", name="Suppress").click()
    desk.saved()
    assert [bool(s["suppressed"]) for s in desk.document()["steps"]][5:9] == [True, True, True, False]
    desk.keys("Control+z")
    desk.saved()
    assert not any(s["suppressed"] for s in desk.document()["steps"])


def test_a_sketch_opened_again_shows_the_part_as_it_finds_it(desk: Desk) -> None:
    desk.copy("Camera cradle", "As it was")
    desk.volume()
    row = desk.route.locator("[data-step] button[aria-expanded]").nth(4)
    with desk.page.expect_response("**/at/s*") as found:
        row.dblclick()
    bodies = found.value.json()["bodies"]
    assert len(bodies) == 1
    ident = desk.page.url.rsplit("/", 1)[1]
    assert bodies[0]["key"] != desk.page.request.get(f"/api/parts/{ident}/build").json()["bodies"][0]["key"]


def test_a_size_is_named_while_it_is_typed(desk: Desk) -> None:
    page = desk.page
    begin(desk, "Named")
    shape(desk, line("l1", (-12, -6), (12, -4)), circle("c1", (0, 12), 5))
    desk.dimension((6, -4.5), at=(0, -9), value="reach = 23.5")  # on an axis, which is not taken
    expect(desk.gauge("Freedom")).to_be_visible()
    desk.dimension((5, 12), at=(14, 16), value="reach/4")
    sizes = {d["kind"]: d for d in desk.document()["steps"][0]["sketch"]["dimensions"]}
    assert (sizes["distance"]["name"], sizes["distance"]["expr"]) == ("reach", "23.5")
    assert sizes["diameter"]["expr"] == "reach/4"  # no radius of “each/4”
    # one too many is answered where it is typed
    desk.keys("m")
    desk.press(6, -4.5)
    desk.press(0, -8)
    field = page.get_by_label("Value of the")
    field.fill("20")
    field.press("Enter")
    page.get_by_role("button", name="Keep as reference").click()
    desk.saved()
    assert [d["driving"] for d in desk.document()["steps"][0]["sketch"]["dimensions"]].count(False) == 1


def test_a_profile_is_drawn_by_keys_alone(desk: Desk) -> None:
    """The start of a shape is typed as its sizes are, in view or far out of it; the pointer is never over the board."""
    begin(desk, "By keys")
    desk.page.mouse.move(1200, 300)
    desk.keys("d", "r")
    desk.page.keyboard.type("5")
    desk.keys("Tab")
    desk.page.keyboard.type("-8")
    desk.keys("Enter")
    desk.typed("110", "46")
    desk.keys("d", "c")
    desk.page.keyboard.type("400")  # beyond what is seen
    desk.keys("Tab")
    desk.page.keyboard.type("0")
    desk.keys("Enter")
    desk.typed("17/2")
    desk.keys("Escape")
    expect(desk.gauge("Freedom")).to_contain_text("0")
    made = desk.entities()
    assert made["c1"]["c"] == [400, 0]
    corners = {tuple(round(v, 9) for v in made[f"l{i}"]["p"]) for i in range(1, 5)}
    assert corners == {(5, -8), (115, -8), (115, 38), (5, 38)}
    x, _ = desk.place(400, 0)
    box = desk.page.get_by_test_id("board").bounding_box()
    assert box
    assert box["x"] < x < box["x"] + box["width"]  # the board has followed
