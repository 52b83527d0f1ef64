"""Rows measured on a running Sulvak: in the browser, and by twenty designers at once."""

from __future__ import annotations

import json
import math
import statistics
import tempfile
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import numpy as np
from playwright.sync_api import CDPSession, Page, sync_playwright
from tests.browser.conftest import ARGUMENTS, Desk
from tests.service import Client, Part, Service
from websockets.sync.client import ClientConnection, connect
from websockets.typing import Origin

from sulvak_core.rebuild.engine import build
from sulvak_core.sheet.render import as_svg
from sulvak_core.solid.measure import neighbours
from sulvak_core.solid.mesh import Mesh, mesh, packed
from sulvak_core.steps.registry import Document, load

from .sheet import large_page
from .sketch import chain
from .solid import plate
from .timing import p95

WORKERS = 2

# resolves with the milliseconds from now until the canvas has been drawn ``drawn`` again with what was waited for
DRAWN = """wanted => new Promise(done => {
  const from = performance.now();
  const canvas = document.querySelector('canvas');
  const watch = new MutationObserver(() => {
    if (wanted === 'preview' && !document.querySelector('fieldset[aria-label=Extrusion]')) return;
    watch.disconnect();
    done(performance.now() - from);
  });
  watch.observe(canvas, { attributes: true, attributeFilter: ['data-drawn'] });
})"""

# milliseconds from the start of the navigation until the board's canvas has bodies on it
OPENED = """() => new Promise(done => {
  const look = () => {
    const canvas = document.querySelector('canvas');
    if (canvas && Number(canvas.dataset.bodies) > 0) done(performance.now());
    else requestAnimationFrame(look);
  };
  look();
})"""


# notes how long it takes from a move of the pointer until the sketch has been painted with what followed from it
DRAGGED = """() => {
  window.frames = [];
  let moved = null;
  window.addEventListener('pointermove', () => { moved ??= performance.now(); }, true);
  new MutationObserver(() => {
    if (moved === null) return;
    const from = moved;
    moved = null;
    requestAnimationFrame(() => setTimeout(() => window.frames.push(performance.now() - from)));
  }).observe(document.querySelector("[data-testid=sketch]"), {
    attributes: true, subtree: true, attributeFilter: ["d"],
  });
}"""


@contextmanager
def running(worker: bool = True) -> Iterator[Service]:
    """A Sulvak on a database of its own; without a ``worker`` the web server has the machine to itself."""
    with tempfile.TemporaryDirectory() as folder:
        service = Service(Path(folder))
        service.create()
        try:
            if worker:
                service.start_worker()
            service.start_web()
            yield service
        finally:
            service.close()
            service.drop()


@contextmanager
def at_screen(service: Service) -> Iterator[Page]:
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=ARGUMENTS)
        page = browser.new_page(base_url=service.address, viewport={"width": 1280, "height": 800})
        Desk(page).sign_in()
        yield page
        browser.close()


def as_file(part: Document) -> bytes:
    return json.dumps(part.model_dump(mode="json")).encode()


def stored(client: Client, document: Document) -> Part:
    """A document as a part of the workspace."""
    status, made = client.upload("/api/parts/import", "part.json", as_file(document), workspace=str(client.workspace()))
    assert status == 200, made
    return Part(client, made["id"])


def stored_plate(client: Client) -> Part:
    """The 40-step plate of the route's rows, as a part of the workspace, built once."""
    part = stored(client, plate())
    part.built()
    return part


def rail(entities: int) -> Document:
    """A part of one sketch: a chain of rectangles with a hole each, all sized but one."""
    sketch, values = chain(entities // 5)
    sizes = [d.model_copy(update={"expr": f"{values[d.id]:.6f}"}) for d in sketch.dimensions if d.id != "d3"]
    drawn = sketch.model_copy(update={"dimensions": sizes}).model_dump(mode="json")
    on = {"kind": "datum", "plane": "top"}
    return load({"name": "rail", "steps": [{"kind": "sketch", "id": "s1", "on": on, "sketch": drawn}]})


def preview() -> str:
    """preview on screen after a value changes, part of 40 steps, p95 in the browser | 350 ms | 150 ms"""
    with running() as service, at_screen(service) as page:
        part = stored_plate(Client(service))
        page.goto(f"/parts/{part.id}")
        page.get_by_role("list", name="Steps").get_by_text("Cut sketch 390").click()
        page.get_by_role("button", name="Change").click()
        field = page.get_by_label("Depth", exact=True)
        field.fill("6")
        page.wait_for_timeout(1500)
        taken = []
        for k in range(25):
            waiting = page.evaluate_handle(f"() => ({{ taken: ({DRAWN})('preview') }})")
            field.fill(f"{6.1 + k / 20:.2f}")
            taken.append(float(page.evaluate("w => w.taken", waiting)))
            page.wait_for_timeout(150)
        return f"{p95(taken):.0f} ms (median {statistics.median(taken):.0f} ms, drawn by software)"


def dragging() -> str:
    """a drag frame in the browser, from the pointer's move to painted geometry, 500 entities: p95 | – | –"""
    with running() as service, at_screen(service) as page:
        page.goto(f"/parts/{stored(Client(service), rail(500)).id}")
        page.get_by_role("list", name="Steps").get_by_text("Sketch on Top plane").click()
        page.get_by_role("button", name="Open the sketch").click()
        page.get_by_text("on the top plane").wait_for()
        page.wait_for_timeout(1500)
        desk = Desk(page)
        circle = desk.entities()["c1"]
        for _ in range(12):  # near enough to take hold of it among its neighbours
            page.mouse.move(*desk.place(*circle["c"]))
            page.mouse.wheel(0, -240)
            page.wait_for_timeout(60)
        for _ in range(10):  # until the view has come to rest and the rim is under the pointer
            x, y = desk.place(circle["c"][0] + circle["r"], circle["c"][1])
            page.mouse.move(x, y)
            page.wait_for_timeout(300)
            if "circle 1 " in desk.reading.inner_text():
                break
        page.mouse.down()
        page.mouse.move(x + 6, y)
        page.wait_for_timeout(500)
        page.evaluate(DRAGGED)
        for k in range(60):
            page.mouse.move(x + 6 + 3 * math.sin(k / 5), y)
            page.wait_for_timeout(90)
        page.mouse.up()
        frames = [float(f) for f in page.evaluate("() => window.frames")]
        assert len(frames) > 30, f"only {len(frames)} frames were painted"
        return f"{p95(frames):.0f} ms (median {statistics.median(frames):.0f} ms)"


def opening() -> str:
    """board open to first picture, 40-step part, warm | 1.5 s | 0.7 s"""
    with running() as service, at_screen(service) as page:
        part = stored_plate(Client(service))
        taken = []
        for _ in range(8):
            page.goto(f"/parts/{part.id}", wait_until="commit")
            taken.append(float(page.evaluate(OPENED)))
        return f"{statistics.median(taken[1:]) / 1000:.2f} s (drawn by software)"


def twenty() -> str:
    """20 designers at 20 parts, an edit every 10 s each: p95 of an edit until built, against one alone | 3× | 2×"""
    with running() as service:
        parts = []
        for _ in range(20):
            client = Client(service)
            parts.append(stored_plate(client))
        alone = _edits(parts[:1], 12, 0.2)
        together = _edits(parts, 3, 10.0)
        return f"{p95(together) / p95(alone):.1f}× ({1000 * p95(together):.0f} ms against {1000 * p95(alone):.0f} ms)"


def _edits(parts: list[Part], times: int, pause: float) -> list[float]:
    taken: list[float] = []

    def work(part: Part, first: float) -> None:
        time.sleep(first)
        cookies = "; ".join(f"{c.name}={c.value}" for c in part.client.jar)
        address = part.client.service.address
        headers = {"Cookie": cookies}
        with connect(
            f"ws{address[4:]}/live/parts/{part.id}", origin=Origin(address), additional_headers=headers
        ) as channel:
            edits(part, first, channel)

    def edits(part: Part, first: float, channel: ClientConnection) -> None:
        last = part.now["document"]["steps"][-1]["id"]
        for k in range(times):
            start = time.perf_counter()
            part.do(
                do="set_step", step=last, changes={"extent": {"kind": "depth", "depth": f"{5 + first / 9 + k / 10}"}}
            )
            while int(json.loads(channel.recv(60)).get("version", 0)) < part.now["version"]:
                pass
            part.client.get(f"{part.path}/build")
            taken.append(time.perf_counter() - start)
            time.sleep(max(0.0, pause - (time.perf_counter() - start)))

    threads = [threading.Thread(target=work, args=(p, pause * i / len(parts))) for i, p in enumerate(parts)]
    for t in threads:
        t.start()
    for t in threads:
        t.join()
    return taken


# milliseconds until the sheet's drawing is on screen, from the start of the navigation
SHEET_SEEN = """() => new Promise(done => {
  const look = () => {
    const drawn = document.querySelector('[aria-label="Drawing"] img, img[src*="/sheet/"]');
    if (drawn && drawn.complete && drawn.naturalWidth)
      drawn.decode().then(() => requestAnimationFrame(() => setTimeout(() => done(performance.now()))));
    else requestAnimationFrame(look);
  };
  look();
})"""

# the times between frames while the sheet is panned, ms
FRAMES = """() => {
  window.frames = [];
  let last = performance.now();
  const next = now => { window.frames.push(now - last); last = now; requestAnimationFrame(next); };
  requestAnimationFrame(next);
}"""


def large_sheet() -> str:
    """a sheet of 20,000 lines on screen, warm; and a frame while it is panned, p95 | 1.5 s, 33 ms | 0.8 s, 17 ms"""
    with running() as service, at_screen(service) as page:
        part = stored_plate(Client(service))
        status, answer = part.client.upload(
            f"{part.path}/sheet", "large.svg", as_svg(large_page()).encode(), version=str(part.now["version"])
        )
        assert status == 200, answer
        opened = []
        for _ in range(4):
            page.goto(f"/parts/{part.id}")
            opened.append(float(page.evaluate(SHEET_SEEN)))
        page.keyboard.press("w")
        page.wait_for_timeout(1500)
        box = page.locator('img[src*="/sheet/"]').bounding_box()
        assert box is not None
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        page.mouse.move(x, y)
        page.mouse.wheel(0, -400)
        page.wait_for_timeout(1500)
        page.mouse.down()
        page.evaluate(FRAMES)
        for k in range(60):
            page.mouse.move(x + 2 * k, y + k)
        frames = page.evaluate("() => window.frames.slice(2)")
        page.mouse.up()
        assert len(frames) > 5, frames
        seen = f"{statistics.median(opened[1:]) / 1000:.2f} s"
        return f"{seen}; {p95(frames):.0f} ms (median {statistics.median(frames):.0f} ms)"


def fine(m: Mesh, least: int) -> Mesh:
    """A mesh with each triangle parted into as many as make ``least`` triangles of all; the same faces and edges."""
    n = math.ceil(math.sqrt(least / len(m.triangles)))
    places = [(i, j) for i in range(n + 1) for j in range(n + 1 - i)]
    number = {at: k for k, at in enumerate(places)}
    weights = np.array([(n - i - j, i, j) for i, j in places]) / n
    parts = [(number[i, j], number[i + 1, j], number[i, j + 1]) for i, j in places if i + j < n]
    parts += [(number[i + 1, j], number[i + 1, j + 1], number[i, j + 1]) for i, j in places if i + j < n - 1]
    shift = len(places) * np.arange(len(m.triangles))[:, None, None]
    return Mesh(
        np.einsum("pk,tkc->tpc", weights, m.points[m.triangles]).reshape(-1, 3),
        np.einsum("pk,tkc->tpc", weights, m.normals[m.triangles]).reshape(-1, 3),
        (np.array(parts)[None] + shift).reshape(-1, 3),
        [len(parts) * k for k in m.face_start],
        m.edge_points,
        m.edge_start,
    )


def turning() -> str:
    """a part of 2 million triangles turned 200 times: growth of the page's memory from the 20th turn on | 5 % | 0 %"""
    document = plate()
    (body,) = build(document).state.bodies
    real = [edge for edge, sides in neighbours(body.solid) if len(sides) > 1]
    large = packed(fine(mesh(body.solid, real), 2_000_000))
    with running() as service, at_screen(service) as page:
        part = stored(Client(service), document)
        part.built()
        page.route("**/mesh/*", lambda route: route.fulfill(body=large, content_type="application/octet-stream"))
        page.goto(f"/parts/{part.id}")
        canvas = page.locator("canvas[data-bodies='1']").first
        canvas.wait_for(timeout=120_000)
        box = canvas.bounding_box()
        assert box is not None
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        session = page.context.new_cdp_session(page)
        page.mouse.move(x, y)
        page.mouse.down(button="right")
        held, taken = 0.0, []
        for k in range(200):
            drawn = int(canvas.get_attribute("data-drawn") or 0)
            began = time.perf_counter()
            page.mouse.move(x + 150 * math.sin(k / 9), y + 40 * math.cos(k / 7))
            page.wait_for_function("n => +document.querySelector('canvas[data-bodies]').dataset.drawn > n", arg=drawn)
            taken.append(time.perf_counter() - began)
            if k == 20:
                held = _held(session)
        page.mouse.up(button="right")
        grown = _held(session) / held - 1
        turn = 1000 * statistics.median(taken)
        return f"{100 * grown:+.1f} % of {held / 2**20:.0f} MiB ({turn:.0f} ms a turn, drawn by software)"


def _held(session: CDPSession) -> float:
    """Bytes that a page holds, typed arrays included, once what nothing refers to is gone."""
    session.send("HeapProfiler.collectGarbage")
    found = session.send("Runtime.getHeapUsage")
    return float(found["usedSize"] + found.get("backingStorageSize", 0))


ROWS = [large_sheet, turning, preview, opening, dragging, twenty]
