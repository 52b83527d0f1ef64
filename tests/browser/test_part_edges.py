"""The part's own edges in a sketch: caught while drawing, brought in, closing a profile, following the part."""

import pytest
from playwright.sync_api import expect

from .conftest import Desk
from .test_drawing_tools import begin, state
from .test_free_curves import look
from .test_solids import UPPER, plate, send, step


def block(desk: Desk, name: str) -> None:
    """A block 40 × 30 × 10 with a sketch open on its top face."""
    begin(desk, name)
    desk.keys("d", "r")
    desk.press(0, 0)
    desk.move(20, 14)
    desk.typed("40", "30")
    desk.keys("Escape")
    desk.extrude("10")
    desk.keys("v", "2")
    desk.sketch_on_face("end face of step 20", 30)
    expect(desk.deck.get_by_role("button", name="Edges of the part")).to_be_visible()


def sketch_three(desk: Desk) -> dict:
    ident = desk.page.url.rsplit("/", 1)[1]
    return dict(desk.page.request.get(f"/api/parts/{ident}").json()["sketches"]["s3"])


def test_three_lines_and_the_faces_edge_make_a_notch(desk: Desk) -> None:
    block(desk, "Notch")
    desk.keys("d", "l")
    desk.move(10, 30)
    expect(desk.page.get_by_text("an edge of the part")).to_be_visible()
    look(desk, "edge-caught")
    for at in [(10, 30), (10, 22), (18, 22), (18, 30)]:
        desk.press(*at)
    desk.saved()
    desk.keys("Escape")
    look(desk, "notch")
    sketch = desk.document()["steps"][2]["sketch"]
    assert sketch["given"] == ["l2"] or len(sketch["given"]) == 1
    assert sketch_three(desk)["area"] == pytest.approx(64, rel=0.05)
    assert desk.page.locator('[data-state="given"]').count() == 1
    desk.keys("b", "c")
    desk.page.get_by_label("Extent").select_option("through_all")
    desk.page.get_by_role("button", name="Keep").click()
    desk.saved()
    assert desk.volume() == pytest.approx(12000 - 10 * sketch_three(desk)["area"], rel=1e-9)


def test_a_profile_drawn_all_round_along_the_edge_bounds_once(desk: Desk) -> None:
    block(desk, "Drawn along it")
    desk.keys("d", "l")
    for at in [(10, 30), (10, 22), (18, 22), (18, 30), (10, 30)]:
        desk.press(*at)
        desk.settled()
    desk.saved()
    desk.keys("Escape")
    found = sketch_three(desk)
    assert (len(found["regions"]), found["open_ends"]) == (1, [])
    assert found["area"] == pytest.approx(64, rel=0.05)
    desk.keys("b", "c")
    # a slot that was pressed does not keep Enter to itself
    desk.page.get_by_role("button", name="straight on").click()
    expect(desk.route.get_by_text("removes nothing")).to_be_visible()
    desk.page.get_by_role("button", name="turned round").click()
    expect(desk.route.get_by_text("Removes ")).to_be_visible()
    desk.keys("Enter")
    desk.saved()
    expect(desk.page.get_by_role("button", name="straight on")).to_have_count(0)
    assert desk.volume() == pytest.approx(12000 - 10 * found["area"], rel=1e-9)


def test_edges_are_brought_in_as_outline_or_construction(desk: Desk) -> None:
    block(desk, "Brought in")
    desk.keys("d", "j")
    desk.move(20, 1)
    look(desk, "edges-tool")
    expect(desk.reading).to_contain_text("bring in this line, as outline")
    desk.keys("x")
    expect(desk.reading).to_contain_text("as construction")
    desk.press(20, 1)
    desk.saved()
    [edge] = desk.entities(2).values()
    assert edge["construction"]
    desk.keys("Escape", "d", "o")
    desk.saved()
    entities = desk.entities(2)
    assert len(entities) == 4
    assert sum(e["construction"] for e in entities.values()) == 1
    assert sketch_three(desk)["freedom"] == 0
    look(desk, "outline")


def test_a_sketch_follows_the_edge_it_was_measured_from(desk: Desk) -> None:
    block(desk, "Follows")
    desk.keys("d", "j")
    desk.press(20, 29.5)
    desk.saved()
    desk.keys("Escape", "d", "c")
    desk.press(20, 20)
    desk.move(24, 20)
    desk.typed("6")
    desk.keys("Escape")
    desk.dimension((20, 20), (30, 30), at=(26, 25), value="8")
    assert desk.entities(2)["c1"]["c"][1] == pytest.approx(22)
    desk.keys("Escape")
    desk.route.get_by_text("Sketch on Top plane").click()
    desk.page.get_by_role("button", name="Open the sketch").click()
    expect(desk.page.get_by_text("on the top plane")).to_be_visible()
    number = next(d["id"] for d in desk.document()["steps"][0]["sketch"]["dimensions"] if d["expr"] == "30")
    desk.page.locator(f'[data-dimension="{number}"]').dblclick()
    field = desk.page.get_by_label("Value of the")
    field.fill("45")
    field.press("Enter")
    desk.saved()
    for _ in range(50):
        if abs(desk.entities(2)["c1"]["c"][1] - 37) < 1e-6:
            break
        desk.page.wait_for_timeout(200)
    assert desk.entities(2)["c1"]["c"][1] == pytest.approx(37)
    assert state(desk)["freedom"] == 0


def test_a_size_goes_to_edges_and_middles_that_are_not_drawn(desk: Desk) -> None:
    """The dimension tool takes the part's edges as references, and the middle of a line after the line itself."""
    page = desk.page
    plate(desk, "Sized from the part", step("sketch", "s3", on=UPPER))
    circle = {"kind": "circle", "id": "c1", "c": (13, 12), "r": 3}
    send(desk, {"do": "sketch_add", "step": "s3", "entities": [circle]})
    desk.route.locator("[data-step=s3] button[aria-expanded]").dblclick()
    expect(page.get_by_test_id("sketch")).to_be_visible()
    page.wait_for_timeout(600)  # the part's edges are asked for
    desk.keys("m")
    desk.press(13, 12)
    desk.move(40, 20)
    expect(desk.reading).to_contain_text("press")
    desk.press(40, 20)  # the right edge of the plate
    desk.press(26, 22)
    field = page.get_by_label("Value of the")
    expect(field).to_have_value("27")
    field.fill("25")
    field.press("Enter")
    desk.saved()
    desk.keys("Escape")
    sketch = desk.document()["steps"][2]["sketch"]
    brought = [e for e in sketch["entities"] if e["kind"] == "line"]
    assert [e["construction"] for e in brought] == [True]
    assert desk.entities(2)["c1"]["c"][0] == pytest.approx(15)
    # the middle of that edge, stepped to with Tab, level with the circle
    desk.move(40, 15)
    expect(desk.reading).to_contain_text("line 1")
    desk.keys("Tab")
    expect(desk.reading).to_contain_text("middle of line 1")
    page.mouse.click(*desk.place(40, 15))
    desk.press(15, 12, more=True)
    desk.keys("c", "h")
    desk.saved()
    assert desk.entities(2)["c1"]["c"][1] == pytest.approx(15)
    kinds = [k["kind"] for k in desk.document()["steps"][2]["sketch"]["constraints"]]
    assert sorted(kinds) == ["horizontal", "midpoint"]
