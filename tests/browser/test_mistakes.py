"""What goes wrong with solids today, each from the mistake on the screen to its mending."""

from __future__ import annotations

import math
import re
from typing import Any

import pytest
from playwright.sync_api import Locator, expect

from .conftest import Desk
from .test_solids import TOP, UPPER, begin, box, plate, points, send, step


def disc(ident: str, on: dict[str, Any], x: float, y: float, r: float) -> list[dict[str, Any]]:
    circle = {"kind": "circle", "id": "c1", "c": [x, y], "r": r}
    return [step("sketch", ident, on=on), {"do": "sketch_add", "step": ident, "entities": [circle]}]


def advice(desk: Desk) -> Locator:
    return desk.route.get_by_role("note", name="Order adviser")


def order(desk: Desk) -> list[str]:
    return [s["id"] for s in desk.document()["steps"]]


def follow(desk: Desk, words: str, label: str) -> None:
    """The adviser says so, shows it, and does it when told to; then it has nothing more to say."""
    note = advice(desk)
    expect(note).to_contain_text(words)
    note.get_by_role("button", name="Look").click()
    expect(desk.page.get_by_text("What would change")).to_be_visible()
    note.get_by_role("button", name=re.compile(label)).click()
    desk.saved()
    expect(advice(desk).filter(has_text=words)).to_have_count(0)


def test_a_pattern_along_a_tilted_edge_takes_the_axis_instead(desk: Desk) -> None:
    slope = [(0, 0), (60, 0), (60, 20), (0, 30)]
    lines = [{"kind": "line", "id": f"l{i + 1}", "p": slope[i], "q": slope[(i + 1) % 4]} for i in range(4)]
    wedge = [
        step("sketch", "s1", on={"kind": "datum", "plane": "front"}),
        {"do": "sketch_add", "step": "s1", "entities": lines},
        step("extrude", "s2", sketch="s1", extent={"kind": "depth", "depth": "25"}),
    ]
    front = {"kind": "datum", "plane": "front"}
    hole = step("extrude", "s4", sketch="s3", operation="cut", extent={"kind": "through_all"})
    edge = {"between": [{"origins": ["s2/side/l3"]}, {"origins": ["s2/end"]}]}
    rows = step("pattern", "s5", of=["s4"], along={"kind": "edge", "edge": edge}, count="3", spacing="10")
    begin(desk, "Along the slope", *wedge, *disc("s3", front, 30, 8, 2), hole, rows)
    follow(desk, "9.46° off", "Take the X axis")
    assert desk.document()["steps"][4]["along"] == {"kind": "axis", "axis": "x"}
    assert desk.volume() == pytest.approx(25 * (60 * 25 - 3 * 4 * math.pi), rel=1e-9)


def test_a_step_that_does_nothing_is_taken_out(desk: Desk) -> None:
    hole = step("extrude", "s4", sketch="s3", operation="cut", extent={"kind": "through_all"})
    away = step("extrude", "s6", sketch="s5", operation="cut", extent={"kind": "through_all"})
    plate(desk, "Nothing left of it", *disc("s3", UPPER, 5, 5, 2), hole, *box("s5", TOP, -1, -1, 12, 12), away)
    before = desk.volume()
    note = advice(desk)
    expect(note).to_contain_text("step 40")
    note.get_by_role("button").last.click()
    desk.saved()
    assert desk.volume() == pytest.approx(before, rel=1e-12)


def test_why_a_step_cannot_be_moved_is_named(desk: Desk) -> None:
    """The dependence that forbids it is said, and the way out is offered where there is one."""
    hole = step("hole", "s4", sketch="s3", diameter="6")
    plate(desk, "Held back", *points("s3", (20, 15)), hole)
    rows = desk.route.get_by_role("listitem")
    rows.nth(3).get_by_role("button").first.drag_to(rows.nth(0), target_position={"x": 60, "y": 2})
    expect(desk.page.get_by_text("is built on")).to_be_visible()
    assert order(desk) == ["s1", "s2", "s3", "s4"]


def test_deep_enough_is_not_a_depth(desk: Desk) -> None:
    """A cut through all stays through when the plate becomes thicker; one of a typed depth does not."""
    through = step("extrude", "s4", sketch="s3", operation="cut", extent={"kind": "through_all"})
    deep = step("extrude", "s6", sketch="s5", operation="cut", extent={"kind": "depth", "depth": "15"})
    plate(desk, "Deep", *disc("s3", UPPER, 10, 10, 3), through, *disc("s5", UPPER, 30, 20, 3), deep)
    both = 2 * 9 * math.pi
    assert desk.volume() == pytest.approx(12000 - both * 10, rel=1e-9)
    send(desk, {"do": "set_step", "step": "s2", "changes": {"extent": {"kind": "depth", "depth": "20"}}})
    assert desk.volume() == pytest.approx(24000 - both / 2 * 20 - both / 2 * 15, rel=1e-9)
    # changed where it stands to what was meant
    desk.route.get_by_text("Cut sketch 50 by 15 mm").click()
    desk.route.get_by_role("button", name="Change", exact=True).click()
    desk.page.get_by_label("Extent").select_option("through_all")
    expect(desk.route.get_by_text("Removes ")).to_be_visible()
    desk.page.get_by_role("button", name="Keep").click()
    desk.saved()
    assert desk.volume() == pytest.approx(24000 - both * 20, rel=1e-9)
