"""The demo's parts drawn, checked and released through the screen; their packs read by readers of their own."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect
from shop_inbox.reader import reasons_against

from sulvak_core.release.verify import verify
from tests.conftest import Client
from tests.examples import THOROUGH
from tests.service import Part, Service

from .conftest import Desk

LONG = 120_000
PARTS = [
    "Cross plate",
    "Pan hub",
    "Electronics pod",
    "Ballast bar",
    "Camera cradle",
    "Tilt arm",
    "Boom clamp",
    "Pod lid",
    "Line cleat",
]
# one that is moulded, with most to check; all nine when it is asked to be thorough
TRIED = PARTS if THOROUGH else ["Electronics pod"]
DEMO = Path(__file__).resolve().parents[2] / "demo"


@pytest.mark.parametrize("name", TRIED)
def test_a_part_is_drawn_checked_and_released(desk: Desk, wren: Client, name: str, tmp_path: Path) -> None:
    page = desk.page
    finished = DEMO / "finished" / f"{name.lower().replace(' ', '-')}.json"
    if finished.exists():  # the demo holds it half done: it is finished as the demo's own file has it
        workspace = str(wren.workspace())
        status, made = wren.upload("/api/parts/import", "part.json", finished.read_bytes(), workspace=workspace)
        assert status == 200, made
        desk.at(Part(wren, made["id"]))
    else:
        desk.at(wren.copy(name, f"{name} to release"))
    page.get_by_role("link", name="Drawing", exact=True).click()
    expect(page.get_by_text("all as the part is; none lies on anything")).to_be_visible(timeout=LONG)
    page.go_back()
    page.get_by_role("link", name="Release", exact=True).click()
    lines = page.get_by_role("list", name="Conditions").get_by_role("listitem")
    expect(lines.first).to_be_visible(timeout=LONG)
    for line in lines.filter(has_text="open").all():
        # a drawing holds more sizes than its sheet; letters are finer than the shop's finest edge
        assert re.search("every size has a callout|a sound solid", line.inner_text()), line.inner_text()
        line.get_by_role("textbox").fill("seen and agreed")
    page.get_by_role("button", name="Release revision A").click()
    expect(page.get_by_text("Revision A is released.")).to_be_visible(timeout=LONG)
    with page.expect_download() as got:
        page.get_by_role("button", name="Pack", exact=True).click()
    pack = tmp_path / "pack.zip"
    got.value.save_as(pack)
    told, wrong = verify(pack.read_bytes())
    assert wrong == [] and told["part"]["name"].startswith(name)
    assert reasons_against(pack.read_bytes()) == []


def test_the_shop_answers_on_the_page(desk: Desk, wren: Client, service: Service) -> None:
    desk.at(wren.copy("Tilt arm", "Tilt arm, to be shown to the shop"))
    page: Page = desk.page
    service.start_inbox()
    try:
        page.get_by_role("link", name="Release", exact=True).click()
        expect(page.get_by_role("list", name="Conditions")).to_be_visible(timeout=LONG)
        button = page.get_by_role("button", name=re.compile("Release revision"))
        expect(button).to_be_disabled()
        page.get_by_label("Reason to release although: every size has a callout").fill("48 follows from 90")
        button.click()
        page.get_by_role("button", name="send to the shop (simulated)").click(timeout=LONG)
        expect(page.get_by_text("accepted by the shop")).to_be_visible(timeout=LONG)
        expect(page.get_by_role("list", name="Released revisions").get_by_role("listitem")).to_have_count(1)
    finally:
        service.kill("inbox")
