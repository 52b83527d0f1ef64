"""Sizes changed where they show on the part, planes through its corners, steps under a heading."""

import io

import pytest
from PIL import Image
from playwright.sync_api import expect

from tests.conftest import Client, Part, Service

from .conftest import Desk
from .test_route import block


def test_a_size_is_changed_on_the_face_it_belongs_to(desk: Desk) -> None:
    block(desk, "Sizes on the part")
    volume = desk.volume()
    desk.press_on("Pointing at: end face of step 20")
    sizes = desk.page.get_by_role("group", name="Sizes of what is chosen")
    depth = sizes.get_by_label("depth, step 20")
    expect(depth).to_have_value("10")
    depth.fill("15")
    depth.press("Enter")
    desk.saved()
    assert desk.volume() == pytest.approx(1.5 * volume)
    expect(depth).to_have_value("15")  # the same face is still chosen
    expect(desk.deck.get_by_text("1 face")).to_be_visible()

    depth.fill("0")
    depth.press("Enter")
    expect(desk.page.get_by_text("more than zero")).to_be_visible()
    expect(depth).to_have_value("15")
    depth.fill("99")
    depth.press("Escape")
    expect(depth).to_have_value("15")
    assert desk.volume() == pytest.approx(1.5 * volume)


def test_a_wall_shows_the_sizes_of_the_line_it_grew_from(desk: Desk) -> None:
    block(desk, "Sizes of a wall")
    desk.press_on("Pointing at: wall of step 20 from line 2")
    sizes = desk.page.get_by_role("group", name="Sizes of what is chosen")
    first = sizes.get_by_role("textbox").first
    old, volume = float(first.input_value()), desk.volume()
    first.fill(str(2 * old))
    first.press("Enter")
    desk.saved()
    assert desk.volume() == pytest.approx(2 * volume)
    desk.keys("Escape")
    expect(sizes).to_have_count(0)


def test_a_pressed_wall_offers_what_places_it_and_its_depth(desk: Desk, service: Service) -> None:
    """A hole made equal to another has its diameter; a side without a size of its own has that of the one across."""
    block(desk, "Placed walls")
    ident = desk.page.url.rsplit("/", 1)[1]
    part = Part(Client(service), ident)
    part.do(
        do="sketch_add",
        step="s1",
        entities=[
            {"id": "c1", "kind": "circle", "c": [12, 12], "r": 3},
            {"id": "c2", "kind": "circle", "c": [28, 12], "r": 3},
        ],
        constraints=[{"id": "k90", "kind": "equal", "refs": ["c1", "c2"]}],
        dimensions=[{"id": "d90", "kind": "diameter", "refs": ["c1"], "expr": "6"}],
    )
    sizes = desk.page.get_by_role("group", name="Sizes of what is chosen")
    for view, wall, wanted in (
        ("4", "from line 4", ["(line 1)", "depth, step 20"]),
        ("i", "from circle 2", ["(circle 1)", "depth, step 20"]),
    ):
        desk.keys("Escape", "v", view, "v", "f")
        desk.press_on(f"Pointing at: wall of step 20 {wall}")
        for words in wanted:
            expect(sizes.get_by_label(words)).to_have_count(1)


def outermost(desk: Desk) -> list[tuple[float, float]]:
    """The corners of the part that lie farthest left, up and right in the picture, by its ink edges."""
    box = desk.page.get_by_test_id("board").bounding_box()
    assert box
    clip = {"x": box["x"] + 20, "y": box["y"] + 45, "width": box["width"] - 40, "height": box["height"] - 330}
    picture = Image.open(io.BytesIO(desk.page.screenshot(clip=clip))).convert("RGB")  # type: ignore[arg-type]
    ink = [
        (x, y)
        for y in range(picture.height)
        for x in range(picture.width)
        if max(picture.getpixel((x, y))) < 110  # type: ignore[type-var,arg-type]
    ]
    ends = (min(ink), min(ink, key=lambda p: p[1]), max(ink))
    wide = clip["width"] / picture.width  # of a dot of the picture on the page
    return [(clip["x"] + (x + 0.5) * wide, clip["y"] + (y + 0.5) * wide) for x, y in ends]


def test_a_plane_goes_through_three_corners(desk: Desk) -> None:
    block(desk, "Plane through corners")
    page = desk.page
    desk.keys("v", "i", "v", "f")
    desk.keys("b", "d")
    page.get_by_label("Kind of datum").select_option("points")
    expect(page.get_by_text("Press three corners of the part")).to_be_visible()
    for corner in outermost(desk):
        page.mouse.move(*corner)
        expect(desk.reading).to_contain_text("Pointing at: corner")
        page.mouse.click(*corner)
    expect(page.get_by_role("button", name="Three points")).to_have_text("3 points")
    page.get_by_role("button", name="Keep").click()
    desk.saved()
    made = desk.document()["steps"][-1]
    assert (made["form"], len(made["corners"])) == ("points", 3)
    expect(desk.route.get_by_text("Datum plane through 3 points")).to_be_visible()


def test_steps_go_under_a_heading_and_fold_away(desk: Desk) -> None:
    block(desk, "Grouped")
    page = desk.page
    desk.route.get_by_text("Sketch on Top plane").click()
    desk.route.get_by_role("button", name="Group", exact=True).click()
    page.get_by_label("Name of the group").fill("Base plate")
    page.get_by_label("Last step of the group").select_option("20")
    desk.route.get_by_role("button", name="Keep").click()
    desk.saved()
    head = desk.route.get_by_role("button", name="Group Base plate")
    expect(head).to_contain_text("10–20")
    head.click()
    expect(desk.route.get_by_text("Extrude sketch 10")).to_have_count(0)
    head.click()
    expect(desk.route.get_by_text("Extrude sketch 10")).to_be_visible()
    head.hover()
    desk.route.get_by_role("button", name="ungroup").click()
    desk.saved()
    expect(head).to_have_count(0)
    page.get_by_role("button", name="Undo").click()
    expect(head).to_be_visible()


def test_a_note_stands_under_its_step(desk: Desk) -> None:
    block(desk, "Noted")
    desk.route.get_by_text("Extrude sketch 10").click()
    desk.route.get_by_role("button", name="Note", exact=True).click()
    desk.page.get_by_label("Note on the step").fill("Thick enough for M5.")
    desk.route.get_by_role("button", name="Keep").click()
    desk.saved()
    expect(desk.route.get_by_text("Thick enough for M5.")).to_be_visible()
    assert desk.document()["steps"][1]["note"] == "Thick enough for M5."


def test_a_body_becomes_a_part_and_follows_when_told(desk: Desk) -> None:
    block(desk, "Source of a body")
    page, source = desk.page, desk.page.url
    volume = desk.volume()
    desk.press_on("Pointing at: end face of step 20")
    desk.keys("b", "y")
    expect(page.get_by_text("“Source of a body, a body” is a part of its own now")).to_be_visible()
    page.goto("/")
    page.get_by_role("link", name="Source of a body, a body").first.click()
    desk.route.get_by_text("Take in the bodies of").click()
    expect(desk.route.get_by_text("This is a body of Source of a body, as it is there now.")).to_be_visible()
    own = page.url
    assert desk.volume() == pytest.approx(volume)

    page.goto(source)
    desk.press_on("Pointing at: end face of step 20")
    depth = page.get_by_role("group", name="Sizes of what is chosen").get_by_label("depth, step 20")
    depth.fill("20")
    depth.press("Enter")
    desk.saved()
    assert desk.volume() == pytest.approx(2 * volume)
    page.goto(own)
    desk.route.get_by_text("Take in the bodies of").click()
    expect(desk.route.get_by_text("there it has changed since")).to_be_visible()
    desk.route.get_by_role("button", name="Take it as it is now").click()
    desk.saved()
    expect(desk.route.get_by_text("as it is there now")).to_be_visible()
    assert desk.volume() == pytest.approx(2 * volume)
