"""The drawing made from a part, put in order by hand: what was moved stays when the part changes."""

from __future__ import annotations

import re
from typing import Any

from playwright.sync_api import Page, expect

from tests.conftest import Client

from .conftest import Desk

LONG = 120_000  # ms; a busy machine draws slowly


def test_a_size_is_dragged_and_stays_when_the_part_changes(desk: Desk, wren: Client) -> None:
    desk.at(wren.copy("Cross plate", "Cross plate to be drawn"))
    page = desk.page
    page.get_by_role("link", name="Drawing").click()
    sizes = page.get_by_role("list", name="Sizes on the drawing")
    expect(sizes.get_by_role("listitem")).to_have_count(9, timeout=LONG)
    expect(page.get_by_text("none lies on anything")).to_be_visible()
    part = wren.part_named("Cross plate to be drawn")

    def placed() -> dict[str, Any]:
        return wren.get(part.path)[1]["document"]["drawing"]["sizes"]["b6"]  # type: ignore[no-any-return]

    bore = page.get_by_role("button", name="Size Ø16 THRU")
    before = bore.bounding_box()
    assert before
    _drag(page, before, (60, -40))
    expect(sizes.get_by_role("listitem").filter(has_text="Ø16 THRU")).to_contain_text("✎")
    put = placed()
    assert put["at"] is not None and put["side"] == 1
    # the part changes on the board; what was put by hand stays
    page.get_by_role("link", name="To the board").click()
    part = wren.part_named("Cross plate to be drawn")
    part.do(do="sketch_dimension", step="s1", dimension="d5", changes={"expr": "18"})
    page.get_by_role("link", name="Drawing").click()
    bore = page.get_by_role("button", name=re.compile("Size Ø16 THRU, not proven"))
    expect(bore).to_be_visible(timeout=LONG)
    expect(page.get_by_text("1 not as the part is")).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_text("all as the part is")).to_be_visible(timeout=LONG)
    assert placed() == put
    # taken off by a key, put back from the list
    page.get_by_role("button", name="Size Ø16 THRU").click()
    page.keyboard.press("Delete")
    expect(sizes.get_by_role("listitem")).to_have_count(8, timeout=LONG)
    page.get_by_role("list", name="Sizes taken off").get_by_role("button", name="put back").click()
    expect(sizes.get_by_role("listitem")).to_have_count(9, timeout=LONG)


def _drag(page: Page, box: dict[str, float], by: tuple[float, float]) -> None:
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + by[0], y + by[1], steps=5)
    page.mouse.up()
