"""Pictures of the main views from the demo data: python -m tools.screenshots [ADDRESS], into docs/screenshots."""

from __future__ import annotations

import sys

from playwright.sync_api import Page, expect, sync_playwright

from .places import ROOT

FOLDER = ROOT / "docs" / "screenshots"
ARGUMENTS = ["--no-sandbox", "--use-angle=swiftshader", "--enable-unsafe-swiftshader"]


def _shot(page: Page, name: str) -> None:
    page.wait_for_timeout(900)
    page.screenshot(path=str(FOLDER / f"{name}.png"))


def _open(page: Page, part: str) -> None:
    page.goto("/")
    page.get_by_role("link", name=f"Open {part}", exact=True).click()
    expect(page.get_by_text("saved", exact=True)).to_be_visible(timeout=20_000)


def main(address: str) -> None:
    FOLDER.mkdir(parents=True, exist_ok=True)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=ARGUMENTS)
        page = browser.new_context(base_url=address, viewport={"width": 1280, "height": 800}).new_page()
        page.goto("/")
        expect(page.get_by_role("button", name="Fill these in")).to_be_visible()
        _shot(page, "sign-in")
        page.get_by_role("button", name="Fill these in").click()
        page.get_by_role("button", name="Sign in").click()
        expect(page.locator("li img")).to_have_count(3, timeout=20_000)
        _shot(page, "library")
        _open(page, "Cross plate")
        page.wait_for_timeout(1500)
        _shot(page, "board-solid")
        _open(page, "Pan hub")
        page.wait_for_timeout(1500)
        page.get_by_text("Sketch on the end face").click()
        page.get_by_role("button", name="Open the sketch").click()
        page.get_by_role("button", name="Show what can move").click()
        page.wait_for_timeout(600)
        page.keyboard.press("Escape")
        _shot(page, "board-sketch")
        page.keyboard.press("k")
        page.keyboard.press("s")
        page.get_by_role("region", name="Suggestions").get_by_role("listitem").nth(2).hover()
        page.wait_for_timeout(400)
        _shot(page, "suggestions")
        page.keyboard.press("b")
        page.keyboard.press("e")
        page.get_by_label("Depth").fill("14")
        expect(page.get_by_text("Adds ")).to_be_visible(timeout=20_000)
        page.wait_for_timeout(600)
        _shot(page, "preview")
        page.keyboard.press("Escape")
        _received(page)
        browser.close()


def _received(page: Page) -> None:
    """A drawing as received: brought in, its profile checked, its values listed."""
    page.goto("/")
    page.get_by_role("button", name="New part").click()
    page.get_by_label("Name", exact=True).fill("Line cleat")
    page.get_by_role("button", name="Make the part").click()
    page.get_by_role("toolbar", name="Deck").get_by_role("button", name="Front plane").click()
    expect(page.get_by_text("on the front plane")).to_be_visible()
    page.keyboard.press("d")
    page.keyboard.press("f")
    page.get_by_label("DXF or SVG file").set_input_files(ROOT / "demo" / "line-cleat.dxf")
    expect(page.get_by_role("button", name="into the sketch")).to_be_visible(timeout=20_000)
    _shot(page, "drawing-in")
    page.get_by_role("button", name="into the sketch").click()
    expect(page.get_by_role("region", name="Profile check")).to_be_visible()
    page.wait_for_timeout(800)
    page.get_by_role("button", name="join").first.hover()
    page.wait_for_timeout(600)
    _shot(page, "profile-check")


if __name__ == "__main__":
    main(sys.argv[1] if len(sys.argv) > 1 else "http://127.0.0.1:8710")
