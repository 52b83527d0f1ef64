"""Looking at a finished part and measuring on it."""

from __future__ import annotations

import math
import re
from pathlib import Path

import pytest
from playwright.sync_api import expect

from .conftest import Desk
from .test_solids import box, plate, points, send, step

OTHER = {"kind": "datum", "plane": "top"}


def drilled(desk: Desk, name: str) -> None:
    plate(desk, name, *points("s3", (10, 10)), step("hole", "s4", sketch="s3", diameter="6"))


def two_bodies(desk: Desk, name: str) -> None:
    extent = {"kind": "depth", "depth": "20"}
    second = step("extrude", "s4", sketch="s3", operation="new", extent=extent)
    plate(desk, name, *box("s3", OTHER, 46, 0, 30, 30), second)


def colour_at(desk: Desk, x: float, y: float) -> tuple[int, int, int]:
    """The colour on screen at a place, read back from a picture of it."""
    import io

    from PIL import Image

    shot = desk.page.screenshot(clip={"x": x - 1, "y": y - 1, "width": 3, "height": 3})
    r, g, b = Image.open(io.BytesIO(shot)).convert("RGB").getpixel((1, 1))  # type: ignore[misc]
    return int(r), int(g), int(b)


def test_one_thing_and_two_are_measured(desk: Desk) -> None:
    drilled(desk, "Measured")
    desk.keys("v", "m")
    slip = desk.page.get_by_role("region", name="Measured")
    expect(slip).to_contain_text("Press a face, an edge or a corner")
    desk.press_on("Pointing at: end face of step 20")
    expect(slip).to_contain_text("end face of step 20")
    expect(slip).to_contain_text(f"{1200 - 9 * math.pi:.4f} mm²")
    expect(slip).to_contain_text("material behind this place")
    expect(slip.get_by_text("10 mm", exact=True)).to_be_visible()
    desk.press_on("Pointing at: wall of the hole of step 40")
    expect(slip).to_contain_text("and wall of the hole of step 40 at point 1")
    expect(slip).to_contain_text("shortest way0 mm")
    desk.keys("Escape")
    expect(slip).to_have_count(0)


def test_the_part_is_cut_open_and_lined(desk: Desk) -> None:
    plate(desk, "Cut open")
    desk.keys("v", "1")
    desk.page.wait_for_timeout(300)
    x, y = desk.centre_of_board()
    whole = colour_at(desk, x, y - 40)
    desk.keys("v", "c")
    section = desk.page.get_by_role("region", name="Section")
    expect(section.get_by_label("Place of the section")).to_have_value("-15")
    desk.page.wait_for_timeout(300)
    row = {colour_at(desk, x + k, y - 40) for k in range(0, 24, 2)}
    assert whole not in row
    assert len(row) > 1  # lines on the cut, and the ground between them
    section.get_by_label("Where the part is cut open").select_option("top")
    expect(section.get_by_label("Place of the section")).to_have_value("5")
    section.get_by_label("Place of the section").fill("2.5")
    expect(section.get_by_label("Move the section")).to_have_value("2.5")
    section.get_by_role("button", name="other half").click()
    expect(section.get_by_role("button", name="other half")).to_have_attribute("aria-pressed", "true")
    desk.keys("v", "c")
    expect(section).to_have_count(0)


def test_what_is_cut_away_is_not_pointed_at(desk: Desk) -> None:
    plate(desk, "Not there")
    desk.over("Pointing at: end face of step 20")
    desk.keys("v", "c")
    desk.page.get_by_label("Where the part is cut open").select_option("top")
    x, y = desk.centre_of_board()
    desk.page.mouse.move(x, y)
    expect(desk.reading).not_to_contain_text("end face")


def test_ways_of_drawing(desk: Desk) -> None:
    drilled(desk, "Drawn in every way")
    x, y = desk.over("Pointing at: end face of step 20")
    before = colour_at(desk, x, y)
    for how in ("hidden lines dashed", "all lines", "see-through", "shaded"):
        desk.page.get_by_label("How the part is drawn").select_option(label=how)
        desk.page.wait_for_timeout(400)
        if how == "shaded":
            assert colour_at(desk, x, y) == before
        else:
            assert colour_at(desk, x, y) != before, how
        desk.over("Pointing at: end face of step 20")  # still there to be pointed at


def test_bodies_are_hidden_and_shown(desk: Desk) -> None:
    two_bodies(desk, "Two bodies")
    canvas = desk.page.locator("canvas")
    expect(canvas).to_have_attribute("data-bodies", "2")
    desk.press_on("Pointing at: end face of step 40")
    desk.keys("v", "h")
    expect(canvas).to_have_attribute("data-bodies", "1")
    desk.page.get_by_role("button", name="1 body hidden: show all").click()
    expect(canvas).to_have_attribute("data-bodies", "2")
    desk.press_on("Pointing at: end face of step 40")
    desk.keys("v", "o")
    expect(canvas).to_have_attribute("data-bodies", "1")
    desk.press_on("Pointing at: end face of step 40")
    desk.keys("v", "a")
    expect(canvas).to_have_attribute("data-bodies", "2")


def test_versions_are_held_against_each_other(desk: Desk) -> None:
    plate(desk, "Compared")
    was = desk.page.request.get(f"/api/parts/{desk.page.url.rsplit('/', 1)[1]}").json()["version"]
    send(desk, {"do": "set_step", "step": "s2", "changes": {"extent": {"kind": "depth", "depth": "17"}}})
    desk.page.get_by_role("button", name="saved").click()
    desk.page.get_by_role("button", name=f"Compare with version {was}").click()
    panel = desk.page.get_by_role("region", name="Compared")
    expect(panel).to_contain_text("Green came: 8400.00 mm³.")
    expect(panel).to_contain_text("Red went: 0.00 mm³.")
    row = panel.get_by_role("row").nth(1)
    expect(row).to_contain_text("Extrude sketch 10 by 10 mm")
    expect(row).to_contain_text("Extrude sketch 10 by 17 mm")
    panel.get_by_role("button", name="close").click()
    expect(panel).to_have_count(0)


def test_a_step_file_is_the_first_body(desk: Desk, tmp_path: Path) -> None:
    plate(desk, "Sent out")
    ident = desk.page.url.rsplit("/", 1)[1]
    file = tmp_path / "block.step"
    file.write_bytes(desk.page.request.get(f"/api/parts/{ident}/export/step").body())
    (tmp_path / "wrong.step").write_text("ISO-10303-21; nothing")
    desk.page.goto("/")
    desk.new_part("Brought in")
    for name in ("wrong.step", "block.step"):
        with desk.page.expect_file_chooser() as chooser:
            desk.keys("b", "i")
        chooser.value.set_files(tmp_path / name)
        if name == "wrong.step":
            expect(desk.page.get_by_role("alert")).to_contain_text("This STEP file is cut short")
    expect(desk.route).to_contain_text("Take in the bodies of block.step")
    assert desk.volume() == pytest.approx(12000, rel=1e-9)
    # a face of it carries a sketch and a cut as any other does
    desk.press_on("Pointing at: face ")
    desk.keys("b", "s")
    expect(desk.page.get_by_text("of the file of step 10").first).to_be_visible()


def test_what_was_measured_becomes_a_callout_that_is_proven_from_then_on(desk: Desk) -> None:
    drilled(desk, "Gauged")
    desk.keys("v", "m")
    slip = desk.page.get_by_role("region", name="Measured")
    desk.press_on("Pointing at: end face of step 20")
    slip.get_by_role("button", name="Callout of material behind this place").click()
    expect(desk.page.get_by_text("Callout 1, 10: measured with every build from now on.")).to_be_visible()
    desk.saved()
    expect(desk.verdict(1)).to_contain_text("proven 10")
    desk.keys("Escape", "Escape")
    desk.press_on("Pointing at: end face of step 20")
    depth = desk.page.get_by_role("group", name="Sizes of what is chosen").get_by_label("depth, step 20")
    depth.fill("12")
    depth.press("Enter")
    desk.saved()
    expect(desk.verdict(1)).to_contain_text("measures 12")
    expect(desk.gauge("Proven")).to_contain_text("0 / 1")


def test_four_views_share_one_choice_and_stay_in_projection(desk: Desk) -> None:
    plate(desk, "Four views")
    desk.keys("v", "q")
    names = [desk.page.get_by_label(f"View {n} of 4") for n in (1, 2, 3, 4)]
    assert [n.input_value() for n in names] == ["top", "iso", "front", "right"]  # as in third angle
    box = desk.page.get_by_test_id("board").bounding_box()
    assert box
    foot = desk.deck.bounding_box()
    assert foot
    width, height = box["width"], foot["y"] - box["y"]

    def middle(column: int, row: int) -> tuple[float, float]:
        return box["x"] + width * (0.25 + 0.5 * column), box["y"] + height * (0.25 + 0.5 * row)

    desk.page.mouse.move(*middle(0, 1))
    expect(desk.reading).to_contain_text("wall of step 20 from line 1")
    desk.page.mouse.move(*middle(0, 0))
    expect(desk.reading).to_contain_text("end face of step 20")
    desk.page.mouse.click(*middle(0, 0))
    expect(desk.deck).to_contain_text("1 face")
    # the chosen face is washed red in the pictorial view too
    x, y = middle(1, 0)
    r, g, b = colour_at(desk, x, y - 8)
    assert r > g + 25 and r > b + 25
    # moved in the front view, the top view follows sideways and no other way
    before = colour_at(desk, *middle(0, 0))
    x, y = middle(0, 1)
    desk.page.mouse.move(x, y)
    desk.page.mouse.down(button="middle")
    desk.page.mouse.move(x + 150, y + 4, steps=3)
    desk.page.mouse.up(button="middle")
    desk.page.wait_for_timeout(300)
    x, y = middle(0, 0)
    assert colour_at(desk, x - 40, y) != before
    assert colour_at(desk, x + 60, y) == before
    # another view of one of them, and one view again with the choice kept
    names[3].select_option("left")
    assert names[3].input_value() == "left"
    desk.keys("v", "q")
    expect(names[0]).to_have_count(0)
    expect(desk.deck).to_contain_text("1 face")


def test_hidden_lines_are_worked_out_exactly_once_the_view_rests(desk: Desk) -> None:
    drilled(desk, "Hidden lines")
    desk.page.get_by_label("How the part is drawn").select_option("dashed")
    desk.keys("v", "1")
    hidden = desk.page.get_by_test_id("hidden-lines")
    expect(hidden).to_be_attached()
    assert "7 " in str(hidden.get_attribute("d")) and "13 " in str(hidden.get_attribute("d"))  # the sides of the hole
    desk.page.mouse.move(*desk.centre_of_board())
    desk.page.mouse.down(button="right")
    desk.page.mouse.move(desk.centre_of_board()[0] + 60, desk.centre_of_board()[1] + 40, steps=3)
    expect(hidden).to_have_count(0)  # while it turns, the picture's own
    desk.page.mouse.up(button="right")
    expect(hidden).to_be_attached()
    desk.keys("v", "c")
    expect(hidden).to_have_count(0)  # cut open, other lines are hidden


def test_the_view_is_turned_square_on_to_a_chosen_face(desk: Desk) -> None:
    plate(desk, "Square on")
    desk.press_on("Pointing at: wall of step 20 from line 2")
    desk.keys("v", "q")
    third = desk.page.get_by_label("View 2 of 4")  # the isometric is in hand
    expect(third).to_have_value("iso")
    desk.keys("v", "s")
    expect(third).to_have_value("right")


def test_no_shader_is_compiled_twice(desk: Desk) -> None:
    """Neither at the next build nor for what is pointed at again, nor at the next part."""
    page = desk.page
    drilled(desk, "Compiled once")
    page.evaluate(
        """() => {
          const gl = WebGL2RenderingContext.prototype, link = gl.linkProgram;
          window.linked = 0;
          gl.linkProgram = function (...told) { window.linked += 1; return link.apply(this, told) };
        }"""
    )

    def round_of_work(depth: str) -> int:
        before = page.evaluate("() => window.linked")
        desk.press_on("Pointing at: end face of step 20")
        desk.keys("Escape")
        desk.route.get_by_text("Extrude sketch 10 by").click()
        desk.route.get_by_role("button", name="Change").click()
        desk.page.get_by_label("Depth", exact=True).fill(depth)
        expect(page.get_by_text(re.compile("Makes 1 body"))).to_be_visible()
        desk.page.get_by_label("Depth", exact=True).press("Enter")
        desk.saved()
        desk.volume()
        desk.settled()
        return int(page.evaluate("() => window.linked")) - int(before)

    round_of_work("11")
    assert round_of_work("12") == 0
    desk.copy("Pan hub", "Compiled before")
    desk.volume()
    desk.press_on("Pointing at:")
    assert page.evaluate("() => window.linked") < 12
