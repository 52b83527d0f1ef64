"""The checks of the shop on the inspection page: painted, told, limits changed, a finding gone to."""

from __future__ import annotations

import re

from playwright.sync_api import expect

from .conftest import Desk

LONG = 60_000


def test_checks_are_looked_at_and_their_limits_changed(desk: Desk) -> None:
    desk.copy("Cross plate", "Cross plate looked over")
    page = desk.page
    page.get_by_role("link", name="Inspection").click()
    page.get_by_role("tab", name="Solid").click()
    expect(page.get_by_text("Passed", exact=False)).to_be_visible(timeout=LONG)
    page.get_by_role("tab", name="Walls").click()
    status = page.get_by_role("status")
    expect(status.filter(has_text="Passed")).to_be_visible(timeout=LONG)
    expect(page.get_by_role("figure", name="What the colours mean")).to_contain_text("thinnest 4.000 mm")
    # the place under the pointer says how thick it is
    part = page.get_by_role("group", name="The part as measured")
    box = part.bounding_box()
    assert box is not None
    for k in range(20):
        page.mouse.move(box["x"] + box["width"] * (0.4 + 0.01 * k), box["y"] + box["height"] / 2)
        if part.get_by_text(re.compile(r"mm thick")).count():
            break
    expect(part.get_by_text(re.compile(r"\d mm thick"))).to_be_visible()
    limits = page.get_by_role("group", name="Limits")
    limits.get_by_label("thinnest").fill("4,5")
    limits.get_by_label("thinnest").press("Enter")
    finding = page.get_by_role("list", name="Findings").get_by_role("button").first
    expect(finding).to_contain_text("thinner than 4.5 mm", timeout=LONG)
    expect(finding).to_contain_text("Step ")
    finding.click()
    expect(finding).to_have_attribute("aria-pressed", "true")
    expect(part.get_by_role("button", name="Finding 1", exact=True)).to_have_attribute("aria-pressed", "true")
    limits.get_by_label("thinnest").fill("thin")
    limits.get_by_label("thinnest").press("Enter")
    expect(limits).to_contain_text("“thin” is no number.")
    limits.get_by_label("has to pass before release").check()
    expect(limits.get_by_label("has to pass before release")).to_be_checked()
    page.get_by_role("tab", name="Cutters").click()
    expect(page.get_by_role("list", name="What the colours mean")).to_contain_text("set-up 1", timeout=LONG)
    page.reload()
    page.get_by_role("tab", name="Walls").click()
    expect(page.get_by_role("group", name="Limits").get_by_label("thinnest")).to_have_value("4.5")
    expect(page.get_by_role("group", name="Limits").get_by_label("has to pass before release")).to_be_checked()


def test_an_undercut_is_shown_and_its_slide_told(desk: Desk) -> None:
    desk.copy("Boom clamp", "Clamp with an undercut")
    page = desk.page
    page.get_by_role("link", name="Inspection").click()
    page.get_by_role("tab", name="Mould").click()
    findings = page.get_by_role("list", name="Findings")
    expect(findings).to_be_visible(timeout=LONG)
    page.get_by_label("the half that moves goes").select_option(label="to the right")
    expect(findings.get_by_text("undercut", exact=True).first).to_be_visible(timeout=LONG)
    expect(page.get_by_role("list", name="What the colours mean")).to_contain_text("locked: no half releases it")
