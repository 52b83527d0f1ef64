"""Datum points, axes and planes made and used by pointing; sketches and datums laid on the board and taken off it."""

from __future__ import annotations

import math

import pytest
from playwright.sync_api import expect

from .conftest import Desk
from .test_on_the_model import outermost
from .test_solids import TOP, plate, points, send, step


def mark(desk: Desk, name: str):  # type: ignore[no-untyped-def]
    return desk.page.get_by_label(name, exact=True)


def test_a_hole_follows_a_point_midway_between_others(desk: Desk) -> None:
    plate(desk, "Midway")
    desk.keys("b", "d")
    desk.page.get_by_label("Kind of datum").select_option("between")
    expect(desk.route.get_by_text("Press two corners of the part")).to_be_visible()
    desk.page.get_by_label("Two points by name").select_option("origin")
    at = outermost(desk)[2]
    desk.page.mouse.move(*at)
    expect(desk.reading).to_contain_text("Pointing at: corner")
    desk.page.mouse.click(*at)
    expect(desk.route.get_by_text("the origin and a corner of the")).to_be_visible()
    expect(mark(desk, "Point of step 0")).to_be_attached()  # where it would be
    desk.keys("Enter")
    desk.saved()
    desk.volume()

    # an axis through it, by pressing the mark
    desk.keys("b", "d")
    desk.page.get_by_label("Kind of datum").select_option("square")
    mark(desk, "Point of step 30").click()
    expect(desk.route.get_by_role("button", name="Point", exact=True)).to_have_text("the point of step 30")
    desk.keys("Enter")
    desk.saved()
    desk.volume()
    expect(desk.route.get_by_text("Datum axis square to the top plane through the point of step 30")).to_be_visible()

    # in a sketch both are there to be brought in: a hole goes where the point is
    [datum] = [s for s in desk.document()["steps"] if s["kind"] == "datum" and s["form"] == "between"]
    edge = datum["corners"][1]["at"]
    send(desk, step("sketch", "s9", on=TOP))
    desk.route.get_by_role("button", name="Sketch on Top plane, nothing drawn yet").dblclick()
    desk.deck.get_by_role("button", name="Edges of the part").click()
    desk.move(edge[0] / 2, edge[1] / 2)
    expect(desk.reading).to_contain_text("press to bring in the point of step 30")
    desk.press(edge[0] / 2, edge[1] / 2)
    desk.saved()
    desk.keys("Escape", "Escape")
    [point] = desk.document()["steps"][-1]["sketch"]["entities"]
    assert point["at"] == pytest.approx([edge[0] / 2, edge[1] / 2])
    send(desk, step("hole", "s10", sketch="s9", diameter="4", reverse=True))
    assert desk.volume() == pytest.approx(12000 - math.pi * 4 * 10)


def test_sketches_and_datums_are_hidden_and_shown_one_by_one_and_together(desk: Desk) -> None:
    datum = step("datum", "s4", form="offset", plane=TOP, distance="16")
    plate(desk, "Laid out", *points("s3", (10, 10), (30, 20)), datum)
    sketch, plane = mark(desk, "Sketch 30"), mark(desk, "Plane of step 40")
    expect(sketch).to_be_attached()  # nothing is made from it yet
    expect(plane).to_be_attached()
    expect(mark(desk, "Sketch 10")).to_have_count(0)  # the plate shows what it gave

    row = desk.route.get_by_role("button", name="Datum plane beside the top plane at 16 mm")
    row.click()
    desk.route.get_by_role("button", name="Hide on the board").click()
    expect(plane).to_have_count(0)
    desk.page.get_by_role("button", name="1 sketch or datum hidden: show").click()
    expect(plane).to_be_attached()
    row.click()

    desk.route.get_by_role("button", name="Sketch on Top plane").click()
    desk.route.get_by_role("button", name="Show on the board").click()
    expect(mark(desk, "Sketch 10")).to_be_attached()

    desk.keys("v", "g")
    for gone in (sketch, plane, mark(desk, "Sketch 10")):
        expect(gone).to_have_count(0)
    expect(desk.page.get_by_role("button", name="3 sketches and datums hidden: show")).to_be_visible()
    desk.keys("v", "g")
    expect(sketch).to_be_attached()

    # once holes are drilled at its points the sketch leaves the board by itself
    send(desk, step("hole", "s5", sketch="s3", diameter="4"))
    expect(plane).to_be_attached()
    expect(sketch).to_have_count(0)


def test_a_plane_is_taken_by_its_rim_and_hides_no_face(desk: Desk) -> None:
    plate(desk, "Under a plane", step("datum", "s3", form="offset", plane=TOP, distance="12"))
    desk.keys("b", "d")
    plane = desk.page.get_by_role("button", name="Plane", exact=True)
    plane.click()
    expect(mark(desk, "Plane of step 30")).to_have_attribute("role", "button")
    desk.press_on("Pointing at: end face of step 20")
    expect(plane).to_have_text("the end face of step 20")
    mark(desk, "Plane of step 30").focus()
    desk.keys("Space")
    expect(plane).to_have_text("the plane of step 30")
    desk.page.get_by_label("Distance", exact=True).fill("5")
    desk.keys("Enter")
    desk.saved()
    expect(desk.route.get_by_text("Datum plane beside the plane of step 30 at 5 mm")).to_be_visible()


def test_a_body_is_parted_by_a_round_face_carried_on(desk: Desk) -> None:
    circle = {"kind": "circle", "id": "c1", "c": [20, 15], "r": 6}
    upper = {"kind": "face", "face": {"origins": ["s2/end"]}}
    post = [
        step("sketch", "s3", on=upper),
        {"do": "sketch_add", "step": "s3", "entities": [circle]},
        step("extrude", "s4", sketch="s3", extent={"kind": "depth", "depth": "12"}),
    ]
    plate(desk, "Parted by a post", *post)
    desk.keys("r", "t")
    desk.page.get_by_label("Split by").select_option("face")
    desk.press_on("Pointing at: wall of step 40")
    expect(desk.route.get_by_text("1 body parted; 2 now.")).to_be_visible()
    desk.keys("Enter")
    desk.saved()
    desk.volume()
    expect(desk.route.get_by_text("2 bodies")).to_be_visible()
    ident = desk.page.url.rsplit("/", 1)[1]
    bodies = desk.page.request.get(f"/api/parts/{ident}/build").json()["mass"]["bodies"]
    volumes = sorted(b["volume"] for b in bodies)
    core = math.pi * 36 * 22
    assert volumes == pytest.approx([core, 12000 - math.pi * 36 * 10], rel=1e-9)
