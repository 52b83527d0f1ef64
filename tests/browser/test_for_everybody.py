"""What axe-core finds on every main view: nothing serious, in contrast, names, roles and headings."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest
from playwright.sync_api import expect
from tools.places import WEB

from .conftest import Desk

AXE = WEB / "node_modules" / "axe-core" / "axe.min.js"
AUDIT = """async () => {
  const rules = { "label-content-name-mismatch": { enabled: true } };
  const found = await axe.run(document, { resultTypes: ["violations"], rules });
  return found.violations.map((v) => [v.impact, v.id, v.nodes.map((n) => n.html.slice(0, 200) + n.failureSummary)]);
}"""
MUST_HOLD = {"landmark-one-main", "page-has-heading-one", "region"}  # though axe calls them moderate


def audit(desk: Desk) -> list[Any]:
    desk.settled()
    desk.page.evaluate(AXE.read_text())
    found: list[Any] = desk.page.evaluate(AUDIT)
    return [f for f in found if f[0] in ("serious", "critical") or f[1] in MUST_HOLD]


def library(desk: Desk) -> None:
    desk.library()
    expect(desk.page.get_by_role("main").get_by_role("listitem").first).to_be_visible()


def new_part(desk: Desk) -> None:
    desk.library()
    desk.page.get_by_role("button", name="New part").click()


def board(desk: Desk) -> None:
    desk.open("Cross plate")
    desk.volume()


def step(desk: Desk) -> None:
    board(desk)
    desk.route.locator("[data-step] button[aria-expanded]").nth(1).dblclick()
    expect(desk.page.get_by_role("button", name="Keep")).to_be_visible()


def sketch(desk: Desk) -> None:
    desk.open("Pan hub")
    desk.volume()
    desk.gauge("Freedom").click()
    expect(desk.page.locator("[data-state=pencil]").first).to_be_visible()


def sketch_chosen(desk: Desk) -> None:
    sketch(desk)
    desk.keys("k", "c")
    desk.press(0, 0)
    desk.route.get_by_role("button", name="Show what can move").click()


def leaf(name: str) -> Callable[[Desk], None]:
    def opened(desk: Desk) -> None:
        board(desk)
        desk.keys("/")
        desk.page.get_by_label("Search actions").fill(name)
        desk.keys("Enter")

    return opened


def versions(desk: Desk) -> None:
    board(desk)
    desk.page.get_by_role("button", name="saved").click()


def actions(desk: Desk) -> None:
    board(desk)
    desk.keys("/")


def keys(desk: Desk) -> None:
    board(desk)
    desk.keys("?")


def refused(desk: Desk) -> None:
    desk.new_part("Told in red")
    desk.keys("b", "e")
    expect(desk.page.get_by_role("alert")).to_be_visible()


def signed_out(desk: Desk) -> None:
    desk.page.context.clear_cookies()
    desk.page.goto("/")
    expect(desk.page.get_by_role("button", name="Sign in")).to_be_visible()


VIEWS = [library, new_part, board, step, sketch, sketch_chosen, versions, actions, keys, refused, signed_out]


@pytest.mark.parametrize("view", VIEWS, ids=lambda v: v.__name__)
def test_nothing_serious_on(view: Callable[[Desk], None], desk: Desk) -> None:
    view(desk)
    assert audit(desk) == []


@pytest.mark.parametrize("name", ["material", "values and sizes"])
def test_nothing_serious_on_the_leaf_of(name: str, desk: Desk) -> None:
    leaf(name)(desk)
    assert audit(desk) == []
