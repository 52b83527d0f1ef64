"""Every shape of the deck drawn with the pointer and typed values, its freedom counted and its area checked."""

import math
from typing import Any

import pytest
from playwright.sync_api import expect

from .conftest import Desk
from .test_drawing_tools import begin, line, shape


def state(desk: Desk) -> dict[str, Any]:
    ident = desk.page.url.rsplit("/", 1)[1]
    return dict(desk.page.request.get(f"/api/parts/{ident}").json()["sketches"]["s1"])


def test_a_slot_by_the_distance_of_its_centres(desk: Desk) -> None:
    begin(desk, "Slot by centres")
    desk.keys("d", "s")
    desk.press(0, 0)
    desk.move(10, 0)
    expect(desk.reading).to_contain_text("the other end")
    desk.typed("14")
    desk.move(7, 4)
    desk.typed("6")
    found = state(desk)
    assert found["area"] == pytest.approx(14 * 6 + 9 * math.pi, abs=1e-6)
    assert found["freedom"] == 0  # held on the origin, level, both sizes typed
    assert sorted(round(v, 6) for v in found["measures"].values()) == [6, 14]


def test_a_slot_by_its_overall_length(desk: Desk) -> None:
    begin(desk, "Slot over all")
    desk.keys("d", "s")
    desk.press(0, 0)
    desk.move(10, 0)
    desk.keys("x")
    expect(desk.page.get_by_text("length over all")).to_be_visible()
    desk.keys("Tab")
    desk.page.keyboard.type("20")
    desk.keys("Enter")
    desk.move(7, 4)
    desk.keys("Tab")
    desk.page.keyboard.type("6")
    desk.keys("Enter")
    desk.saved()
    found = state(desk)
    assert found["area"] == pytest.approx(14 * 6 + 9 * math.pi, abs=1e-6)
    assert found["freedom"] == 0


@pytest.mark.parametrize(("keys", "across"), [("g", "corners"), ("h", "flats")])
def test_a_polygon(desk: Desk, keys: str, across: str) -> None:
    begin(desk, f"Polygon over {across}")
    desk.keys("d", keys)
    desk.press(0, 0)
    desk.move(0, 6)
    desk.keys("Tab")
    desk.page.keyboard.type("16")
    desk.keys("Tab")
    desk.page.keyboard.type("6")
    desk.keys("Enter")
    desk.saved()
    found = state(desk)
    whole = 6 * 32 * math.sin(math.pi / 3) if across == "corners" else 6 * 64 * math.tan(math.pi / 6)
    assert found["area"] == pytest.approx(whole, abs=1e-6)
    assert found["freedom"] == 1  # it can still turn
    kinds = [e["kind"] for e in desk.entities().values()]
    assert kinds == ["line"] * 6 + ["circle"] * (1 + (across == "flats"))


def test_a_circle_touches_three_curves(desk: Desk) -> None:
    begin(desk, "Touching")
    shape(desk, line("l1", (-12, 0), (12, 0)), line("l2", (-12, 0), (0, 16)), line("l3", (0, 16), (12, 0)))
    desk.keys("d", "m")
    for at in [(1, 0), (-6, 8), (6, 8)]:
        desk.press(*at)
    desk.saved()
    made = desk.entities()["c1"]
    area, half = 12 * 16, (24 + 2 * 20) / 2
    assert made["r"] == pytest.approx(area / half)  # the inscribed circle of a triangle
    assert made["c"] == pytest.approx([0, area / half], abs=1e-6)
    assert len([k for k in desk.document()["steps"][0]["sketch"]["constraints"] if k["kind"] == "tangent"]) == 3


def test_a_width_is_given_across_a_centre_line(desk: Desk) -> None:
    begin(desk, "Across")
    centre = {**line("l1", (0, -10), (0, 12)), "construction": True}
    shape(desk, centre, line("l2", (8, -8), (8, 10)), line("l9", (-14, -9), (14, -9)))
    desk.press(0, 5)
    desk.press(8, 5, more=True)
    desk.keys("c", "p")
    desk.saved()
    desk.keys("m")
    desk.press(0, 5)
    desk.press(8, 5)
    desk.keys("w")
    expect(desk.reading).to_contain_text("width across the centre line")
    desk.press(4, 12)
    field = desk.page.get_by_label("Value of the")
    expect(field).to_have_value("16")
    field.fill("20")
    field.press("Enter")
    desk.saved()
    now = desk.entities()
    assert now["l2"]["p"][0] - now["l1"]["p"][0] == pytest.approx(10)
    desk.keys("Escape")
    size = desk.document()["steps"][0]["sketch"]["dimensions"][0]
    assert size["across"] is True


def test_several_pairs_are_made_symmetric_at_once(desk: Desk) -> None:
    begin(desk, "Pairs")
    at = {"p1": (-8, 3), "p2": (7, 4), "p3": (-5, -4), "p4": (6, -5)}
    shape(desk, *({"kind": "point", "id": k, "at": v} for k, v in at.items()))
    for n, k in enumerate(("p1", "p2", "p3", "p4")):
        desk.press(*at[k], more=n > 0)
    desk.press(0, 1.5, more=True)  # the upright axis
    desk.keys("c", "y")
    desk.saved()
    now = desk.entities()
    for one, two in (("p1", "p2"), ("p3", "p4")):
        (ax, ay), (bx, by) = now[one]["at"], now[two]["at"]
        assert (ax, ay) == pytest.approx((-bx, by))


def test_arcs_and_circles_through_places(desk: Desk) -> None:
    begin(desk, "Through places")
    desk.keys("d", "b")
    for at in [(-8, 0), (8, 0), (0, 8)]:
        desk.press(*at)
    desk.saved()
    arc = desk.entities()["a1"]
    assert arc["r"] == pytest.approx(8, abs=0.2)
    assert arc["p"] == pytest.approx([8, 0], abs=0.2)  # counter-clockwise, as arcs are kept
    desk.keys("Escape", "d", "v")
    desk.press(-3, -6)
    desk.press(3, -6)
    desk.saved()
    assert desk.entities()["c1"]["c"] == pytest.approx([0, -6], abs=0.1)
    desk.keys("Escape", "d", "n")
    for at in [(10, -4), (14, -4), (12, -2)]:
        desk.press(*at)
    desk.saved()
    assert desk.entities()["c2"]["c"] == pytest.approx([12, -4], abs=0.2)


def test_a_rectangle_at_any_angle(desk: Desk) -> None:
    begin(desk, "Turned")
    desk.keys("d", "w")
    desk.press(0, 0)
    desk.move(8, 6)
    desk.typed("15")
    desk.move(-3, 9)
    desk.typed("5")
    found = state(desk)
    assert found["area"] == pytest.approx(75, abs=1e-6)
    assert found["freedom"] == 1  # about the origin


def test_lines_turn_into_a_tangent_arc_and_back(desk: Desk) -> None:
    """A hook in one chain: a line, an arc tangent to it, a line tangent to the arc."""
    begin(desk, "Hook")
    desk.keys("d", "l")
    desk.press(-8, 0)
    desk.press(4, 0)
    desk.saved()
    desk.keys("a")
    expect(desk.reading).to_contain_text("a goes back to lines")
    desk.press(4, 8)
    desk.saved()
    desk.move(-2, 8.1)
    expect(desk.reading).to_contain_text("tangent to arc 1")
    desk.press(-2, 8.1)
    desk.saved()
    made = desk.entities()
    assert [e["kind"] for e in made.values()] == ["line", "arc", "line"]
    arc, last = made["a1"], made["l2"]
    assert arc["r"] == pytest.approx(4, abs=0.1)
    assert last["p"] == pytest.approx(arc["q"], abs=1e-9)
    ties = {(k["kind"], tuple(sorted(k["refs"]))) for k in desk.document()["steps"][0]["sketch"]["constraints"]}
    assert ("tangent", ("a1", "l1")) in ties
    assert ("tangent", ("a1", "l2")) in ties
    desk.keys("Escape", "Escape", "d", "t")
    desk.press(-8, 0)  # an arc that goes on from the other end
    desk.press(-12, 4)
    desk.saved()
    assert desk.entities()["a2"]["c"] == pytest.approx([-8, 4], abs=0.3)


def test_a_line_by_x_and_y(desk: Desk) -> None:
    begin(desk, "By X and Y")
    desk.keys("d", "l")
    desk.press(0, 0)
    desk.move(5, 4)
    desk.keys("x")
    expect(desk.page.get_by_text("X and Y from the last point")).to_be_visible()
    desk.typed("12", "7")
    desk.move(4, 9)
    desk.keys("x")
    desk.typed("-3", "0")
    made = desk.entities()
    assert made["l1"]["q"] == pytest.approx([12, 7], abs=1e-9)
    assert made["l2"]["q"] == pytest.approx([-3, 0], abs=1e-9)
    assert state(desk)["freedom"] == 0


def test_an_outline_is_offset_to_the_pointers_side(desk: Desk) -> None:
    begin(desk, "Offset")
    desk.keys("d", "r")
    desk.press(0, 0)
    desk.move(20, 10)
    desk.typed("24", "16")
    desk.keys("Escape")
    for i, at in enumerate([(5, 0), (24, 4), (5, 16), (0, 4)]):
        desk.press(*at, more=i > 0)
    desk.keys("e", "o")
    desk.move(12, 3)
    expect(desk.reading).to_contain_text("Offset: move to the side")
    desk.typed("2")
    found = state(desk)
    assert sorted(r["area"] for r in found["regions"]) == pytest.approx([24 * 16 - 20 * 12, 20 * 12])
    assert found["freedom"] == 0
    desk.press(5, 0)
    expect(desk.page.get_by_role("button", name="offset from line 1").first).to_be_visible()


def test_corners_are_chamfered(desk: Desk) -> None:
    begin(desk, "Chamfered")
    desk.keys("d", "r")
    desk.press(0, 0)
    desk.move(20, 10)
    desk.typed("24", "16")
    desk.keys("Escape")
    desk.press(24, 16)
    desk.press(0, 16, more=True)
    desk.keys("e", "h")
    field = desk.page.get_by_label("Value of the chamfer")
    field.fill("3x45°")
    field.press("Enter")
    desk.saved()
    found = state(desk)
    assert found["area"] == pytest.approx(24 * 16 - 9, abs=1e-6)
    assert found["freedom"] == 0


def test_an_end_is_extended_and_a_line_split(desk: Desk) -> None:
    begin(desk, "Extended")
    desk.keys("d", "l")
    desk.press(10, -8)
    desk.press(10, 8)
    desk.saved()
    desk.keys("Enter")
    desk.press(-12, 3)
    desk.press(2, 3)
    desk.saved()
    desk.keys("Escape", "Escape", "e", "n")
    desk.move(0, 3)
    expect(desk.reading).to_contain_text("that end goes on to the next curve")
    desk.press(0, 3)
    desk.saved()
    assert desk.entities()["l2"]["q"] == pytest.approx([10, 3], abs=0.3)
    desk.keys("Escape", "e", "s")
    desk.press(-4, 3)
    desk.saved()
    made = desk.entities()
    assert made["l2"]["q"] == made["l3"]["p"]
    assert made["l3"]["q"] == pytest.approx([10, 3], abs=0.3)


def test_arc_lengths_and_distances_to_the_sides_of_circles(desk: Desk) -> None:
    begin(desk, "Rims")
    desk.keys("d", "c")
    desk.press(-20, 0)
    desk.press(-14, 0)
    desk.saved()
    desk.press(18, 0)
    desk.press(22, 0)
    desk.saved()
    desk.keys("Escape", "m")
    desk.press(-20, 6)
    desk.press(18, 4)
    expect(desk.reading).to_contain_text("the distance to the centre down; n switches to the near side")
    desk.keys("n")
    desk.press(0, 12)
    field = desk.page.get_by_label("Value of the distance")
    expect(field).to_have_value("28")
    field.fill("30")
    field.press("Enter")
    desk.saved()
    made = desk.entities()
    gap = math.dist(made["c1"]["c"], made["c2"]["c"]) - made["c1"]["r"] - made["c2"]["r"]
    assert gap == pytest.approx(30, abs=1e-6)
    expect(desk.page.get_by_role("button", name="Dimension 30")).to_be_visible()
    desk.keys("Escape", "d", "b")
    for at in [(-10, -22), (10, -22), (0, -17)]:
        desk.press(*at)
    desk.saved()
    desk.keys("Escape", "m")
    desk.press(0, -17)
    desk.press(*desk.entities()["a1"]["p"])
    desk.press(0, -12)
    field = desk.page.get_by_label("Value of the arc length")
    field.fill("24")
    field.press("Enter")
    desk.saved()
    expect(desk.page.get_by_role("button", name="Dimension ⌒24")).to_be_visible()
    assert 24 in [pytest.approx(v) for v in state(desk)["measures"].values()]
