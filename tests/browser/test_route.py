"""The route sheet worked with: names, bodies, order, hold point; and the sheet's page tools."""

from playwright.sync_api import expect

from .conftest import Desk
from .test_board import rectangle


def block(desk: Desk, name: str, depth: str = "10") -> None:
    rectangle(desk, name)
    desk.extrude(depth)
    expect(desk.route.get_by_text("Extrude sketch 10")).to_be_visible()


def test_a_body_is_named_coloured_and_given_a_material(desk: Desk) -> None:
    block(desk, "Named body")
    desk.route.get_by_text("Extrude sketch 10").click()
    desk.route.get_by_role("button", name="Name or colour the body").click()
    desk.page.get_by_label("Name of the body").fill("Keel")
    desk.page.get_by_label("Name of the body").press("Enter")
    desk.saved()
    expect(desk.route.get_by_text("“Keel”")).to_be_visible()
    desk.page.get_by_label("Material of the body").select_option("Aluminium EN AW-6082")
    desk.saved()
    expect(desk.gauge("Mass")).to_contain_text("g")
    made = desk.document()["steps"][-1]
    assert (made["kind"], made["title"]) == ("body", "Keel")
    assert made["material"]


def test_a_step_is_renamed_suppressed_and_taken_back(desk: Desk) -> None:
    block(desk, "Renamed")
    desk.route.get_by_text("Extrude sketch 10").click()
    desk.route.get_by_role("button", name="Name", exact=True).click()
    desk.page.get_by_label("Name of the step").fill("Base")
    desk.keys("Enter")
    expect(desk.route.get_by_text("Base:")).to_be_visible()
    desk.route.get_by_role("button", name="Suppress").click()
    desk.saved()
    expect(desk.gauge("Mass")).not_to_contain_text("32")
    assert desk.document()["steps"][1]["suppressed"] is True
    desk.route.get_by_role("button", name="Take back in").click()
    desk.saved()
    assert desk.document()["steps"][1]["suppressed"] is False


def test_a_step_cannot_be_dragged_before_what_it_is_built_on(desk: Desk) -> None:
    block(desk, "Ordered")
    rows = desk.route.get_by_role("listitem")
    rows.nth(1).get_by_role("button").first.drag_to(rows.nth(0), target_position={"x": 60, "y": 2})
    expect(desk.page.get_by_text("is built on")).to_be_visible()
    assert [s["kind"] for s in desk.document()["steps"]] == ["sketch", "extrude"]


def test_the_hold_point_follows_fast_keys(desk: Desk) -> None:
    desk.copy("Pan hub", "Held hub")
    count = len(desk.document()["steps"])
    assert count >= 3
    hold = desk.page.get_by_role("slider", name="Hold point")
    hold.focus()
    desk.keys("ArrowUp", "ArrowUp")
    desk.saved()
    desk.page.wait_for_timeout(300)
    assert desk.document()["hold"] == desk.document()["steps"][count - 3]["id"]


def test_a_page_is_turned_scaled_and_measured(desk: Desk) -> None:
    desk.copy("Ballast bar", "Measured bar")
    drawing = desk.page.get_by_role("group", name="Drawing", exact=True)
    box = drawing.bounding_box()
    assert box
    desk.sheet.get_by_role("button", name="set scale").click()
    drawing.click(position={"x": 40, "y": 50})
    drawing.click(position={"x": 140, "y": 50})
    desk.page.get_by_label("Known length").fill("2 in")
    desk.keys("Enter")
    desk.saved()
    desk.sheet.get_by_role("button", name="measure").click()
    drawing.click(position={"x": 40, "y": 50})
    drawing.click(position={"x": 90, "y": 50})
    expect(desk.sheet.get_by_text("25.40 mm apart")).to_be_visible()
    desk.sheet.get_by_role("button", name="turn", exact=True).click()
    desk.saved()
    turned = drawing.bounding_box()
    assert turned
    assert turned["height"] > turned["width"] > 0
    assert desk.document()["sheet"]["looks"]["0"]["turn"] == 90
    # the same two places are as far apart as before, but now one below the other
    expect(desk.sheet.get_by_text("0.00 mm across, 25.40 mm down")).to_be_visible()


def test_a_version_is_named_and_gone_back_to(desk: Desk) -> None:
    block(desk, "Versioned")
    page = desk.page
    page.get_by_role("button", name="saved").click()
    versions = page.get_by_role("list", name="Versions")
    versions.get_by_role("button", name="name", exact=True).first.click()
    page.get_by_label("Name of version").fill("ten thick")
    desk.keys("Enter")
    expect(versions.get_by_text("ten thick")).to_be_visible()
    desk.keys("Escape")
    desk.route.get_by_text("Extrude sketch 10").click()
    desk.route.get_by_role("button", name="Change").click()
    page.get_by_label("Depth", exact=True).fill("25")
    page.get_by_label("Depth", exact=True).press("Enter")
    expect(desk.route.get_by_text("by 25 mm")).to_be_visible()
    page.get_by_role("button", name="saved").click()
    page.get_by_label("only those with a name").check()
    versions.get_by_role("button", name="Go back to version").click()
    expect(desk.route.get_by_text("by 10 mm")).to_be_visible()
    expect(page.get_by_text("Undo takes that back.")).to_be_visible()


def test_a_window_takes_faces_and_edges_of_the_solid(desk: Desk) -> None:
    block(desk, "Window on a solid")
    x, y = desk.centre_of_board()
    mouse = desk.page.mouse

    def pull(start: tuple[float, float], end: tuple[float, float]) -> None:
        mouse.move(*start)
        mouse.down()
        mouse.move(*end, steps=4)
        mouse.up()

    box = desk.page.get_by_test_id("board").bounding_box()
    assert box
    corner = (box["x"] + 12, box["y"] + 40)
    pull(corner, (box["x"] + box["width"] - 8, box["y"] + box["height"] - 110))
    expect(desk.deck.get_by_text("6 faces · 12 edges")).to_be_visible()
    desk.keys("Escape")
    desk.deck.get_by_role("button", name="window: inside").click()
    pull(corner, (x, y))  # to the middle of the part: its far right corner stays outside
    expect(desk.deck.get_by_text("6 faces")).to_have_count(0)
    expect(desk.deck.get_by_text("faces ·")).to_be_visible()
    desk.keys("Escape")
    expect(desk.deck.get_by_text("Nothing chosen")).to_be_visible()


def test_part_data_stand_beside_the_work_and_follow_what_others_change(desk: Desk) -> None:
    block(desk, "Data beside")
    page = desk.page
    page.get_by_role("button", name="Data beside").click()
    leaf = page.get_by_role("complementary", name="Part data")
    leaf.get_by_label("Number").fill("FK-900")
    leaf.get_by_label("Material").select_option("Aluminium EN AW-6082")
    leaf.get_by_label("Target mass, g").fill("nothing")
    expect(leaf.get_by_text("A target mass is a number above zero.")).to_be_visible()
    leaf.get_by_label("Target mass, g").fill("32,4")
    leaf.get_by_label("Own properties").fill("finish: anodised")
    leaf.get_by_role("button", name="Keep").click()
    desk.saved()
    expect(page.get_by_role("button", name="Mass 32.40 g")).to_be_visible()
    assert desk.document()["properties"] == {"finish": "anodised"}
    page.get_by_role("button", name="Undo").click()
    expect(leaf.get_by_label("Number")).to_have_value("")
    leaf.get_by_role("button", name="back to the route").click()
    expect(desk.route).to_be_visible()
