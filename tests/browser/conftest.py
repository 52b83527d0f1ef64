"""Debian's Chromium, headless, driven as a person would: by role, name and place on the board."""

from __future__ import annotations

import re
import time
from collections.abc import Iterator
from typing import Any

import pytest
from playwright.sync_api import Browser, BrowserContext, Error, Locator, Page, expect, sync_playwright

from tests.conftest import PAGE, PASSWORD, Client, Part, Service

ARGUMENTS = [
    "--no-sandbox",
    "--webgl-antialiasing-mode=none",
    "--use-angle=swiftshader",
    "--enable-unsafe-swiftshader",
    "--disable-gpu-compositing",  # without a graphics processor it only costs: a third of the browser's time
    "--disable-smooth-scrolling",
    "--disable-threaded-animation",
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
# places (px) round the middle of the board where the reading line says some words, the first one found
LOOK_FOR = """async ([x, y, words]) => {
  const line = document.querySelector("[data-testid=reading]");
  for (let radius = 0; radius < 200; radius += 16)
    for (let turn = 0; turn < 360; turn += radius < 60 ? 45 : 20) {
      const clientX = x + radius * Math.cos((turn * Math.PI) / 180);
      const clientY = y + radius * Math.sin((turn * Math.PI) / 180);
      const under = document.elementFromPoint(clientX, clientY);
      const how = { clientX, clientY, bubbles: true, pointerId: 1, pointerType: "mouse", isPrimary: true };
      under?.dispatchEvent(new PointerEvent("pointermove", how));
      await new Promise((done) => setTimeout(done));
      if (line.textContent.includes(words)) return [[clientX, clientY]];
    }
  return [];
}"""
GO = "path => { history.pushState({}, '', path); dispatchEvent(new PopStateEvent('popstate')) }"
PATIENCE = 90_000  # ms; the machine may be busy with something else
expect.set_options(timeout=PATIENCE)


@pytest.fixture(scope="session")
def chromium() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=ARGUMENTS)
        yield browser
        browser.close()


@pytest.fixture(scope="session")
def profile(chromium: Browser, service: Service) -> Iterator[BrowserContext]:
    """One browser profile for all tests, so that the interface is fetched and compiled once."""
    made = chromium.new_context(
        base_url=service.address,
        viewport={"width": 1280, "height": 800},
        device_scale_factor=0.5,  # a quarter of the dots to draw without a graphics processor; places stay as they are
        accept_downloads=True,
    )
    made.add_init_script(COUNTING)
    yield made
    made.close()


class Watched:
    """A page whose errors are noted; the test that is at it fails if there are any."""

    def __init__(self, profile: BrowserContext) -> None:
        self.page = profile.new_page()
        self.page.set_default_timeout(PATIENCE)
        self.troubles: list[str] = []
        self.page.on("pageerror", lambda e: self.troubles.append(str(e)))
        self.page.on("console", self._heard)
        # heard from the start: the browser hands choosers over only some time after it was first asked to
        self.page.on("filechooser", lambda _: None)

    def _heard(self, message: Any) -> None:
        expected = "status of 4" in message.text or "WebSocket" in message.text
        if message.type == "error" and not expected:
            self.troubles.append(message.text)

    def shown(self) -> str:
        """What stands on the page, for one who was not there."""
        try:
            said = self.page.get_by_role("alert").all_inner_texts()
            return f"{self.page.url} {said} {self.troubles}\n{self.page.locator('body').aria_snapshot()[:6000]}"
        except Error as error:
            return f"{self.page.url}: {error}"

    def ended(self) -> list[str]:
        """What went wrong since the last time this was asked. Nothing is remembered of what was done."""
        if self.page.url.startswith("http"):
            self.page.evaluate("() => { localStorage.clear(); sessionStorage.clear() }")
        found, self.troubles = self.troubles, []
        return found


@pytest.fixture
def page(profile: BrowserContext, request: pytest.FixtureRequest) -> Iterator[Page]:
    """A page of its own. Nobody is signed in, and nothing is remembered of the page before."""
    profile.clear_cookies()
    made = Watched(profile)
    request.node.stash[PAGE] = made.shown
    yield made.page
    troubles = made.ended()
    made.page.close()
    assert not troubles


@pytest.fixture(scope="session")
def seat(profile: BrowserContext) -> Iterator[Watched]:
    made = Watched(profile)
    yield made
    made.page.close()


class Desk:
    """A designer at the screen."""

    def __init__(self, page: Page, client: Client | None = None) -> None:
        """``client``: the same person without a browser, to come to a part without going through the library."""
        self.page, self.client = page, client
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

    def come_back(self, client: Client) -> None:
        """Be signed in as in a browser that was used before; no page is opened yet."""
        kept = [{"name": c.name, "value": c.value, "url": client.service.address} for c in client.jar]
        self.page.context.add_cookies(kept)  # type: ignore[arg-type]
        self.client = client

    def library(self) -> None:
        self.page.goto("/")
        self.at_the_library()

    def at_the_library(self) -> None:
        expect(self.page.get_by_role("heading", name="Fenmarsh Kite Survey")).to_be_visible()

    def at(self, part: Part) -> None:
        """At the board of a part: from another's board as a link leads there, without loading the page again."""
        if "/parts/" in self.page.url and part.id not in self.page.url:
            self.page.evaluate(GO, f"/parts/{part.id}")
        else:
            self.page.goto(f"/parts/{part.id}")
        expect(self.page.locator(f'[data-part="{part.id}"]')).to_be_visible()
        expect(self.route).to_be_visible()

    def open(self, part: str) -> None:
        if self.client is not None:
            return self.at(self.client.part_named(part))
        self.page.get_by_label("Search parts").fill(part)
        self.page.get_by_role("link", name=f"Open {part}", exact=True).first.click()
        expect(self.route).to_be_visible()

    def copy(self, part: str, name: str) -> None:
        if self.client is not None:
            return self.at(self.client.copy(part, name))
        self.page.get_by_label("Search parts").fill(part)
        self.page.get_by_role("button", name=f"Copy {part}", exact=True).click()
        self.page.get_by_label("Name of the copy").fill(name)
        self.page.get_by_role("button", name="Copy", exact=True).click()
        expect(self.route).to_be_visible()

    def new_part(self, name: str) -> None:
        if self.client is not None:
            return self.at(self.client.new_part(name))
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
        version = self.page.request.get(f"/api/parts/{ident}").json()["version"]
        deadline = time.monotonic() + PATIENCE / 1000
        while time.monotonic() < deadline:
            build = self.page.request.get(f"/api/parts/{ident}/build").json()
            if build["ready"] and build["version"] >= version:
                return float(build["mass"]["volume"])
            self.page.wait_for_timeout(200)
        raise AssertionError("the part was not built in time")

    def callout(self, text: str) -> None:
        rows = self.sheet.get_by_role("list", name="Callouts")
        rows.get_by_role("button", name=re.compile(rf"^\d+ {re.escape(text)} ")).click()

    def over(self, words: str) -> tuple[float, float]:
        """Move over the board until the reading line says ``words``; where that is.

        The page itself looks for the place; that the words are read there is seen with the pointer then.
        """
        for _ in range(8):  # what is looked for may still be on its way to the screen
            found = self.page.evaluate(LOOK_FOR, [*self.centre_of_board(), words])
            for at in found:
                self.page.mouse.move(*at)
                self.settled()
                if words in self.reading.inner_text():
                    return float(at[0]), float(at[1])
            self.page.wait_for_timeout(700)
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
def desk(seat: Watched, service: Service, request: pytest.FixtureRequest) -> Iterator[Desk]:
    """A designer who is signed in. All sit at one page, one after the other, each at a part of their own: it is loaded
    anew only where the one before went astray."""
    made = Desk(seat.page)
    request.node.stash[PAGE] = seat.shown
    made.come_back(Client(service))
    failed = request.session.testsfailed
    yield made
    signed_in = any(c.get("name") == "sessionid" for c in seat.page.context.cookies())
    troubles = seat.ended()
    if troubles or not signed_in or request.session.testsfailed > failed or "/parts/" not in seat.page.url:
        seat.page.goto("about:blank")
    assert not troubles
