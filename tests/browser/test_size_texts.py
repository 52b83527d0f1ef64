"""Texts of sizes: where they stand of themselves, pulled elsewhere, and pressed where other things lie too."""

from __future__ import annotations

import itertools

from playwright.sync_api import expect

from .conftest import Desk
from .test_drawing_tools import begin, circle, line, shape

Box = tuple[float, float, float, float]


def texts(desk: Desk) -> dict[str, Box]:
    """The boxes of all sizes' texts on the page: left, top, right, bottom."""
    found = desk.page.locator("[data-size]").evaluate_all(
        "all => all.map(e => [e.getAttribute('data-size'), e.getBoundingClientRect().toJSON()])"
    )
    return {ident: (b["left"], b["top"], b["right"], b["bottom"]) for ident, b in found}


def overlap(a: Box, b: Box) -> bool:
    return a[0] < b[2] and b[0] < a[2] and a[1] < b[3] and b[1] < a[3]


def test_typed_sizes_stand_outside_and_apart(desk: Desk) -> None:
    begin(desk, "Plate of sizes")
    desk.keys("d", "r")
    desk.press(0, 0)
    desk.move(40, 15)
    desk.typed("110", "46")
    desk.keys("Escape", "v", "f")
    desk.keys("d", "s")
    desk.press(30, 23)
    desk.press(80, 23)
    desk.move(80, 30)
    desk.typed("12")
    desk.keys("Escape", "d", "c")
    for at, size in (((12, 36), "6.5"), ((12, 10), "R4"), ((98, 23), "17/2")):
        desk.press(*at)
        desk.move(at[0] + 2, at[1] + 1)
        desk.typed(size)
    desk.keys("Escape")
    found = texts(desk)
    assert len(found) == 6
    for one, two in itertools.combinations(found.values(), 2):
        assert not overlap(one, two)
    # none lies over the slot; those of the plate itself lie beside it
    left, top = desk.place(0, 46)
    right, bottom = desk.place(110, 0)
    slot = (*desk.place(24, 29), *desk.place(86, 17))
    sizes = {d["id"]: d for d in desk.document()["steps"][0]["sketch"]["dimensions"]}
    for ident, box in found.items():
        middle = ((box[0] + box[2]) / 2, (box[1] + box[3]) / 2)
        within = left < middle[0] < right and top < middle[1] < bottom
        if sizes[ident]["expr"] in ("110", "46"):
            assert not within
        if sizes[ident]["expr"] != "12":
            assert not overlap(box, slot)
        assert "at" not in sizes[ident] or sizes[ident]["at"] is None


def test_a_text_is_pulled_and_a_press_takes_what_is_read(desk: Desk) -> None:
    page = desk.page
    begin(desk, "Pulled")
    shape(desk, line("l1", (-14, -6), (14, -6)), circle("c1", (0, 6), 4))
    desk.dimension((5, -6), at=(2, -10), value="28")
    text = page.get_by_role("button", name="Dimension 28")
    box = text.bounding_box()
    assert box
    at = (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.move(*at)
    expect(desk.reading).to_contain_text("size 28 of line 1")
    page.mouse.down()
    for i in range(1, 9):
        page.mouse.move(at[0] + i * 5, at[1] + i * 2)
    page.mouse.up()
    desk.saved()
    put = desk.document()["steps"][0]["sketch"]["dimensions"][0]["at"]
    a, _, _, d, _, _ = map(float, str(page.get_by_test_id("sketch").get_attribute("data-affine")).split())
    assert abs(put[0] - (2 + 40 / a)) < 0.2
    assert abs(put[1] - (-10 + 16 / d)) < 0.2
    # laid over the line itself, the text is what is read and taken; Tab goes on to the line under it
    box = text.bounding_box()
    assert box
    at = (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    on = desk.place(8, -6)
    page.mouse.move(*at)
    page.mouse.down()
    page.mouse.move(*on, steps=8)
    page.mouse.up()
    desk.saved()
    expect(desk.reading).to_contain_text("size 28 of line 1")
    desk.keys("Tab")
    expect(desk.reading).to_contain_text("line 1 ·")
    page.mouse.click(*on)
    expect(desk.deck.get_by_text("line 1", exact=True)).to_be_visible()
