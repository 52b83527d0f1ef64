"""Debian's Chromium, headless, driven as a person would: by role, name and place on the board."""

from __future__ import annotations

import math
import re
import time
from collections.abc import Iterator
from typing import Any

import pytest
from playwright.sync_api import Browser, Locator, Page, expect, sync_playwright

from tests.conftest import PASSWORD, Client, Service

ARGUMENTS = [
    "--no-sandbox",
    "--use-angle=swiftshader",
    "--enable-unsafe-swiftshader",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--disable-features=PreloadTopChromeWebUI",
]
# What a hand does, counted in the page: presses, keys, letters of a value filled in, two presses for a choice.
COUNTING = """(() => {
  const add = (n) => { sessionStorage.hand = Number(sessionStorage.hand || 0) + n };
  let key = false;
  addEventListener("pointerdown", (e) => e.isTrusted && add(1), true);
  addEventListener("keydown", (e) => {
    if (!e.isTrusted || ["Shift", "Control", "Alt"].includes(e.key)) return;
    key = true;
    add(1);
  }, true);
  addEventListener("input", (e) => {
    if (e.target.tagName === "SELECT") add(2);
    else if (!key && e.data) add(e.data.length);
    key = false;
  }, true);
})()"""
PATIENCE = 45_000  # ms; the machine may be busy with something else
expect.set_options(timeout=PATIENCE)


@pytest.fixture(scope="session")
def chromium() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=ARGUMENTS)
        yield browser
        browser.close()


@pytest.fixture
def page(chromium: Browser, service: Service) -> Iterator[Page]:
    """A page that fails the test if the browser reports an error or the content policy blocks something."""
    context = chromium.new_context(
        base_url=service.address, viewport={"width": 1280, "height": 800}, accept_downloads=True
    )
    context.add_init_script(COUNTING)
    made = context.new_page()
    made.set_default_timeout(PATIENCE)
    troubles: list[str] = []
    made.on("pageerror", lambda e: troubles.append(str(e)))

    def heard(message: Any) -> None:
        expected = "status of 4" in message.text or "WebSocket" in message.text
        if message.type == "error" and not expected:
            troubles.append(message.text)

    made.on("console", heard)
    # heard from the start: the browser hands choosers over only some time after it was first asked to
    made.on("filechooser", lambda _: None)
    yield made
    context.close()
    assert not troubles


class Desk:
    """A designer at the screen."""

    def __init__(self, page: Page) -> None:
        self.page = page
        self.deck = page.get_by_role("toolbar", name="Deck")
        self.route = page.get_by_role("complementary", name="Route")
        self.sheet = page.get_by_role("complementary", name="Sheet")
        self.reading = page.get_by_test_id("reading")

    def sign_in(self, name: str = "wren") -> None:
        self.page.goto("/")
        self.page.get_by_label("Name").fill(name)
        self.page.get_by_label("Password").fill(PASSWORD)
        self.page.get_by_role("button", name="Sign in").click()
        self.at_the_library()

    def come_back(self, service: Service) -> None:
        """Open Sulvak in a browser in which wren has signed in before."""
        kept = [{"name": c.name, "value": c.value, "url": service.address} for c in Client(service).jar]
        self.page.context.add_cookies(kept)  # type: ignore[arg-type]
        self.page.goto("/")
        self.at_the_library()

    def at_the_library(self) -> None:
        expect(self.page.get_by_role("heading", name="Fenmarsh Kite Survey")).to_be_visible()

    def _find(self, part: str) -> None:
        """Search the library: other tests have made more parts than a page takes."""
        self.page.get_by_label("Search parts").fill(part)

    def open(self, part: str) -> None:
        self._find(part)
        self.page.get_by_role("link", name=f"Open {part}", exact=True).first.click()
        expect(self.route).to_be_visible()

    def copy(self, part: str, name: str) -> None:
        self._find(part)
        self.page.get_by_role("button", name=f"Copy {part}", exact=True).click()
        self.page.get_by_label("Name of the copy").fill(name)
        self.page.get_by_role("button", name="Copy", exact=True).click()
        expect(self.route).to_be_visible()

    def new_part(self, name: str) -> None:
        self.page.get_by_role("button", name="New part").click()
        self.page.get_by_label("Name", exact=True).fill(name)
        self.page.get_by_role("button", name="Make the part").click()
        expect(self.route).to_be_visible()

    def sketch_on(self, plane: str) -> None:
        self.deck.get_by_role("button", name=f"{plane} plane").click()
        expect(self.page.get_by_text(f"on the {plane.lower()} plane")).to_be_visible()

    # -- pointing in the sketch, in mm ---------------------------------------------------------------

    def place(self, x: float, y: float) -> tuple[float, float]:
        a, b, c, d, e, f = map(float, str(self.page.get_by_test_id("sketch").get_attribute("data-affine")).split())
        box = self.page.get_by_test_id("board").bounding_box()
        assert box
        return box["x"] + a * x + c * y + e, box["y"] + b * x + d * y + f

    def move(self, x: float, y: float) -> None:
        self.page.mouse.move(*self.place(x, y))

    def press(self, x: float, y: float, more: bool = False) -> None:
        at = self.place(x, y)
        if more:
            self.page.keyboard.down("Shift")
        self.page.mouse.move(*at)
        self.page.mouse.click(*at)
        if more:
            self.page.keyboard.up("Shift")

    def drag(self, start: tuple[float, float], end: tuple[float, float]) -> None:
        self.page.mouse.move(*self.place(*start))
        self.page.mouse.down()
        (ax, ay), (bx, by) = self.place(*start), self.place(*end)
        for i in range(1, 9):
            self.page.mouse.move(ax + (bx - ax) * i / 8, ay + (by - ay) * i / 8)
            self.page.wait_for_timeout(40)
        self.page.mouse.up()
        self.saved()

    def keys(self, *keys: str) -> None:
        for key in keys:
            self.page.keyboard.press(key)

    def typed_in(self, value: str) -> None:
        """One value typed for a press that does not end the shape yet."""
        self.page.keyboard.type(value)
        self.keys("Enter")

    def typed(self, *values: str) -> None:
        """Values typed while drawing, Tab between them, Enter at the end; what begins like a number needs no Tab."""
        for i, value in enumerate(values):
            if i or value[0] not in "0123456789.,(RØ-":
                self.keys("Tab")
            self.page.keyboard.type(value)
        self.keys("Enter")
        self.saved()

    def settled(self) -> None:
        """What was just done has been taken up and drawn, however busy the machine is."""
        self.page.evaluate("() => new Promise(done => requestAnimationFrame(() => requestAnimationFrame(done)))")

    def saved(self) -> None:
        self.page.wait_for_timeout(60)
        self.settled()
        expect(self.page.get_by_text("saved", exact=True)).to_be_visible()

    def dimension(
        self,
        *picks: tuple[float, float],
        at: tuple[float, float],
        value: str = "",
        callout: str = "",
        more: bool = False,
    ) -> None:
        """A size put down. The tool stays in hand for ``more``, and a second one goes on with it."""
        if "Dimension:" not in self.reading.inner_text():
            self.keys("m")
        for pick in picks:
            self.press(*pick)
        self.press(*at)
        field = self.page.get_by_label("Value of the")
        expect(field).to_be_focused()
        if callout:
            self.callout(callout)
            expect(self.page.get_by_text("fed by a callout")).to_be_visible()
        else:
            field.fill(value)
        field.press("Enter")
        expect(field).to_have_count(0)
        self.saved()
        if not more:
            self.keys("Escape")

    def extrude(self, depth: str) -> None:
        """The open sketch extruded by a typed depth, and shown."""
        self.keys("b", "e")
        field = self.page.get_by_label("Depth", exact=True)
        field.fill(depth)
        field.press("Enter")
        self.saved()
        self.volume()
        self.page.wait_for_timeout(300)

    def sketch_on_face(self, face: str, step: int) -> None:
        """A new sketch, to be step ``step``, on the face that the reading line calls ``face``."""
        self.press_on(f"Pointing at: {face}")
        self.keys("b", "s")
        expect(self.page.get_by_text(f"Sketch {step} on the {face}")).to_be_visible()

    def volume(self) -> float:
        """Volume of the part as last built, in mm³."""
        ident = self.page.url.rsplit("/", 1)[1]
        deadline = time.monotonic() + PATIENCE / 1000
        while time.monotonic() < deadline:
            version = self.page.request.get(f"/api/parts/{ident}").json()["version"]
            build = self.page.request.get(f"/api/parts/{ident}/build").json()
            if build["ready"] and build["version"] >= version:
                return float(build["mass"]["volume"])
            self.page.wait_for_timeout(100)
        raise AssertionError("the part was not built in time")

    def callout(self, text: str) -> None:
        rows = self.sheet.get_by_role("list", name="Callouts")
        rows.get_by_role("button", name=re.compile(rf"^\d+ {re.escape(text)} ")).click()

    def over(self, words: str) -> tuple[float, float]:
        """Move over the board until the reading line says ``words``; where that is."""
        x, y = self.centre_of_board()
        for _ in range(4):  # what is looked for may still be on its way to the screen
            for radius in range(0, 200, 16):
                for turn in range(0, 360, 45 if radius < 60 else 20):
                    at = (x + radius * math.cos(math.radians(turn)), y + radius * math.sin(math.radians(turn)))
                    self.page.mouse.move(*at)
                    if words not in self.reading.inner_text():
                        continue
                    self.settled()  # the words may still be those of the place before
                    if words in self.reading.inner_text():
                        return at
            self.page.wait_for_timeout(1500)
        raise AssertionError(f"nothing on the board reads {words}")

    def press_on(self, words: str) -> None:
        """Move over the board until the reading line says ``words``, and press there."""
        self.page.mouse.click(*self.over(words))

    def hand(self) -> int:
        """Presses and keys since the page was first opened, and none from now on."""
        return int(
            self.page.evaluate("() => { const n = sessionStorage.hand || 0; sessionStorage.hand = 0; return n }")
        )

    def verdict(self, number: int) -> Locator:
        return self.sheet.get_by_role("list", name="Callouts").get_by_role("listitem").nth(number - 1)

    def gauge(self, name: str) -> Locator:
        return self.page.get_by_role("button", name=name).first

    def entities(self, step: int = 0) -> dict[str, dict[str, Any]]:
        part = self.document()
        return {e["id"]: e for e in part["steps"][step]["sketch"]["entities"]}

    def document(self) -> dict[str, Any]:
        ident = self.page.url.rsplit("/", 1)[1]
        answer = self.page.request.get(f"/api/parts/{ident}").json()
        return dict(answer["document"])

    def centre_of_board(self) -> tuple[float, float]:
        box = self.page.get_by_test_id("board").bounding_box()
        assert box
        return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


@pytest.fixture
def desk(page: Page, service: Service) -> Desk:
    made = Desk(page)
    made.come_back(service)
    return made
