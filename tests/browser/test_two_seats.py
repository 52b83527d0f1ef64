"""Two seats at one part: nobody's work is overwritten, taken back or closed without a word."""

from typing import Any

from playwright.sync_api import expect

from tests.conftest import Client, Part

from .conftest import Desk
from .test_route import block


def elsewhere(desk: Desk, client: Client) -> Part:
    """The part that is open on the board, at another seat."""
    return Part(client, desk.page.url.rsplit("/", 1)[1])


def depth(desk: Desk) -> Any:
    return desk.document()["steps"][1]["extent"]["depth"]


def test_the_later_seat_is_told_before_it_overwrites(desk: Desk, wren: Client) -> None:
    block(desk, "Two seats")
    other = elsewhere(desk, wren)
    desk.route.get_by_text("Extrude sketch 10").click()
    desk.route.get_by_role("button", name="Change").click()
    field = desk.page.get_by_label("Depth", exact=True)
    field.fill("12")
    other.do(do="set_step", step="s2", changes={"extent": {"kind": "depth", "depth": "14"}})
    other.do(do="set_step", step="s2", changes={"name": "Base"})  # beside what is changed here: it stays
    expect(desk.route.get_by_text("Base:")).to_be_visible()
    field.press("Enter")
    expect(desk.page.get_by_text("changed this step meanwhile")).to_be_visible()
    assert depth(desk) == "14"
    expect(field).to_have_value("12")  # the try is kept
    desk.page.get_by_role("button", name="Keep mine over it").click()
    desk.saved()
    assert (depth(desk), desk.document()["steps"][1]["name"]) == ("12", "Base")


def test_undo_asks_before_it_takes_back_what_another_seat_did(desk: Desk, wren: Client) -> None:
    block(desk, "Undo of two")
    desk.keys("Control+z")  # one's own: taken back at once
    desk.saved()
    assert len(desk.document()["steps"]) == 1
    desk.keys("Control+y")
    desk.saved()
    elsewhere(desk, wren).do(do="set_step", step="s2", changes={"name": "Base"})
    expect(desk.route.get_by_text("Base:")).to_be_visible()
    desk.keys("Control+z")
    expect(desk.page.get_by_text("The last change was made at another window")).to_be_visible()
    assert desk.document()["steps"][1]["name"] == "Base"
    desk.page.get_by_role("button", name="Undo it").click()
    desk.saved()
    assert desk.document()["steps"][1]["name"] == ""


def test_a_sketch_taken_away_elsewhere_closes_with_a_word(desk: Desk, wren: Client) -> None:
    desk.new_part("Taken away")
    desk.sketch_on("Top")
    desk.keys("d", "l")
    elsewhere(desk, wren).do(do="delete_step", step="s1")
    expect(desk.page.get_by_text("the sketch you had open is no longer in the route")).to_be_visible()
