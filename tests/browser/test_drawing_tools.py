"""The tools and constraints of the deck, one after the other, with a real pointer."""

import math
from typing import Any

import pytest
from playwright.sync_api import expect

from .conftest import Desk


def begin(desk: Desk, name: str) -> None:
    desk.new_part(name)
    desk.sketch_on("Top")


def shape(desk: Desk, *entities: dict[str, Any]) -> None:
    """Put entities into the open sketch over the API, so that a test begins where its subject does."""
    ident = desk.page.url.rsplit("/", 1)[1]
    now = desk.page.request.get(f"/api/parts/{ident}").json()
    token = next(c["value"] for c in desk.page.context.cookies() if c["name"] == "csrftoken")  # type: ignore[typeddict-item]
    answer = desk.page.request.post(
        f"/api/parts/{ident}/commands",
        data={"version": now["version"], "command": {"do": "sketch_add", "step": "s1", "entities": list(entities)}},
        headers={"X-CSRFToken": token},
    )
    assert answer.ok, answer.text()
    desk.page.reload()
    desk.route.get_by_text("Sketch on Top plane").click()
    desk.page.get_by_role("button", name="Open the sketch").click()
    expect(desk.page.get_by_text("on the top plane")).to_be_visible()


def line(ident: str, *ends: tuple[float, float]) -> dict[str, Any]:
    return {"kind": "line", "id": ident, "p": ends[0], "q": ends[1]}


def circle(ident: str, c: tuple[float, float], r: float) -> dict[str, Any]:
    return {"kind": "circle", "id": ident, "c": c, "r": r}


def state(desk: Desk) -> dict[str, Any]:
    ident = desk.page.url.rsplit("/", 1)[1]
    return dict(desk.page.request.get(f"/api/parts/{ident}").json()["sketches"]["s1"])


def constrain(desk: Desk, name: str, *picks: tuple[float, float]) -> None:
    for i, pick in enumerate(picks):
        desk.press(*pick, more=i > 0)
    desk.deck.get_by_role("button", name=name).first.click()
    desk.saved()


def test_suggestions_finish_what_is_half_constrained(desk: Desk) -> None:
    desk.copy("Pan hub", "Hub to finish")
    page = desk.page
    desk.route.get_by_role("button", name="Sketch on").last.dblclick()
    expect(page.get_by_text("Sketch 30 on the end face")).to_be_visible()
    left = int(desk.gauge("Freedom").inner_text().split()[-1])
    assert left > 2
    desk.keys("k", "s")
    told = page.get_by_role("region", name="Suggestions")
    first = told.get_by_role("listitem").first
    expect(first).to_be_visible()
    takes = int(first.inner_text().split("−")[-1])
    first.get_by_role("button").click()
    desk.saved()
    expect(desk.gauge("Freedom")).to_contain_text(str(left - takes))
    before = desk.entities(2)
    told.get_by_role("button", name="Take all").click()
    expect(desk.gauge("Freedom")).to_contain_text("0")
    desk.saved()
    after = desk.entities(2)
    assert all(math.dist(before[i]["c"], after[i]["c"]) < 0.3 for i in before)
    # the sheet's sizes came with their balloons
    linked = [c for c in desk.document()["callouts"] if c.get("link") and c["link"]["step"] == "s3"]
    assert len(linked) >= 3


def test_a_line_is_dragged_by_where_it_was_taken(desk: Desk) -> None:
    begin(desk, "Dragged")
    shape(desk, line("l1", (0, 10), (20, 10)), circle("c1", (5, -8), 4))
    constrain(desk, "Horizontal", (10, 10))
    desk.drag((14, 10), (14, 16))
    made = desk.entities()["l1"]
    assert made["p"][1] == pytest.approx(16, abs=0.3)
    assert made["p"][1] == pytest.approx(made["q"][1], abs=1e-9)
    assert made["p"][0] == pytest.approx(0, abs=0.6)  # the start did not jump to the pointer


def test_a_row_goes_in_a_typed_direction_and_its_values_stand_clear(desk: Desk) -> None:
    begin(desk, "Slanting row")
    shape(desk, circle("c1", (0, 0), 3))
    desk.press(3, 0)
    desk.deck.get_by_role("button", name="Pattern in rows").click()
    desk.press(0, 0)
    desk.move(9, 2)
    strip = desk.page.locator("[data-typed=angle1]").locator("xpath=ancestor::div[1]")
    desk.typed_in("3")
    desk.page.locator("[data-typed=step1]").fill("11")
    desk.page.locator("[data-typed=angle1]").fill("35")
    # the strip lies neither over the row nor over the pointer
    box = strip.bounding_box()
    assert box is not None
    for k in range(3):
        x, y = desk.place(11 * k * math.cos(math.radians(35)), 11 * k * math.sin(math.radians(35)))
        assert not (box["x"] < x < box["x"] + box["width"] and box["y"] < y < box["y"] + box["height"]), k
    desk.page.locator("[data-typed=angle1]").press("Enter")
    desk.saved()
    far = desk.entities()["c3"]["c"]
    assert far == pytest.approx([22 * math.cos(math.radians(35)), 22 * math.sin(math.radians(35))], abs=1e-7)


def test_a_corner_is_chamfered_as_a_drawing_writes_it(desk: Desk) -> None:
    begin(desk, "Chamfered")
    desk.keys("d", "r")
    desk.press(0, 0)
    desk.move(20, 10)
    desk.typed("40", "30")
    desk.keys("Escape", "v", "f")
    desk.press(20, 0)
    desk.press(40, 15, more=True)
    desk.deck.get_by_role("button", name="Chamfer corner").click()
    expect(desk.page.get_by_text("along line 1 × along line 2")).to_be_visible()
    field = desk.page.get_by_label("Value of the chamfer")
    field.fill("5 × 3")
    field.press("Enter")
    expect(field).to_have_count(0)
    desk.saved()
    cut = desk.entities()["l5"]
    assert sorted([cut["p"], cut["q"]]) == [pytest.approx([35, 0]), pytest.approx([40, 3])]
    expect(desk.gauge("Freedom")).to_contain_text("0")
