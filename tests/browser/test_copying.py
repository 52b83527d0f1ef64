"""Moving, copying, patterns and stencils with the pointer and typed values."""

import math

import pytest
from playwright.sync_api import expect

from .conftest import Desk
from .test_bent import look
from .test_drawing_tools import begin, circle, line, shape
from .test_shapes import state

ROOM = [{"kind": "point", "id": f"p{8 + n}", "at": at} for n, at in enumerate([(-16, -12), (16, 16)])]


def centres(desk: Desk, step: int = 0) -> list[tuple[float, float]]:
    return sorted(
        (round(e["c"][0], 4), round(e["c"][1], 4)) for e in desk.entities(step).values() if e["kind"] == "circle"
    )


def choose(desk: Desk, *at: tuple[float, float]) -> None:
    for n, place in enumerate(at):
        desk.press(*place, more=n > 0)


def test_a_copy_is_moved_turned_and_scaled(desk: Desk) -> None:
    begin(desk, "Moved")
    shape(desk, *ROOM, circle("c1", (0, 0), 3), line("l1", (0, 0), (8, 0)))
    choose(desk, (6, 0))
    desk.keys("e", "y")
    desk.press(0, 0)
    desk.move(4, 6)
    look(desk, "copy-ghost")
    desk.keys("Tab")
    desk.page.keyboard.type("0")
    desk.keys("Tab")
    desk.page.keyboard.type("9")
    desk.keys("Enter")
    desk.saved()
    copied = desk.entities()["l2"]
    assert (copied["p"], copied["q"]) == ([0, 9], [8, 9])
    choose(desk, (6, 9))
    desk.keys("e", "u")
    desk.press(0, 9)
    desk.typed_in("90")
    desk.saved()
    turned = desk.entities()["l2"]
    assert turned["q"] == pytest.approx([0, 17], abs=1e-6)
    choose(desk, (0, 14))
    desk.keys("e", "z")
    desk.press(0, 9)
    desk.typed_in("1/2")
    desk.saved()
    assert desk.entities()["l2"]["q"] == pytest.approx([0, 13], abs=1e-6)


def test_rows_both_ways_are_counted_changed_and_one_left_out(desk: Desk) -> None:
    begin(desk, "Rows")
    shape(desk, *ROOM, circle("c1", (-10, -6), 1.5))
    choose(desk, (-8.5, -6))
    desk.keys("e", "p")
    desk.press(-10, -6)
    desk.keys("x")
    desk.move(-5, -6)
    desk.keys("Tab")
    desk.page.keyboard.type("4")
    desk.keys("Tab")
    desk.page.keyboard.type("6")
    desk.keys("Enter")
    desk.move(-10, -1)
    desk.keys("Tab")
    desk.page.keyboard.type("3")
    desk.keys("Tab")
    look(desk, "rows-ghost")
    desk.page.keyboard.type("5")
    desk.keys("Enter")
    desk.saved()
    look(desk, "rows")
    assert centres(desk) == sorted((-10 + 6.0 * i, -6 + 5.0 * j) for i in range(4) for j in range(3))
    rim = (-10 - 1.5 * math.sqrt(0.5), -6 - 1.5 * math.sqrt(0.5))  # clear of the lines of the steps
    choose(desk, rim)
    desk.keys("e", "d")
    field = desk.page.get_by_label("Value of the count")
    expect(field).to_have_value("4")
    field.fill("3")
    field.press("Enter")
    desk.saved()
    assert len(centres(desk)) == 9
    choose(desk, (-2.5, -1))
    desk.keys("Delete")
    desk.saved()
    assert len(centres(desk)) == 8
    assert (-4, -1) not in centres(desk)
    choose(desk, rim)
    desk.keys("e", "b")
    desk.saved()
    assert len(centres(desk)) == 9


def test_holes_round_a_centre_and_a_press_beside_a_point_is_told(desk: Desk) -> None:
    begin(desk, "Ring")
    shape(desk, *ROOM, circle("c1", (10, 0), 1.5))
    choose(desk, (11.5, 0))
    desk.keys("e", "g")
    desk.press(4, 5)
    expect(desk.page.get_by_role("alert")).to_contain_text("goes round a point")
    desk.press(0, 0)
    desk.keys("Tab")
    desk.page.keyboard.type("8")
    look(desk, "ring-ghost")
    desk.keys("Enter")
    desk.saved()
    expected = [(10 * math.cos(math.radians(45 * i)), 10 * math.sin(math.radians(45 * i))) for i in range(8)]
    assert centres(desk) == sorted((round(x, 4) + 0.0, round(y, 4) + 0.0) for x, y in expected)
    assert state(desk)["freedom"] == 3 + 4
    desk.keys("k", "v")
    row = desk.page.get_by_role("list", name="Values").get_by_role("listitem").filter(has_text="count of pattern 1")
    expect(row).to_be_visible()


def test_what_is_cut_out_of_one_sketch_goes_into_another(desk: Desk) -> None:
    begin(desk, "Cut and paste")
    shape(desk, *ROOM, circle("c1", (0, 0), 3), circle("c2", (12, 0), 2))
    choose(desk, (12, 2))
    desk.page.keyboard.press("Control+x")
    desk.saved()
    assert set(desk.entities()) == {"c1", "p8", "p9"}
    desk.keys("e", "x", "b", "s")
    desk.sketch_on("Front")
    desk.page.keyboard.press("Control+v")
    desk.move(3, 4)
    look(desk, "put-in-ghost")
    desk.press(3, 4)
    desk.saved()
    [put] = desk.entities(1).values()
    assert (put["kind"], put["r"]) == ("circle", 2)
    assert put["c"] == pytest.approx([3, 4], abs=0.2)


def test_a_stencil_is_made_placed_joined_and_edited_once(desk: Desk) -> None:
    begin(desk, "Chain")
    shape(desk, *ROOM, line("l1", (-12, 0), (0, 0)), circle("c1", (-12, 0), 2), circle("c2", (0, 0), 2))
    choose(desk, (-6, 0), (-12, 2), (0, 2))
    desk.keys("e", "l")
    desk.move(-12, 0)
    desk.page.keyboard.type("link")
    desk.press(-12, 0)
    desk.saved()
    expect(desk.route.get_by_text("Stencil “link”")).to_be_visible()
    desk.keys("d", "k")
    desk.move(0, 0)
    look(desk, "stencil-ghost")
    desk.press(0, 0)
    desk.saved()
    desk.keys("Escape")
    look(desk, "stencil")
    assert state(desk)["freedom"] == 4 + 4  # two links joined by a pin
    desk.drag((12, 0), (5, 9))
    placed = desk.document()["steps"][1]["sketch"]["placements"]
    entities = desk.entities(1)
    ends = [entities[placed[1]["ids"][k]]["c"] for k in ("c1", "c2")]
    assert math.dist(*ends) == pytest.approx(12, abs=1e-6)
    assert ends[1] == pytest.approx([5, 9], abs=1.0)
    desk.keys("Escape")
    desk.route.get_by_text("Stencil “link”").click()
    desk.page.get_by_role("button", name="Open the sketch").click()
    desk.dimension((0, 2), at=(4, 3), value="5")
    first, second = (desk.entities(1)[p["ids"]["c1"]]["r"] for p in desk.document()["steps"][1]["sketch"]["placements"])
    assert first == second == pytest.approx(2.5)


def test_a_stencils_name_typed_at_once_is_taken(desk: Desk) -> None:
    """Letters right after the keys that start it, with the pointer at rest: none is lost and none starts anything."""
    begin(desk, "Spelt")
    shape(desk, circle("c1", (0, 0), 8))
    desk.press(8, 0)
    desk.page.keyboard.type("elrib lug")
    expect(desk.page.get_by_label("Name", exact=True)).to_have_value("rib lug")
    desk.press(0, 0)
    desk.saved()
    assert desk.document()["steps"][0]["stencil"] == "rib lug"
