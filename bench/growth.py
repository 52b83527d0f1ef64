"""What must not grow with the part, the log or the library: rows of large ones. Asked of the web server alone, with no
worker beside it, unless said."""

from __future__ import annotations

import json
import statistics
import time
from collections.abc import Callable
from typing import Any

import numpy as np
from playwright.sync_api import CDPSession
from tests.browser.conftest import Desk
from tests.service import Client, Part

from sulvak_core.part.errors import Refusal
from sulvak_core.rebuild.engine import build
from sulvak_core.rebuild.state import Cache
from sulvak_core.sketch.edit import Values, add, resolve
from sulvak_core.sketch.model import Constraint
from sulvak_core.steps.kinds.sketch import SketchStep

from .screen import as_file, at_screen, rail, running, stored
from .solid import plate


def _answers(part: Part, command: Callable[[int], dict[str, Any]], times: int = 15) -> tuple[float, int]:
    """Median ms of a command as the screen sends it, and bytes of the last answer."""
    taken = []
    version = part.now["version"]
    for k in range(times + 2):
        asking = {"version": version, "settled": 0, "answer": "changes", "command": command(k)}
        start = time.perf_counter()
        status, answer = part.client.post(f"{part.path}/commands", asking)
        taken.append(1000 * (time.perf_counter() - start))
        assert status == 200, answer
        version = answer["version"]
    return statistics.median(taken[2:]), len(json.dumps(answer))


def command_on_a_long_route() -> str:
    """one command on a part of 300 steps, until answered (before: 1.3 s) | 150 ms | 60 ms"""
    with running(worker=False) as service:
        part = stored(Client(service), plate(150))
        depth = {"kind": "depth", "depth": "6"}
        note, size = _answers(part, lambda k: {"do": "set_part", "changes": {"description": f"note {k}"}})
        part.now = part.client.get(part.path)[1]
        step, _ = _answers(
            part,
            lambda k: {"do": "set_step", "step": "s300", "changes": {"extent": {**depth, "depth": f"{5 + k / 9}"}}},
        )
        return f"{note:.0f} ms a note, {step:.0f} ms a depth; {size / 1000:.1f} kB"


def command_in_a_large_sketch() -> str:
    """one command in a sketch of 2,000 entities, until answered (before: 1.0–2.8 s) | 1 s | 300 ms"""
    with running(worker=False) as service:
        part = stored(Client(service), rail(2000))
        drawn, size = _answers(part, _circle, 7)
        part.now = part.client.get(part.path)[1]
        sized, _ = _answers(part, _sized_circle, 7)
        part.now = part.client.get(part.path)[1]
        note, _ = _answers(part, lambda k: {"do": "set_part", "changes": {"description": f"note {k}"}})
        told = f"{drawn:.0f} ms a circle drawn ({size / 1000:.1f} kB), {sized:.0f} ms one with its size"
        return f"{told}, {note:.0f} ms a note"


def _circle(k: int) -> dict[str, Any]:
    circle = {"kind": "circle", "id": f"c{9000 + k}", "c": [-50.0, -50.0 - 10 * k], "r": 2.0}
    return {"do": "sketch_add", "step": "s1", "entities": [circle]}


def _sized_circle(k: int) -> dict[str, Any]:
    size = {"kind": "diameter", "id": f"d{9500 + k}", "refs": [f"c{9500 + k}"], "expr": "5"}
    circle = {"kind": "circle", "id": f"c{9500 + k}", "c": [-90.0, -50.0 - 10 * k], "r": 2.0}
    return {"do": "sketch_add", "step": "s1", "entities": [circle], "dimensions": [size]}


def a_tie_too_many() -> str:
    """a tie too many among 1,000 entities that hang together, until told what settles it (before: 70 s) | 3 s | 1 s"""
    step = rail(1000).steps[0]
    assert isinstance(step, SketchStep)
    values = Values(lambda text, kind: float(text))
    sketch = resolve(step.sketch, values).sketch
    square = Constraint(id="k9999", kind="perpendicular", refs=["l1", "l2"])
    taken = []
    for _ in range(3):
        start = time.perf_counter()
        try:
            add(sketch, values, constraints=[square])
        except Refusal as refusal:
            assert refusal.detail["because"]
            taken.append(time.perf_counter() - start)
    return f"{statistics.median(taken):.2f} s"


LOG = """
from django.contrib.auth import get_user_model
from parts.models import PartRecord
from parts.service import carry_out
user = get_user_model().objects.first()
for k in range({changes}):
    carry_out("{part}", k, {{"do": "set_part", "changes": {{"description": f"note {{k}}"}}}}, user)
"""


def long_log() -> str:
    """going back to the beginning of a log of 5,000 changes, until answered (before: 6–8 s) | 500 ms | 150 ms"""
    with running(worker=False) as service:
        part = stored(Client(service), plate(5))
        service.shell(LOG.format(changes=5000, part=part.id))
        taken = []
        for k in range(5):
            start = time.perf_counter()
            status, _ = part.client.post(f"{part.path}/restore", {"version": 5000 + k, "to": k % 2})
            taken.append(1000 * (time.perf_counter() - start))
            assert status == 200
        return f"{statistics.median(taken):.0f} ms"


MANY = """
import json
from parts.models import PartRecord
from sulvak_core.steps.registry import load, to_json
document = to_json(load(json.loads({document!r})))
PartRecord.objects.bulk_create(
    [PartRecord(workspace_id={workspace}, document={{**document, "name": f"Bracket {{k}}"}}) for k in range({count})],
    batch_size=500)
"""


def large_library() -> str:
    """a library of 10,000 parts: a fresh page; an old part found (before: 9.5 s) | 1 s | 300 ms"""
    with running(worker=False) as service:
        client = Client(service)
        text = as_file(plate(10)).decode()
        service.shell(MANY.format(document=text, workspace=client.workspace(), count=10_000))
        path = f"/api/workspaces/{client.workspace()}/parts?size=48"

        def took(query: str) -> float:
            start = time.perf_counter()
            status, found = client.get(path + query)
            assert status == 200
            assert found["parts"]
            return 1000 * (time.perf_counter() - start)

        pages = [took(f"&page={k}") for k in range(5, 12)]
        finds = [took(f"&search=bracket%20{k}") for k in range(1000, 1007)]
        return f"{statistics.median(pages):.0f} ms a page, {statistics.median(finds):.0f} ms a search"


def _script(session: CDPSession) -> float:
    """Milliseconds of script that the page has run since the session began."""
    found = {m["name"]: m["value"] for m in session.send("Performance.getMetrics")["metrics"]}
    return 1000 * float(found["ScriptDuration"])


def pointer() -> str:
    """a move of the pointer in a sketch of 2,000 entities, script of the page | 16 ms | 8 ms"""
    with running(worker=False) as service, at_screen(service) as page:
        part = stored(Client(service), rail(2000))
        page.goto(f"/parts/{part.id}")
        page.get_by_role("list", name="Steps").get_by_role("button").first.click()
        page.get_by_role("button", name="Open the sketch").click()
        page.get_by_text("on the top plane").wait_for()
        page.wait_for_timeout(3000)
        desk = Desk(page)
        x, y = desk.centre_of_board()
        moves = 120
        session = page.context.new_cdp_session(page)
        session.send("Performance.enable")
        before = _script(session)
        for k in range(moves):
            page.mouse.move(x - 300 + 5 * k, y + 20 * (k % 3))
            page.wait_for_timeout(30)
        desk.settled()
        return f"{(_script(session) - before) / moves:.1f} ms"


class _Shelf:
    def __init__(self) -> None:
        self.kept: dict[str, bytes] = {}

    def get(self, key: str) -> bytes | None:
        return self.kept.get(key)

    def put(self, key: str, data: bytes) -> None:
        self.kept[key] = data


def long_build() -> str:
    """growth of a full build from 75 to 300 steps: exponent; kept bytes (before: 39 MB) | 2 | 1.3"""
    sizes, times, kept = [75, 150, 300], [], 0
    for steps in sizes:
        document, shelf = plate(steps // 2), _Shelf()
        start = time.perf_counter()
        build(document, Cache(shelf))
        times.append(time.perf_counter() - start)
        kept = sum(map(len, shelf.kept.values()))
    exponent = np.polyfit(np.log(sizes), np.log(times), 1)[0]
    return f"{exponent:.2f} ({times[-1]:.1f} s for 300 steps, {kept / 1e6:.1f} MB kept)"


ROWS = [
    command_on_a_long_route,
    command_in_a_large_sketch,
    a_tie_too_many,
    long_log,
    large_library,
    pointer,
    long_build,
]
