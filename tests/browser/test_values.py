"""Values named, used, changed and followed; a dimension tied to another by pointing at it."""

import pytest
from playwright.sync_api import expect

from .conftest import Desk
from .test_board import rectangle


def test_values_are_named_used_and_changed_in_their_table(desk: Desk) -> None:
    rectangle(desk, "Valued")
    page = desk.page
    desk.keys("k", "v")
    leaf = page.get_by_role("complementary", name="Values")
    leaf.get_by_label("Name of the new value").fill("wall")
    leaf.get_by_label("Expression of the new value").fill("40/8")
    leaf.get_by_role("button", name="Add").click()
    row = leaf.get_by_role("list", name="Values").get_by_role("listitem")
    expect(row.first).to_contain_text("5 mm")
    height = leaf.get_by_label("Expression of distance of line 2 in Sketch 10")
    height.fill("4*wall")
    height.press("Enter")
    expect(row.first).to_contain_text("used in Sketch 10: distance of line 2")
    desk.saved()
    assert desk.entities()["l2"]["q"] == pytest.approx([40, 20], abs=1e-9)
    leaf.get_by_label("Expression of wall").fill("6")
    leaf.get_by_label("Expression of wall").press("Enter")
    desk.saved()
    assert desk.entities()["l2"]["q"] == pytest.approx([40, 24], abs=1e-9)
    leaf.get_by_label("Name of wall").fill("web")
    leaf.get_by_label("Name of wall").press("Enter")
    expect(height).to_have_value("4*web")
    leaf.get_by_label("show expressions on the sketch").check()
    expect(page.get_by_role("button", name="Dimension 4*web")).to_be_visible()
    leaf.get_by_role("button", name="Take out web").click()
    expect(page.get_by_text("“web” is used in step 10; change those first.")).to_be_visible()
    leaf.get_by_label("only those with a name").check()
    expect(row).to_have_count(1)
    desk.keys("k", "v")
    expect(desk.route).to_be_visible()


def test_pointing_at_another_dimension_makes_a_live_link(desk: Desk) -> None:
    rectangle(desk, "Linked")
    page = desk.page
    page.get_by_role("button", name="Dimension 30").dblclick()
    field = page.get_by_label("Value of the")
    expect(field).to_be_focused()
    page.get_by_role("button", name="Dimension 40").click()
    expect(field).to_have_value("size1")
    field.press("End")
    page.keyboard.type("/2")
    field.press("Enter")
    desk.saved()
    assert desk.entities()["l2"]["q"] == pytest.approx([40, 20], abs=1e-9)
    page.get_by_role("button", name="Dimension size1 = 40").dblclick()
    page.get_by_label("Value of the").fill("50")
    page.get_by_label("Value of the").press("Enter")
    desk.saved()
    assert desk.entities()["l2"]["q"] == pytest.approx([50, 25], abs=1e-9)
