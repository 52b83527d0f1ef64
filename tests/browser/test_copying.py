"""Moving, copying, patterns and stencils with the pointer and typed values."""

import math

import pytest
from playwright.sync_api import expect

from .conftest import Desk
from .test_drawing_tools import begin, circle, line, shape, state
from .test_free_curves import look

ROOM = [{"kind": "point", "id": f"p{8 + n}", "at": at} for n, at in enumerate([(-16, -12), (16, 16)])]


def centres(desk: Desk, step: int = 0) -> list[tuple[float, float]]:
    return sorted(
        (round(e["c"][0], 4), round(e["c"][1], 4)) for e in desk.entities(step).values() if e["kind"] == "circle"
    )


def choose(desk: Desk, *at: tuple[float, float]) -> None:
    for n, place in enumerate(at):
        desk.press(*place, more=n > 0)


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
