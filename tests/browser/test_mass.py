"""Mass on the inspection page: what drives it, a target met and taken, the band, the bench scale."""

from __future__ import annotations

import re

from playwright.sync_api import expect

from tests.conftest import Client

from .conftest import Desk

LONG = 90_000


def box(wall: float) -> float:
    """Grams of an open box of ABS, 40 × 30 × 10 outside, of a wall so thick (mm)."""
    return 1.05e-3 * (40 * 30 * 10 - (40 - 2 * wall) * (30 - 2 * wall) * (10 - wall))


def test_a_hollow_parts_mass_is_brought_to_its_target(desk: Desk, wren: Client) -> None:
    part = wren.new_part("Box to be lighter", material="ABS")
    part.block()
    opened = [{"by": "pick", "face": {"origins": ["s2/end"]}}]
    part.do(do="add_step", step={"kind": "shell", "id": "s3", "faces": opened, "thickness": "2"})
    part.do(do="set_part", changes={"target_mass": {"grams": 4.2, "tolerance": 0.1}})
    part.do(do="set_callout", callout={"id": "b1", "number": 1, "text": "2"})
    part.do(do="link_callout", callout="b1", step="s3", field="thickness")
    desk.at(part)
    page = desk.page
    page.get_by_role("link", name="Inspection").click()
    page.get_by_role("tab", name="Mass").click()
    lengths = page.get_by_role("table", name="Lengths")
    expect(lengths).to_be_visible(timeout=LONG)
    # most of all it is the thickness of the wall; pressed, the part is seen with it changed
    wall = lengths.get_by_role("row").nth(1)
    expect(wall).to_contain_text("thickness of Shell")
    wall.get_by_role("button").click()
    expect(page.get_by_role("figure", name="The part changed")).to_be_visible(timeout=LONG)
    wall.get_by_role("checkbox").check()
    meet = page.get_by_role("region", name="Meet the mass")
    expect(meet.get_by_label("Mass to be met")).to_have_value("4.2")
    meet.get_by_role("button", name="Find the value").click()
    told = meet.get_by_role("status")
    expect(told).to_contain_text("brings the part to", timeout=LONG)
    grams = float(re.search(r"part to (\d+\.\d+) g", told.inner_text())[1])  # type: ignore[index]
    assert abs(grams - 4.2) <= 0.1  # the target's tolerance
    expect(told).to_contain_text(re.compile(r"Callout \d+ .* would be out"))  # the sheet asks for a wall of 2
    meet.get_by_role("button", name="Take it").click()
    expect(lengths.get_by_role("checkbox").first).not_to_be_checked(timeout=LONG)
    figures = page.get_by_role("region", name="Mass figures")
    expect(figures).to_contain_text(f"{grams:.2f} g", timeout=LONG)
    thickness = float(wren.get(part.path)[1]["document"]["steps"][2]["thickness"])
    assert box(2) > 4.5 and abs(box(thickness) - grams) < 0.006
    page.get_by_role("link", name="To the board").click()
    expect(desk.gauge("Mass")).to_contain_text(f"{grams:.2f} g", timeout=LONG)
    expect(page.get_by_role("list", name="Steps")).to_contain_text("Shell")


def test_a_mass_out_of_reach_and_the_bench_scale(desk: Desk) -> None:
    desk.copy("Cross plate", "Plate to be weighed")
    page = desk.page
    page.get_by_role("link", name="Inspection").click()
    page.get_by_role("tab", name="Mass").click()
    lengths = page.get_by_role("table", name="Lengths")
    expect(lengths).to_be_visible(timeout=LONG)
    frame = page.get_by_label("Frame")
    centre = page.get_by_role("region", name="Mass figures").get_by_text(re.compile(r"^-?\d+\.\d{3}  "))
    before = centre.first.inner_text()
    frame.select_option(label="Sketch 10")
    expect(page.get_by_label("Frame")).not_to_have_value("")
    assert before
    lengths.get_by_role("checkbox").first.check()
    meet = page.get_by_role("region", name="Meet the mass")
    meet.get_by_label("Mass to be met").fill("900")
    meet.get_by_label("Mass to be met").press("Enter")
    expect(meet.get_by_role("status")).to_contain_text("900 g is out of reach", timeout=LONG)
    scale = page.get_by_role("region", name="Bench scale")
    expect(scale).to_contain_text("simulated")
    scale.get_by_role("button", name="Weigh a made example").click()
    reading = scale.get_by_role("table", name="Readings").get_by_role("row")
    expect(reading).to_have_count(1, timeout=LONG)
    expect(reading).to_contain_text("a made part within the band")
    page.reload()
    page.get_by_role("tab", name="Mass").click()
    expect(page.get_by_role("region", name="Bench scale").get_by_role("row")).to_have_count(1, timeout=LONG)
