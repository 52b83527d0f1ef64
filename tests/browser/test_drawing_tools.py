"""The tools and constraints of the deck, one after the other, with a real pointer."""

import math
import re
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


def tied(desk: Desk) -> set[tuple[str, tuple[str, ...]]]:
    return {(c["kind"], tuple(sorted(c["refs"]))) for c in desk.document()["steps"][0]["sketch"]["constraints"]}


def constrain(desk: Desk, name: str, *picks: tuple[float, float]) -> None:
    for i, pick in enumerate(picks):
        desk.press(*pick, more=i > 0)
    desk.deck.get_by_role("button", name=name).first.click()
    desk.saved()


def test_a_rectangle_about_its_centre(desk: Desk) -> None:
    begin(desk, "Centred")
    desk.keys("d", "q")
    desk.press(0, 0)
    desk.move(11, 7)
    desk.typed("24", "16")
    xs = sorted(x for e in desk.entities().values() if not e.get("construction") for x in (e["p"][0], e["q"][0]))
    assert xs[0] == pytest.approx(-12)
    assert xs[-1] == pytest.approx(12)
    expect(desk.gauge("Freedom")).to_contain_text("0")


def test_an_arc_about_a_centre_and_a_point(desk: Desk) -> None:
    begin(desk, "Arced")
    desk.keys("d", "a")
    desk.press(0, 0)
    desk.move(14, 0)
    desk.typed("15")
    desk.press(0, 15)
    desk.saved()
    desk.keys("Escape")
    made = next(e for e in desk.entities().values() if e["kind"] == "arc")
    assert made["r"] == pytest.approx(15)
    assert math.dist(made["c"], (0, 0)) < 1e-9
    desk.keys("d", "p")
    desk.press(7, 4)
    desk.saved()
    desk.keys("Escape")
    assert [e["kind"] for e in desk.entities().values()].count("point") == 1


def test_constraints_from_the_selection(desk: Desk) -> None:
    begin(desk, "Tied")
    shape(
        desk,
        line("l1", (-20, 5), (20, 3)),
        line("l2", (-18, 12), (-19, 22)),
        line("l3", (8, 10), (20, 14)),
        circle("c1", (10, -14), 5),
        circle("c2", (-8, -13), 3),
    )
    constrain(desk, "Horizontal", (5, 3.75))
    constrain(desk, "Perpendicular", (-18.5, 17), (5, desk.entities()["l1"]["p"][1]))
    l2 = desk.entities()["l2"]
    assert l2["p"][0] == pytest.approx(l2["q"][0], abs=1e-9)
    constrain(desk, "Parallel", (14, 12), (5, desk.entities()["l1"]["p"][1]))
    l3 = desk.entities()["l3"]
    assert l3["p"][1] == pytest.approx(l3["q"][1], abs=1e-9)
    constrain(desk, "Equal", (15, -14), (-5, -13))
    made = desk.entities()
    assert made["c1"]["r"] == pytest.approx(made["c2"]["r"])
    c1 = made["c1"]
    constrain(desk, "Tangent", (c1["c"][0] + c1["r"], c1["c"][1]), (0, made["l1"]["p"][1]))
    made = desk.entities()
    gap = abs(made["c1"]["c"][1] - made["l1"]["p"][1])
    assert gap == pytest.approx(made["c1"]["r"], abs=1e-7)
    c1, c2 = made["c1"], made["c2"]
    for pick, more in (((c1["c"][0], c1["c"][1] - c1["r"]), False), ((c2["c"][0], c2["c"][1] - c2["r"]), True)):
        desk.press(*pick, more=more)
    desk.press(0, 25, more=True)  # the upright axis
    desk.deck.get_by_role("button", name="Symmetric").click()
    desk.saved()
    made = desk.entities()
    assert made["c1"]["c"][0] == pytest.approx(-made["c2"]["c"][0], abs=1e-7)
    assert made["c1"]["c"][1] == pytest.approx(made["c2"]["c"][1], abs=1e-7)


def test_a_window_takes_what_lies_inside_or_what_it_touches(desk: Desk) -> None:
    begin(desk, "Windowed")
    shape(desk, line("l1", (2, 2), (12, 2)), line("l2", (2, 6), (30, 6)), circle("c1", (8, 14), 3))
    window = ((1, 18), (16, 1))

    def pull() -> None:
        (ax, ay), (bx, by) = desk.place(*window[0]), desk.place(*window[1])
        desk.page.mouse.move(ax, ay)
        desk.page.mouse.down()
        desk.page.mouse.move((ax + bx) / 2, (ay + by) / 2)
        desk.page.mouse.move(bx, by)
        desk.page.mouse.up()

    pull()
    expect(desk.deck.get_by_text("2 chosen")).to_be_visible()
    desk.keys("Escape")
    desk.deck.get_by_role("button", name="window: inside").click()
    pull()
    expect(desk.deck.get_by_text("3 chosen")).to_be_visible()
    desk.keys("Delete")
    desk.saved()
    assert desk.entities() == {}


def test_pieces_are_trimmed_by_pressing_them(desk: Desk) -> None:
    begin(desk, "Trimmed")
    shape(desk, line("l1", (-15, 6), (15, 6)), circle("c1", (0, 3), 9))
    desk.keys("e", "t")
    desk.move(0, 12)
    expect(desk.reading).to_contain_text("the dashed piece goes")
    for x, y in ((0, 12), (-13, 6), (13, 6)):
        desk.press(x, y)
        desk.saved()
    made = desk.entities()
    half = math.sqrt(81 - 9)
    assert sorted(made) == ["a1", "l1"]
    assert made["l1"]["p"][0] == pytest.approx(-half, abs=1e-6)
    assert made["l1"]["q"][0] == pytest.approx(half, abs=1e-6)
    assert made["a1"]["r"] == pytest.approx(9)
    desk.keys("Escape")
    desk.route.get_by_text("Sketch on Top plane").first.wait_for()
    # what is left bounds one region: below the line, inside the circle
    desk.keys("b", "e")
    desk.page.get_by_label("Depth", exact=True).fill("2")
    expect(desk.page.get_by_text("Makes 1 body.")).to_be_visible()


def test_several_pieces_are_trimmed_with_one_pull(desk: Desk) -> None:
    begin(desk, "Swept")
    bars = [line(f"l{i}", (6 * i - 12, -12), (6 * i - 12, 12)) for i in (1, 2, 3)]
    shape(desk, *bars, line("l7", (-15, 5), (15, 5)), line("l8", (-15, -5), (15, -5)))
    desk.keys("e", "t")
    desk.move(-9, 9)
    desk.page.mouse.down()
    desk.move(0, 9.2)
    desk.move(9, 9)
    expect(desk.page.locator("svg path[stroke-width='4']")).to_have_count(3)
    desk.page.mouse.up()
    desk.saved()
    made = desk.entities()
    assert len(made) == 5
    assert [made[f"l{i}"]["q"] for i in (1, 2, 3)] == [[6 * i - 12, 5] for i in (1, 2, 3)]
    desk.keys("Escape", "Control+z")
    desk.saved()
    assert [desk.entities()[f"l{i}"]["q"] for i in (1, 2, 3)] == [[6 * i - 12, 12] for i in (1, 2, 3)]


def test_what_is_drawn_lines_up_with_points_touched_before(desk: Desk) -> None:
    begin(desk, "Lined up")
    shape(desk, circle("c1", (-12, 3), 3), circle("c2", (9, -8), 3))
    desk.keys("d", "p")
    desk.move(-12, 3)  # touched
    desk.move(9, -8)
    desk.move(8.8, 3.1)
    expect(desk.page.get_by_test_id("guide")).to_have_count(2)
    expect(desk.reading).to_contain_text("press where the point goes")
    desk.press(8.8, 3.1)
    desk.saved()
    assert desk.entities()["p1"]["at"] == pytest.approx([9, 3])
    ties = [(c["kind"], sorted(c["refs"])) for c in desk.document()["steps"][0]["sketch"]["constraints"]]
    assert sorted(ties) == [("horizontal", ["c1.c", "p1"]), ("vertical", ["c2.c", "p1"])]
    # a line held level stops where it stands under a touched point; Alt holds all of it off
    desk.keys("Escape", "d", "l")
    desk.move(9, -8)
    desk.press(-15, -4)
    desk.move(8.9, -4.1)
    expect(desk.page.get_by_test_id("guide")).to_have_count(1)
    desk.page.keyboard.down("Alt")
    desk.move(8.8, -4.1)
    expect(desk.page.get_by_test_id("guide")).to_have_count(0)
    desk.page.keyboard.up("Alt")


def test_corners_are_rounded_and_the_half_is_mirrored(desk: Desk) -> None:
    begin(desk, "Rounded")
    desk.keys("d", "r")
    desk.press(0, 0)
    desk.move(20, 10)
    desk.typed("40", "30")
    desk.keys("Escape", "v", "f")
    desk.press(40, 0)
    desk.press(40, 30, more=True)
    desk.deck.get_by_role("button", name="Round corner").click()
    field = desk.page.get_by_label("Value of the corner radius")
    field.fill("50")
    field.press("Enter")
    expect(desk.page.get_by_text("does not fit here").first).to_be_visible()
    field.fill("R8")
    field.press("Enter")
    expect(field).to_have_count(0)
    desk.saved()
    arcs = [e for e in desk.entities().values() if e["kind"] == "arc"]
    assert [a["r"] for a in arcs] == [pytest.approx(8), pytest.approx(8)]
    expect(desk.gauge("Freedom")).to_contain_text("0")
    expect(desk.page.get_by_role("button", name="Dimension 40")).to_be_visible()
    # the two arcs about the upright axis
    desk.press(40 - 8 + 8 * math.sqrt(0.5), 8 - 8 * math.sqrt(0.5))
    desk.press(0, 32.4, more=True)
    desk.keys("e", "m")
    desk.saved()
    arcs = [e for e in desk.entities().values() if e["kind"] == "arc"]
    assert len(arcs) == 3
    assert arcs[2]["c"][0] == pytest.approx(-32, abs=1e-7)
    expect(desk.gauge("Freedom")).to_contain_text("0")


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


def test_slots_and_turned_rectangles_catch_level_and_parallel(desk: Desk) -> None:
    begin(desk, "Caught")
    shape(desk, line("l1", (-20, -20), (20, 20)))
    desk.keys("d", "s")
    desk.press(-15, 10)
    desk.move(1, 9.8)
    expect(desk.reading).to_contain_text("horizontal")
    desk.press(1, 9.8)
    desk.press(1, 13)
    desk.saved()
    made = desk.entities()
    assert made["l2"]["p"][1] == pytest.approx(made["l2"]["q"][1], abs=1e-9)
    assert ("horizontal", ("l2",)) in tied(desk)
    # along the slanted line, though its length is typed
    desk.press(0, -15)
    desk.move(10, -5.2)
    expect(desk.reading).to_contain_text("parallel to line 1")
    desk.typed_in("14")
    desk.press(10, -5.2)
    desk.press(12, -7)
    desk.saved()
    assert ("parallel", ("l1", "l4")) in tied(desk)
    c = desk.entities()
    assert math.dist(c["a3"]["c"], c["a4"]["c"]) == pytest.approx(14, abs=1e-6)


def test_an_arc_through_three_catches_tangency(desk: Desk) -> None:
    begin(desk, "Smooth")
    shape(desk, line("l1", (-20, 0), (0, 0)), line("l2", (-20, 16), (0, 16)), line("l3", (25, 0), (25, 16)))
    desk.keys("d", "b")
    desk.press(0, 0)
    desk.press(0, 16)
    # round the outside it goes on from both lines; on the inside it would turn back, and catches nothing
    desk.move(-8.1, 8)
    expect(desk.reading).not_to_contain_text("tangent")
    desk.move(8.1, 8.1)
    expect(desk.reading).to_contain_text("tangent to line 1 and line 2")
    desk.press(8.1, 8.1)
    desk.saved()
    assert desk.entities()["a1"]["r"] == pytest.approx(8, abs=1e-7)
    assert ("tangent", ("a1", "l1")) in tied(desk)


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


def test_what_is_chosen_plays_its_own_motions(desk: Desk) -> None:
    begin(desk, "Own motions")
    shape(desk, circle("c1", (0, 0), 6), circle("c2", (20, 8), 4))
    desk.press(24, 8)
    desk.keys("k", "f")
    said = desk.route.get_by_role("button", name=re.compile("Circle"))
    expect(said.first).to_be_visible()
    words = said.all_inner_texts()
    assert words
    assert all("circle 2" in w.lower() for w in words), words
    desk.keys("Escape", "Escape")
    desk.keys("k", "f")
    expect(desk.route.get_by_role("button", name=re.compile("Circle 1")).first).to_be_visible()


@pytest.mark.parametrize(
    ("typed", "along"), [("5 × 3", (5, 3)), ("5 x 30°", (5, 5 * math.tan(math.radians(30)))), ("4", (4, 4))]
)
def test_a_corner_is_chamfered_as_a_drawing_writes_it(desk: Desk, typed: str, along: tuple[float, float]) -> None:
    begin(desk, f"Chamfered {typed}")
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
    field.fill(typed)
    field.press("Enter")
    expect(field).to_have_count(0)
    desk.saved()
    cut = desk.entities()["l5"]
    assert sorted([cut["p"], cut["q"]]) == [pytest.approx([40 - along[0], 0]), pytest.approx([40, along[1]])]
    expect(desk.gauge("Freedom")).to_contain_text("0")
