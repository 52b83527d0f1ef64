"""A picture of every kind of step while it is worked on, into docs/steps: python -m tools.step_pictures [ADDRESS [NAME
...]].

Most are steps of the demo's parts; where the demo has none of a kind, a small part is made by commands over the API.
"""

from __future__ import annotations

import io
import sys
from dataclasses import dataclass, field
from typing import Any

from PIL import Image
from playwright.sync_api import Page, expect

from .places import ROOT
from .screenshots import at_the_door, sign_in

FOLDER = ROOT / "docs" / "steps"
CLIP = {"x": 301, "y": 48, "width": 979, "height": 726}  # the board and the route
WIDE = 660  # pixels of a picture

Command = dict[str, Any]


def _step(kind: str, ident: str, **fields: Any) -> Command:
    return {"do": "add_step", "step": {"kind": kind, "id": ident, **fields}}


def _drawn(ident: str, on: dict[str, Any], *entities: dict[str, Any]) -> list[Command]:
    return [_step("sketch", ident, on=on), {"do": "sketch_add", "step": ident, "entities": list(entities)}]


def _outline(*at: tuple[float, float]) -> list[dict[str, Any]]:
    return [{"kind": "line", "id": f"l{i + 1}", "p": at[i], "q": at[(i + 1) % len(at)]} for i in range(len(at))]


def _circle(x: float, y: float, r: float) -> dict[str, Any]:
    return {"kind": "circle", "id": "c1", "c": (x, y), "r": r}


def _depth(value: str) -> dict[str, Any]:
    return {"kind": "depth", "depth": value}


TOP, FRONT = ({"kind": "datum", "plane": name} for name in ("top", "front"))
Z = {"kind": "axis", "axis": "z"}
SPOOL = [(4.0, 0.0), (22.0, 0.0), (22.0, 4.0), (10.0, 7.0), (10.0, 26.0), (18.0, 26.0), (18.0, 30.0), (4.0, 30.0)]
BLOCK = [
    *_drawn("s1", TOP, *_outline((-30, -20), (30, -20), (30, 20), (-30, 20))),
    _step("extrude", "s2", sketch="s1", extent=_depth("16")),
]
POST = [*BLOCK, *_drawn("s3", TOP, _circle(0, 0, 13)), _step("extrude", "s4", sketch="s3", extent=_depth("40"))]
TWO = [*BLOCK, *_drawn("s3", TOP, _circle(18, 8, 14)), _step("extrude", "s4", sketch="s3", operation="new",
       extent=_depth("28"))]  # fmt: skip


@dataclass(frozen=True)
class Shot:
    """A step of a part by its number; ``made``: how the part is made where the demo does not have it."""

    name: str
    part: str
    number: int
    made: list[Command] = field(default_factory=list)
    view: str = ""  # the key of a view, where the isometric does not show it
    words: str = "Change"  # the button on the way to the step's slots; a body's are there at once


SHOTS = [
    Shot("sketch", "Line cleat", 10, words="Open the sketch"),
    Shot("extrude", "Tilt arm", 60),
    Shot("revolve", "Spool", 20, [
        *_drawn("s1", FRONT, *_outline(*SPOOL)), _step("revolve", "s2", sketch="s1", axis=Z, angle="270")]),
    Shot("hole", "Boom clamp", 80),
    Shot("text", "Marked post", 50, [
        *POST, _step("text", "s5", text="FKS 7", face={"origins": ["s4/side/c1"]}, height="5", depth="0.8", y="8")],
        view="1"),
    Shot("pattern", "Camera cradle", 90),
    Shot("round", "Electronics pod", 40),
    Shot("chamfer", "Tilt arm", 80),
    Shot("draft", "Electronics pod", 30),
    Shot("shell", "Pod lid", 40),
    Shot("split", "Boom clamp", 40),
    Shot("combine", "Two pieces", 50, [*TWO, _step("combine", "s5", operation="subtract", body="s2", tools=["s4"])]),
    Shot("move", "Moved piece", 50, [*TWO, _step("move", "s5", bodies=["s4"], x="-30", z="6")]),
    Shot("remove", "Taken out", 50, [*TWO, _step("remove", "s5", bodies=["s4"])]),
    Shot("body", "Boom clamp", 50, words=""),
    Shot("datum", "Pod lid", 70),
]  # fmt: skip


def _make(page: Page, shot: Shot) -> None:
    """The part by commands over the API, opened."""
    page.get_by_role("button", name="New part").click()
    page.get_by_label("Name", exact=True).fill(shot.part)
    page.get_by_role("button", name="Make the part").click()
    expect(page.get_by_role("complementary", name="Route")).to_be_visible()
    ident = page.url.rsplit("/", 1)[1]
    token = next(c["value"] for c in page.context.cookies() if c["name"] == "csrftoken")  # type: ignore[typeddict-item]
    for command in shot.made:
        now = page.request.get(f"/api/parts/{ident}").json()
        sent = {"version": now["version"], "command": command}
        answer = page.request.post(f"/api/parts/{ident}/commands", data=sent, headers={"X-CSRFToken": token})
        assert answer.ok, answer.text()
    page.reload()


def _take(page: Page, shot: Shot) -> None:
    page.goto("/")
    if shot.made:
        _make(page, shot)
    else:
        page.get_by_role("link", name=f"Open {shot.part}", exact=True).click()
    expect(page.locator("canvas[data-bodies]:not([data-bodies='0'])")).to_be_visible(timeout=30_000)
    if shot.view:
        page.wait_for_timeout(1000)
        page.keyboard.press("v")
        page.keyboard.press(shot.view)
    row = page.get_by_role("complementary", name="Route").get_by_role("button", name=f"{shot.number} ").first
    row.click()
    if shot.words:
        page.get_by_role("button", name=shot.words, exact=True).click()
    page.mouse.move(640, 30)
    page.wait_for_timeout(1500)
    expect(page.get_by_text("Trying …", exact=True)).to_have_count(0, timeout=30_000)
    page.wait_for_timeout(800)
    picture = Image.open(io.BytesIO(page.screenshot(clip=CLIP)))  # type: ignore[arg-type]
    small = picture.convert("RGB").resize(
        (WIDE, round(WIDE * CLIP["height"] / CLIP["width"])), Image.Resampling.LANCZOS
    )
    small.quantize(96).save(FOLDER / f"{shot.name}.png", optimize=True)
    page.keyboard.press("Escape")


def main(address: str, names: list[str]) -> None:
    FOLDER.mkdir(parents=True, exist_ok=True)
    with at_the_door(address) as page:
        sign_in(page)
        expect(page.get_by_role("button", name="New part")).to_be_visible()
        for shot in [s for s in SHOTS if not names or s.name in names]:
            _take(page, shot)


if __name__ == "__main__":
    main(sys.argv[1] if len(sys.argv) > 1 else "http://127.0.0.1:8710", sys.argv[2:])
