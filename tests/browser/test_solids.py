"""Steps that treat and repeat, by pointing and by rule, with a real pointer; the order adviser."""

from __future__ import annotations

import math
from typing import Any

import pytest
from playwright.sync_api import expect

from .conftest import Desk
from .test_free_curves import look


def send(desk: Desk, *commands: dict[str, Any]) -> None:
    """Commands over the API, so that a test begins where its subject does."""
    ident = desk.page.url.rsplit("/", 1)[1]
    token = next(c["value"] for c in desk.page.context.cookies() if c["name"] == "csrftoken")  # type: ignore[typeddict-item]
    version = 0
    for command in commands:
        now = desk.page.request.get(f"/api/parts/{ident}").json()
        answer = desk.page.request.post(
            f"/api/parts/{ident}/commands",
            data={"version": now["version"], "command": command},
            headers={"X-CSRFToken": token},
        )
        assert answer.ok, answer.text()
        version = answer.json()["version"]
    expect(desk.page.locator(f'[data-version="{version}"]')).to_be_visible()  # told of by the live channel
    seen(desk)


def begin(desk: Desk, name: str, *commands: dict[str, Any]) -> None:
    """A new part that is as commands make it when it is first opened."""
    assert desk.client is not None
    part = desk.client.new_part(name)
    for command in commands:
        part.do(**command)
    desk.at(part)
    seen(desk)


def seen(desk: Desk) -> None:
    """The part is built and on the board, looked at from the corner."""
    expect(desk.page.locator("[data-shown=true] canvas[data-bodies]:not([data-bodies='0'])")).to_be_visible()
    desk.keys("v", "i", "v", "f")


def step(kind: str, ident: str, **fields: Any) -> dict[str, Any]:
    return {"do": "add_step", "step": {"kind": kind, "id": ident, **fields}}


def box(ident: str, on: dict[str, Any], x: float, y: float, w: float, h: float) -> list[dict[str, Any]]:
    at = [(x, y), (x + w, y), (x + w, y + h), (x, y + h)]
    lines = [{"kind": "line", "id": f"l{i + 1}", "p": at[i], "q": at[(i + 1) % 4]} for i in range(4)]
    return [step("sketch", ident, on=on), {"do": "sketch_add", "step": ident, "entities": lines}]


TOP = {"kind": "datum", "plane": "top"}
UPPER = {"kind": "face", "face": {"origins": ["s2/end"]}}


def plate(desk: Desk, name: str, *more: dict[str, Any]) -> None:
    """A plate 40 × 30 × 10 on the top plane, steps 10 and 20, and what comes after it."""
    extent = {"kind": "depth", "depth": "10"}
    begin(desk, name, *box("s1", TOP, 0, 0, 40, 30), step("extrude", "s2", sketch="s1", extent=extent), *more)


def points(ident: str, *at: tuple[float, float]) -> list[dict[str, Any]]:
    found = [{"kind": "point", "id": f"p{i + 1}", "at": p} for i, p in enumerate(at)]
    return [step("sketch", ident, on=UPPER), {"do": "sketch_add", "step": ident, "entities": found}]


def test_a_radius_too_large_is_told_and_the_largest_taken(desk: Desk) -> None:
    plate(desk, "Rounded plate")
    desk.keys("r", "f")
    expect(desk.route.get_by_text("Press the edges on the part")).to_be_visible()
    desk.press_on("Pointing at: end face of step 20")  # a face gives all edges around it
    expect(desk.route.get_by_text("4 edges rounded")).to_be_visible()
    desk.page.get_by_label("Radius", exact=True).fill("12")
    expect(desk.route.get_by_role("alert")).to_contain_text("R12 does not fit here; the largest that does is about R")
    look(desk, "radius")
    desk.route.get_by_role("button", name="Take ").click()
    expect(desk.route.get_by_text("4 edges rounded")).to_be_visible()
    desk.page.get_by_label("Radius", exact=True).fill("2")
    expect(desk.route.get_by_text("4 edges rounded")).to_be_visible()
    desk.keys("Enter")
    desk.saved()
    assert desk.volume() == pytest.approx(12000 - (1 - math.pi / 4) * 4 * 2 * 62 - 4 * 8 / 3, rel=1e-6)


def test_edges_by_rule_follow_the_design(desk: Desk) -> None:
    plate(desk, "By rule")
    desk.keys("r", "c")
    desk.route.get_by_role("button", name="by rule").click()
    desk.route.get_by_role("button", name="all along Z", exact=True).click()
    desk.page.get_by_label("Distance", exact=True).fill("2")
    expect(desk.route.get_by_text("4 edges chamfered")).to_be_visible()
    look(desk, "rule")
    desk.keys("Enter")
    desk.saved()
    assert desk.volume() == pytest.approx(12000 - 4 * 2 * 10, rel=1e-9)
    # a step before it adds a notch with edges of its own: the rule takes them in
    desk.route.get_by_text("Chamfer the edges along Z of the part").click()
    hold = desk.page.get_by_role("slider", name="Hold point")
    hold.focus()
    desk.keys("ArrowUp")
    desk.saved()
    cut = step("extrude", "s5", sketch="s4", operation="cut", extent={"kind": "through_all"})
    send(desk, *box("s4", TOP, 15, -5, 10, 10), cut, {"do": "set_hold", "step": None})
    assert desk.volume() == pytest.approx(12000 - 10 * 5 * 10 - 4 * 20 - 2 * 20 + 2 * 20, rel=1e-9)


def test_holes_write_their_own_callout(desk: Desk) -> None:
    plate(desk, "Drilled", *points("s3", (10, 10), (30, 20)))
    desk.keys("b", "h")
    desk.page.get_by_label("Kind of hole").select_option("counterbore")
    desk.page.get_by_label("Size", exact=True).select_option("M4")
    desk.page.get_by_label("Counterbore", exact=True).fill("8")
    desk.page.get_by_label("Counterbore depth").fill("4")
    expect(desk.route.get_by_text("2 holes: 2X Ø4.5 THRU")).to_be_visible()
    look(desk, "holes")
    desk.keys("Enter")
    desk.saved()
    assert desk.volume() == pytest.approx(12000 - 2 * math.pi * (16 * 4 + 2.25**2 * 6), rel=1e-9)


def test_a_shell_after_a_hole_is_noticed_shown_and_moved(desk: Desk) -> None:
    hole = step("hole", "s4", sketch="s3", diameter="6")
    shell = step("shell", "s5", faces=[{"by": "pick", "face": {"origins": ["s2/end"]}}], thickness="2")
    plate(desk, "Tube", *points("s3", (20, 15)), hole, shell)
    advice = desk.route.get_by_role("note", name="Order adviser")
    expect(advice).to_contain_text("The shell of step 50 grows a wall around the hole of step 40")
    advice.get_by_role("button", name="Look").click()
    expect(desk.page.get_by_text("What would change")).to_be_visible()
    desk.page.wait_for_timeout(800)
    look(desk, "adviser")
    advice.get_by_role("button", name="Move step 40 to the end").click()
    desk.saved()
    assert desk.volume() == pytest.approx(12000 - 36 * 26 * 8 - math.pi * 9 * 2, rel=1e-9)
    expect(advice).to_have_count(0)


def test_where_a_step_could_stand(desk: Desk) -> None:
    hole = step("hole", "s4", sketch="s3", diameter="6")
    shell = step("shell", "s5", faces=[{"by": "pick", "face": {"origins": ["s2/end"]}}], thickness="2")
    plate(desk, "Places", *points("s3", (20, 15)), shell, {**hole, "after": "s5"})
    desk.route.get_by_role("button", name="Drill").first.click()
    desk.route.get_by_role("button", name="Where could it stand?").click()
    found = desk.route.get_by_role("list", name="Places on the route").get_by_role("listitem")
    expect(found).to_have_count(1)
    expect(found).to_contain_text("before step 40: +402.12 mm³")


def test_a_lost_edge_is_named_and_pointed_at_again(desk: Desk) -> None:
    edge = {"between": [{"origins": ["s2/side/l2"]}, {"origins": ["s2/end"]}]}
    fillet = step("fillet", "s3", groups=[{"edges": [{"by": "pick", "edge": edge}], "radius": "2"}])
    plate(desk, "Lost edge", fillet)
    corners = [{"kind": "line", "id": "l9", "p": (40, 0), "q": (0, 30)}]
    send(
        desk,
        {"do": "sketch_delete", "step": "s1", "ids": ["l2", "l3"]},
        {"do": "sketch_add", "step": "s1", "entities": corners},
    )
    alert = desk.route.get_by_role("alert")
    was = "it was the edge between the wall of step 20 from line 2"
    expect(alert).to_contain_text(f"An edge this step uses is gone: {was}")
    look(desk, "failure")
    desk.route.get_by_role("button", name="Round the edge").click()
    desk.route.get_by_role("button", name="Change").click()
    desk.route.get_by_title("Take it out").click()
    desk.press_on("Pointing at: end face of step 20")
    expect(desk.route.get_by_text("3 edges rounded")).to_be_visible()
    desk.keys("Enter")
    desk.saved()
    expect(alert).to_have_count(0)


def test_a_pattern_of_a_hole_in_rows(desk: Desk) -> None:
    hole = step("hole", "s4", sketch="s3", diameter="4")
    plate(desk, "Rows of holes", *points("s3", (6, 6)), hole)
    desk.route.get_by_role("button", name="Drill").first.click()
    desk.keys("b", "p")
    desk.page.get_by_label("Count", exact=True).fill("4")
    desk.page.get_by_label("Spacing").fill("9")
    expect(desk.route.get_by_text("3 copies. Removes")).to_be_visible()
    look(desk, "pattern-solid")
    # a place is left out where it is marked on the part, and put back the same way
    desk.page.get_by_role("button", name="Place 2: press to leave it out").click()
    expect(desk.route.get_by_text("2 copies. Removes")).to_be_visible()
    desk.page.get_by_role("button", name="Place 3: press to leave it out").click()
    expect(desk.route.get_by_text("1 copy. Removes")).to_be_visible()
    desk.page.get_by_role("button", name="Place 2: press to put it back").click()
    expect(desk.route.get_by_text("2 copies. Removes")).to_be_visible()
    # a copy itself is pressed as well as its mark: here beside it, on the rim of the hole
    desk.page.evaluate("document.activeElement.blur()")
    desk.keys("v", "2", "v", "f")
    mark = desk.page.get_by_role("button", name="Place 2: press to leave it out")
    box = mark.bounding_box()
    assert box is not None
    scale = (
        abs(desk.page.get_by_role("button", name="Place 3: press to put it back").bounding_box()["x"] - box["x"]) / 9
    )  # type: ignore[index]
    centre = (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    on_rim = (centre[0] + 1.7 * scale * 0.7, centre[1] + 1.7 * scale * 0.7)
    assert math.dist(centre, on_rim) > 12  # off the mark
    desk.page.mouse.move(*on_rim)
    expect(desk.reading).to_contain_text("place 2: press to leave it out")
    desk.page.mouse.click(*on_rim)
    expect(desk.route.get_by_text("1 copy. Removes")).to_be_visible()
    desk.page.get_by_role("button", name="Place 2: press to put it back").click()
    expect(desk.route.get_by_text("2 copies. Removes")).to_be_visible()
    desk.page.get_by_role("button", name="Keep").click()
    desk.saved()
    assert desk.volume() == pytest.approx(12000 - 3 * math.pi * 4 * 10, rel=1e-9)


def pulled(desk: Desk, name: str, by: tuple[float, float]) -> None:
    box = desk.page.get_by_role("slider", name=name).bounding_box()
    assert box is not None
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    desk.page.mouse.move(x, y)
    expect(desk.reading).to_contain_text("drag it")
    desk.page.mouse.down()
    desk.page.mouse.move(x + by[0], y + by[1], steps=4)
    desk.page.mouse.up()


def test_depths_and_radii_are_pulled_on_the_part(desk: Desk) -> None:
    """What is pulled is what the field says, what is tried, and what is kept."""
    blind = step("hole", "s4", sketch="s3", diameter="4", end="blind", depth="6", tip="flat")
    rounds = step("fillet", "s5", groups=[{"edges": [{"by": "around", "face": UPPER["face"]}], "radius": "2"}])
    plate(desk, "Pulled", *points("s3", (20, 15)), blind, rounds)
    desk.route.get_by_text("Drill").first.click()
    desk.route.get_by_role("button", name="Change").click()
    depth = desk.page.get_by_label("Depth", exact=True)
    expect(depth).to_have_value("6")
    pulled(desk, "Depth on the part", (0, -12))
    expect(depth).not_to_have_value("6")
    now = float(depth.input_value())
    assert 0 < now < 6
    desk.page.get_by_role("slider", name="Depth on the part").press("ArrowUp")
    expect(depth).not_to_have_value(f"{now:g}")
    now = float(depth.input_value())
    expect(desk.route.get_by_text(f"Removes {math.pi * 4 * now:.2f}".rstrip("0"))).to_be_visible()
    desk.page.get_by_role("button", name="Keep").click()
    desk.saved()
    desk.route.get_by_text("Round").first.click()
    desk.route.get_by_role("button", name="Change").click()
    radius = desk.page.get_by_label("Radius", exact=True)
    expect(radius).to_have_value("2")
    pulled(desk, "Radius on the part", (18, 12))
    expect(radius).not_to_have_value("2")
    kept = radius.input_value()
    desk.page.get_by_role("button", name="Keep").click()
    desk.saved()
    steps = desk.document()["steps"]
    assert steps[-1]["groups"][0]["radius"] == kept
    assert float(steps[-2]["depth"]) == now


def test_draft_says_whether_it_comes_off(desk: Desk) -> None:
    boss = step("extrude", "s4", sketch="s3", extent={"kind": "depth", "depth": "14"})
    walls = [{"faces": [{"by": "sides", "step": "s4"}], "angle": "5"}]
    plate(desk, "Moulded", *box("s3", UPPER, 12, 9, 16, 12), boss, step("draft", "s5", neutral=UPPER, groups=walls))
    desk.route.get_by_role("button", name="Draft").first.click()
    desk.route.get_by_role("button", name="Change").click()
    expect(desk.route.get_by_text("4 faces drafted. It comes off along the pull.").last).to_be_visible()
    # the pull is turned round where it is drawn
    desk.page.get_by_role("button", name="The way it is pulled").click()
    expect(desk.route.get_by_text("4 faces look back against the pull and would lock in the mould.")).to_be_visible()
    look(desk, "draft")
    desk.page.get_by_role("button", name="The way it is pulled").click()
    expect(desk.route.get_by_text("comes off along the pull.").last).to_be_visible()
    # the angle is dragged on the part
    handle = desk.page.get_by_label("Draft angle on the part")
    at = handle.bounding_box()
    assert at is not None
    x, y = at["x"] + at["width"] / 2, at["y"] + at["height"] / 2
    desk.page.mouse.move(x, y)
    desk.page.mouse.down()
    desk.page.mouse.move(x + 14, y - 6, steps=4)
    desk.page.mouse.up()
    angle = desk.page.get_by_label("Angle", exact=True)
    expect(angle).not_to_have_value("5")
    turned = float(angle.input_value())
    assert 0 < turned <= 89 and turned * 2 == int(turned * 2)
    handle.press("ArrowUp")
    expect(angle).to_have_value(f"{turned + 0.5:g}")
    desk.page.get_by_role("button", name="Keep").click()
    desk.saved()
    lean = 14 * math.tan(math.radians(turned + 0.5))
    ends, middle = (16 * 12, (16 - 2 * lean) * (12 - 2 * lean)), (16 - lean) * (12 - lean)
    assert desk.volume() == pytest.approx(12000 + 14 / 6 * (sum(ends) + 4 * middle), rel=1e-9)


def test_bodies_are_united_by_pointing_at_them(desk: Desk) -> None:
    boss = step("extrude", "s4", sketch="s3", operation="new", extent={"kind": "depth", "depth": "8"})
    plate(desk, "Two bodies", *box("s3", UPPER, 10, 8, 12, 12), boss)
    desk.keys("r", "u")
    desk.press_on("end face of step 20")
    desk.page.get_by_role("button", name="Other bodies").click()
    desk.press_on("wall of step 40")
    expect(desk.route.get_by_text("2 bodies united.")).to_be_visible()
    desk.keys("Enter")
    desk.saved()
    expect(desk.route.get_by_text("5 steps · 1 body")).to_be_visible()
    assert desk.volume() == pytest.approx(12000 + 12 * 12 * 8, rel=1e-9)


def test_text_is_engraved_on_a_face_that_is_pressed(desk: Desk) -> None:
    plate(desk, "Engraved")
    desk.keys("b", "t")
    expect(desk.deck).to_contain_text("face: press it on the part")
    desk.press_on("Pointing at: end face of step 20")
    desk.page.get_by_label("Letters", exact=True).fill("-")
    desk.page.get_by_label("Height of the capitals").fill("20")
    desk.page.get_by_label("Depth", exact=True).fill("2")
    expect(desk.route.get_by_text("Removes ")).to_be_visible()
    look(desk, "text")
    desk.keys("Enter")
    desk.saved()
    row = desk.route.get_by_text("Engrave - on the end face of step 20, 20 mm high and 2 mm deep")
    expect(row).to_be_visible()
    gone = 12000 - desk.volume()
    assert 0 < gone < 2 * 15 * 5
    # opened again where it stands, and made deeper: twice as much goes
    row.click()
    desk.route.get_by_role("button", name="Change").click()
    desk.page.get_by_label("Depth", exact=True).fill("4")
    desk.page.get_by_label("Depth", exact=True).press("Enter")
    desk.saved()
    assert 12000 - desk.volume() == pytest.approx(2 * gone, rel=1e-6)


def test_a_hole_is_repeated_by_its_face(desk: Desk) -> None:
    plate(desk, "By its face", *points("s3", (10, 10)), step("hole", "s4", sketch="s3", diameter="6"))
    desk.keys("b", "p")
    desk.route.get_by_text("+ faces to repeat").click()
    desk.press_on("Pointing at: wall of the hole of step 40")
    desk.page.get_by_label("Count", exact=True).fill("2")
    desk.page.get_by_label("Spacing").fill("20")
    expect(desk.route.get_by_text("1 copy.")).to_be_visible()
    desk.keys("Enter")
    desk.saved()
    assert desk.volume() == pytest.approx(12000 - 2 * math.pi * 9 * 10, rel=1e-9)


def test_a_body_is_split_along_a_sketch(desk: Desk) -> None:
    across = [step("sketch", "s3", on=TOP), {"do": "sketch_add", "step": "s3", "entities": [
        {"kind": "line", "id": "l1", "p": (10, -5), "q": (10, 20)}]}]  # fmt: skip
    plate(desk, "Split along", *across)
    desk.keys("r", "t")
    desk.page.get_by_label("Split by").select_option("sketch")
    desk.page.get_by_label("Sketch", exact=True).select_option(label="sketch 30")
    desk.page.get_by_label("What stays").select_option("front")
    expect(desk.route.get_by_text("1 body parted; 1 now.")).to_be_visible()
    desk.keys("Enter")
    desk.saved()
    assert desk.volume() == pytest.approx(10 * 30 * 10)  # left of the line as it was drawn


def test_a_typed_depth_is_there_again_when_one_comes_back_to_it(desk: Desk) -> None:
    plate(desk, "Depths")
    desk.route.get_by_role("button", name="Extrude").first.click()
    desk.route.get_by_role("button", name="Change").click()
    desk.page.get_by_label("Depth", exact=True).fill("17.5")
    extent = desk.page.get_by_label("Extent")
    extent.select_option(label="to the next face")
    expect(desk.page.get_by_label("Depth", exact=True)).to_have_count(0)
    extent.select_option(label="both ways by")
    expect(desk.page.get_by_label("Depth", exact=True)).to_have_value("17.5")
    desk.page.get_by_label("Depth back").fill("2.5")
    extent.select_option(label="by")
    desk.page.get_by_role("button", name="Keep").click()
    desk.saved()
    assert desk.volume() == pytest.approx(1200 * 17.5, rel=1e-9)
