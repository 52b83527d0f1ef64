"""Pictures of the main views from the demo data: python -m tools.screenshots [ADDRESS], into docs/screenshots."""

from __future__ import annotations

import sys
from collections.abc import Iterator
from contextlib import contextmanager

from playwright.sync_api import APIResponse, Page, expect, sync_playwright

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


@contextmanager
def at_the_door(address: str) -> Iterator[Page]:
    """A page of 1280 × 800 that shows the sign-in."""
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=ARGUMENTS)
        page = browser.new_context(base_url=address, viewport={"width": 1280, "height": 800}).new_page()
        page.goto("/")
        expect(page.get_by_role("button", name="Fill these in")).to_be_visible()
        yield page
        browser.close()


def sign_in(page: Page) -> None:
    page.get_by_role("button", name="Fill these in").click()
    page.get_by_role("button", name="Sign in").click()


def main(address: str) -> None:
    FOLDER.mkdir(parents=True, exist_ok=True)
    with at_the_door(address) as page:
        sign_in(page)
        expect(page.locator("li img")).to_have_count(9, timeout=40_000)
        _shot(page, "library")
        _open(page, "Tilt arm")
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
        _sheet(page)
        _rough(page)
        _pod(page)
        _looking(page)
        _received(page)
        _weighed_and_made(page)
        _drawn_and_released(page)


def _sheet(page: Page) -> None:
    """A sheet read at half the window, and one held against a part half done."""
    _open(page, "Camera cradle")
    _keys(page, "w", "s", "r")
    expect(page.get_by_text("13 sizes read")).to_be_visible(timeout=40_000)
    _shot(page, "sheet-half")
    _open(page, "Pan hub")
    _keys(page, "w", "s", "l")
    expect(page.get_by_text("of the sheet's lines explained")).to_be_visible(timeout=40_000)
    page.get_by_text("no edge explains").first.click()
    _shot(page, "sheet-lines")
    _open(page, "Tilt arm")
    page.get_by_role("link", name="Inspection").click()
    expect(page.get_by_role("table", name="Sizes")).to_be_visible()
    _shot(page, "inspection")


def _rough(page: Page) -> None:
    """A plate drawn by hand, fitted to the sheet of the pod."""
    page.goto("/")
    page.get_by_role("button", name="New part").click()
    page.get_by_label("Name", exact=True).fill("Drawn roughly")
    page.get_by_role("button", name="Make the part").click()
    page.get_by_label("Drawing file").set_input_files(ROOT / "demo" / "electronics-pod.svg")
    page.get_by_role("button", name="read", exact=True).click()
    page.get_by_role("button", name="Take all").click()
    page.get_by_role("toolbar", name="Deck").get_by_role("button", name="Top plane").click()
    board = page.get_by_test_id("board").bounding_box()
    assert board
    x, y = board["x"] + 0.3 * board["width"], board["y"] + 0.52 * board["height"]
    for tool, corners in (("r", ((0, 0), (250, -230))), ("c", ((90, -120), (90, -85)))):
        _keys(page, "d", tool)
        for dx, dy in corners:
            page.mouse.click(x + dx, y + dy)
            page.wait_for_timeout(300)
        _keys(page, "Escape")
    _keys(page, "Escape", "k", "h")
    expect(page.get_by_text("In green, where everything would be")).to_be_visible(timeout=40_000)
    _shot(page, "fit-to-sheet")


def _pod(page: Page) -> None:
    """The order adviser on the pod's shell, and its rounds being changed."""
    _open(page, "Electronics pod")
    note = page.get_by_role("note", name="Order adviser")
    expect(note).to_be_visible(timeout=60_000)
    note.get_by_role("button", name="Look").click()
    expect(page.get_by_text("What would change")).to_be_visible()
    page.wait_for_timeout(1200)
    _shot(page, "adviser")
    note.get_by_role("button", name="Stop looking").click()
    page.get_by_role("button", name="Round the corners").click()
    page.get_by_role("button", name="Change", exact=True).click()
    page.get_by_role("button", name="Edges", exact=True).click()
    page.get_by_label("Radius", exact=True).fill("9")
    expect(page.get_by_text("4 edges rounded")).to_be_visible(timeout=20_000)
    page.wait_for_timeout(800)
    _shot(page, "step-round")
    page.keyboard.press("Escape")


def _looking(page: Page) -> None:
    """The pod cut open, and in four views."""
    _open(page, "Electronics pod")
    expect(page.get_by_role("note", name="Order adviser")).to_be_visible(timeout=60_000)
    _keys(page, "v", "c")
    _shot(page, "section")
    _keys(page, "v", "c")
    page.get_by_label("How the part is drawn").select_option("dashed")
    _keys(page, "v", "q")
    expect(page.get_by_test_id("hidden-lines")).to_have_count(4, timeout=30_000)
    _shot(page, "four-views")
    _keys(page, "v", "q")
    page.get_by_label("How the part is drawn").select_option("edges")


def _keys(page: Page, *keys: str) -> None:
    for key in keys:
        page.keyboard.press(key)


def _weighed_and_made(page: Page) -> None:
    """What drives a part's mass, and its walls."""
    _open(page, "Tilt arm")
    page.get_by_role("link", name="Inspection").click()
    page.get_by_role("tab", name="Mass").click()
    lengths = page.get_by_role("table", name="Lengths")
    expect(lengths).to_be_visible(timeout=60_000)
    lengths.get_by_role("button").first.click()
    expect(page.get_by_role("figure", name="The part changed")).to_be_visible(timeout=30_000)
    _shot(page, "mass")
    page.get_by_role("tab", name="Walls").click()
    expect(page.get_by_role("figure", name="What the colours mean")).to_be_visible(timeout=60_000)
    page.wait_for_timeout(1500)
    page.mouse.move(1040, 330)
    page.mouse.move(1042, 332)
    _shot(page, "walls")
    page.get_by_role("tab", name="Meshes").click()
    scan = _scan(page.request.get(page.url.split("/inspection")[0].replace("/parts/", "/api/parts/") + "/export/stl"))
    page.get_by_label("File of a mesh").set_input_files(
        {"name": "first piece.stl", "mimeType": "model/stl", "buffer": scan}
    )
    expect(page.get_by_label("Figures of the mesh")).to_be_visible(timeout=60_000)
    page.get_by_role("button", name="Lay it on the part").click()
    expect(page.get_by_text("Laid on the part")).to_be_visible(timeout=60_000)
    page.wait_for_timeout(8000)
    page.mouse.move(1075, 330)
    page.mouse.move(1077, 332)
    _shot(page, "meshes")


def _scan(answer: APIResponse) -> bytes:
    """What a scanner might give of a made piece: a little noise, a dent, a burr, lying somewhere."""
    import io

    import numpy as np
    import trimesh

    mesh = trimesh.load(io.BytesIO(answer.body()), file_type="stl", force="mesh").subdivide_to_size(1.5)
    v, normals = mesh.vertices.copy(), mesh.vertex_normals.copy()
    off = 0.03 * np.sin(v[:, 0] / 7) * np.cos(v[:, 1] / 5) + 0.01 * np.random.default_rng(3).normal(size=len(v))
    for middle, deep, wide in (((45, 0, 8), -0.35, 5), ((90, 10, 0), 0.5, 6)):
        off += deep * np.exp(-((np.linalg.norm(v - middle, axis=1) / wide) ** 2))
    mesh.vertices = v + normals * off[:, None]
    place = trimesh.transformations.euler_matrix(0.4, 1.1, -0.7)
    place[:3, 3] = [120, -40, 60]
    mesh.apply_transform(place)
    return bytes(mesh.export(file_type="stl"))


def _drawn_and_released(page: Page) -> None:
    """The drawing of a part with a section, and a part released."""
    _open(page, "Tilt arm")
    page.get_by_role("link", name="Drawing", exact=True).click()
    sizes = page.get_by_role("list", name="Sizes on the drawing")
    expect(sizes).to_be_visible(timeout=60_000)
    page.get_by_role("button", name="Add a section").click()
    expect(sizes.get_by_text("section A-A").first).to_be_visible(timeout=60_000)
    page.get_by_label("balloons").click()
    page.wait_for_timeout(2500)
    sizes.get_by_role("listitem").filter(has_text="90").get_by_role("button").click()
    _shot(page, "drawing")
    _open(page, "Cross plate")
    page.get_by_role("link", name="Release", exact=True).click()
    reason = page.get_by_label("Reason to release although: every size has a callout")
    reason.fill("both arms are alike", timeout=60_000)
    page.get_by_role("button", name="Release revision A").click()
    page.get_by_role("button", name="send to the shop").click(timeout=120_000)
    expect(page.get_by_text("accepted by the shop")).to_be_visible(timeout=60_000)
    page.get_by_role("button", name="files").click()
    page.wait_for_timeout(4000)
    _shot(page, "release")


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
