"""Getting in and around: signing in, empty places, help, views, keys, what is said when something is not there."""

import re

from playwright.sync_api import Page, expect

from tests.conftest import PASSWORD, Service

from .conftest import Desk
from .test_drawing_tools import begin, circle, line, shape


def test_a_wrong_password_is_told_and_the_right_one_goes_on(page: Page, service: Service) -> None:
    page.goto("/")
    page.get_by_label("Name").fill("tern")
    page.get_by_label("Password").fill("wrong")
    page.get_by_role("button", name="Sign in").click()
    expect(page.get_by_role("alert")).to_be_visible()
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Sign in").click()
    expect(page.get_by_role("heading", name="Fenmarsh Kite Survey")).to_be_visible()
    page.get_by_role("button", name="Sign out").click()
    expect(page.get_by_role("button", name="Sign in")).to_be_visible()
    page.goto("/parts/00000000-0000-0000-0000-000000000000")
    expect(page.get_by_role("button", name="Sign in")).to_be_visible()


def test_a_part_that_is_not_there_is_said_with_a_way_back(desk: Desk) -> None:
    desk.page.goto("/parts/00000000-0000-0000-0000-000000000000")
    expect(desk.page.get_by_role("link", name=re.compile("library", re.I)).first).to_be_visible()


def test_the_library_searches_and_says_when_nothing_fits(desk: Desk) -> None:
    desk.library()
    search = desk.page.get_by_role("searchbox", name="Search parts")
    search.fill("FKS-0207")
    cards = desk.page.get_by_role("main").get_by_role("listitem")
    expect(cards.filter(has_text="Cross plate")).to_have_count(0)
    expect(cards.filter(has_text="Pan hub").first).to_be_visible()
    expect(cards.filter(has_not_text="FKS-0207")).to_have_count(0)
    search.fill("no such thing at all")
    expect(cards.filter(has_text="Pan hub")).to_have_count(0)
    expect(desk.page.get_by_role("main")).to_contain_text(re.compile("no part|nothing", re.I))


def test_an_empty_part_says_what_to_do_first(desk: Desk) -> None:
    desk.new_part("Nothing yet")
    expect(desk.sheet).to_contain_text("No sheet yet")
    expect(desk.deck).to_contain_text("Sketch on")
    for plane in ("Front", "Top", "Right"):
        expect(desk.deck.get_by_role("button", name=f"{plane} plane")).to_be_visible()
    desk.keys("b", "e")
    expect(desk.page.get_by_role("alert")).to_be_visible()  # nothing to extrude: told, not ignored


def test_views_are_on_keys_and_on_the_view_cross(desk: Desk) -> None:
    """Both show one picture of each view, another than the tilted view's and than the others'."""
    desk.open("Cross plate")
    desk.keys("v", "i")
    seen = [picture(desk)]
    for view, key in (("Top", "2"), ("Front", "1"), ("Right", "3")):
        desk.page.get_by_role("button", name=f"{view} view").click()
        by_press = picture(desk)
        desk.keys("v", "i")
        desk.keys("v", key)
        assert picture(desk) == by_press
        assert by_press not in seen
        seen.append(by_press)


def picture(desk: Desk) -> bytes:
    """What the board shows once it has come to rest."""
    last = b""
    for _ in range(40):
        desk.settled()
        now = desk.page.screenshot(clip=board_box(desk))
        if now == last:
            return now
        last = now
    raise AssertionError("the board does not come to rest")


def board_box(desk: Desk) -> dict[str, float]:  # type: ignore[type-arg]
    box = desk.page.get_by_test_id("board").bounding_box()
    assert box
    return {"x": box["x"], "y": box["y"], "width": box["width"], "height": box["height"] - 260}


def test_help_lists_every_key_once(desk: Desk) -> None:
    desk.open("Cross plate")
    desk.keys("?")
    expect(desk.page.get_by_role("heading", name="Keys and pointer")).to_be_visible()
    rows = desk.page.get_by_role("dialog").get_by_role("listitem")
    keys = [k for k in rows.locator("span").all_inner_texts() if k]
    assert len(keys) > 90
    # two pairs share their keys, as only one of each makes sense at a time
    assert {k for k in keys if keys.count(k) > 1} == {"b s", "e f"}
    expect(rows.filter(has_text="Pattern in rows")).to_have_count(1)
    expect(rows.filter(has_text="Edges of the part")).to_have_count(1)
    desk.keys("Escape")
    expect(desk.page.get_by_role("dialog")).to_have_count(0)


def test_escape_goes_back_one_level_at_a_time(desk: Desk) -> None:
    begin(desk, "Back")
    desk.keys("d", "l")
    desk.press(0, 0)
    desk.keys("Escape")  # the started line
    expect(desk.reading).to_contain_text("press where the line starts")
    desk.keys("Escape")  # the tool
    expect(desk.reading).not_to_contain_text("Line:")
    expect(desk.page.get_by_text("on the top plane")).to_be_visible()
    desk.keys("Escape")  # nothing in hand: the sketch stays
    expect(desk.page.get_by_text("on the top plane")).to_be_visible()
    desk.keys("e", "x")
    expect(desk.page.get_by_text("on the top plane")).to_have_count(0)


def test_what_is_chosen_says_what_can_be_done_with_it(desk: Desk) -> None:
    begin(desk, "Answers")
    shape(desk, line("l1", (-12, -6), (12, -4)), line("l2", (-12, 6), (12, 7)), circle("c1", (0, 12), 3))
    deck = desk.deck
    desk.press(5, -4.6)
    for words in ("Horizontal", "Vertical", "Fixed", "Construction on/off", "Move", "Pattern in rows"):
        expect(deck.get_by_role("button", name=words).first).to_be_visible()
    expect(deck.get_by_role("button", name="Parallel")).to_have_count(0)
    desk.press(5, 6.7, more=True)
    for words in ("Parallel", "Perpendicular", "Equal", "Collinear"):
        expect(deck.get_by_role("button", name=words).first).to_be_visible()
    expect(deck.get_by_text("2 chosen")).to_be_visible()
    desk.press(3, 12)
    expect(deck.get_by_text("circle 1", exact=True)).to_be_visible()
    desk.press(5, 6.7, more=True)
    expect(deck.get_by_role("button", name="Tangent").first).to_be_visible()


def test_the_sheet_folds_away_and_comes_back(desk: Desk) -> None:
    desk.open("Cross plate")
    before = desk.page.get_by_test_id("board").bounding_box()
    desk.page.get_by_role("button", name="Fold the sheet away").click()
    after = desk.page.get_by_test_id("board").bounding_box()
    assert before
    assert after
    assert after["width"] > before["width"] + 150
    desk.page.get_by_role("button", name=re.compile("sheet", re.I)).first.click()
    expect(desk.sheet.get_by_role("list", name="Callouts")).to_be_visible()


def test_gauges_say_what_they_count_and_lead_there(desk: Desk) -> None:
    desk.open("Pan hub")
    gauge = desk.gauge("Freedom")
    expect(gauge).to_contain_text("9")
    gauge.click()
    expect(desk.page.locator("[data-state=pencil]").first).to_be_visible()  # the loose sketch is open
