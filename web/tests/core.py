"""The core behind the screen's tests: parts in memory, spoken to as the screen speaks to a server.

``python web/tests/core.py`` prints the port it answers on, on loopback. Commands, undo and redo, what can be asked of a
sketch, and drags; no database, no kernel, nobody to sign in.
"""

from __future__ import annotations

import json
import re
from collections.abc import Callable
from http.server import BaseHTTPRequestHandler, HTTPServer
from typing import Any
from urllib.parse import parse_qsl, urlsplit

from sulvak_core.part.errors import Refusal
from sulvak_core.sketch.solve import Drag
from sulvak_core.steps import commands
from sulvak_core.steps.catalogue import catalogue
from sulvak_core.steps.effects import apply
from sulvak_core.steps.kinds.sketch import SketchStep
from sulvak_core.steps.part_view import content
from sulvak_core.steps.registry import Document, Opened, to_json
from sulvak_core.steps.shared import values_for
from sulvak_core.steps.sketch_view import checked, motions, suggestions


class Part:
    """A part and everything it was before."""

    def __init__(self, unit: str) -> None:
        document = Document.model_validate({"name": "Piece", "unit": unit})
        self.past: list[Opened] = [Opened(to_json(document), document)]
        self.now, self.version = 0, 0
        self.drag: Drag | None = None

    def view(self, ident: str, told: list[str] | None = None) -> dict[str, Any]:
        undo, redo = self.now > 0, self.now + 1 < len(self.past)
        made = {"who": "", "what": "drew", "version": self.version}
        return {
            "id": ident,
            "workspace": 1,
            "version": self.version,
            "settled": 0,
            "role": "owner",
            "can_undo": undo,
            "can_redo": redo,
            "undoes": made if undo else None,
            "redoes": made if redo else None,
            **content(self.past[self.now]),
            "lost": [],
            "said": told or [],
        }

    def commands(self, ident: str, body: dict[str, Any]) -> dict[str, Any]:
        outcome = apply(self.past[self.now].document, commands.read(body["command"]))
        after = Opened(to_json(outcome.document), outcome.document)
        if after.data != self.past[self.now].data:
            self.past[self.now + 1 :] = [after]
            self.now, self.version = self.now + 1, self.version + 1
        return self.view(ident, outcome.said)

    def travel(self, ident: str, by: int) -> dict[str, Any]:
        self.now, self.version = self.now + by, self.version + 1
        return self.view(ident)

    def dragged(self, body: dict[str, Any]) -> list[dict[str, Any]]:
        """What moves when it is taken (``ref``) or led on to (x, y)."""
        document = self.past[self.now].document
        if "ref" in body:
            sketch = self.sketch(body["step"]).sketch
            self.drag = Drag(sketch, values_for(document).all(sketch), body["ref"])
            return []
        assert self.drag is not None
        pairs = zip(self.drag.sketch.entities, self.drag.to(body["x"], body["y"]).entities, strict=True)
        return [e.model_dump(mode="json") for old, e in pairs if e != old]

    def sketch(self, ident: str) -> SketchStep:
        found = self.past[self.now].document.step(ident)
        assert isinstance(found, SketchStep)
        return found


ASKED: dict[str, Callable[[Document, SketchStep, float | None], Any]] = {
    "motions": lambda document, step, _: motions(document, step),
    "check": checked,
    "suggestions": suggestions,
    "edges": lambda *_: [],
}
parts: dict[str, Part] = {}


def answer(path: str, body: dict[str, Any]) -> Any:
    url = urlsplit(path)
    if url.path == "/api/step-kinds":
        return catalogue()
    if url.path == "/new":
        ident = f"part{len(parts) + 1}"
        parts[ident] = Part(body.get("unit", "mm"))
        return parts[ident].view(ident)
    found = re.fullmatch(r"/api/parts/(\w+)(?:/sketches/(\w+))?(?:/(\w+))?", url.path)
    if found is None or found[1] not in parts:
        raise Refusal(f"{url.path} is not here.")
    ident, sketch, what = found.groups()
    part = parts[ident]
    if sketch is not None:
        tolerance = dict(parse_qsl(url.query)).get("tolerance")
        document, step = part.past[part.now].document, part.sketch(sketch)
        return ASKED[what](document, step, float(tolerance) if tolerance else None)
    if what == "drag":
        return part.dragged(body)
    if what in ("undo", "redo"):
        return part.travel(ident, -1 if what == "undo" else 1)
    return part.commands(ident, body) if what == "commands" else part.view(ident)


class Handler(BaseHTTPRequestHandler):
    def do_POST(self) -> None:
        length = int(self.headers.get("Content-Length") or 0)
        status, told = 200, None
        try:
            told = answer(self.path, json.loads(self.rfile.read(length) or b"{}"))
        except Refusal as refusal:
            status, told = 422, {"sentence": refusal.sentence, "detail": refusal.detail}
        data = json.dumps(told).encode()
        self.send_response(status)
        self.send_header("Content-Length", str(len(data)))
        self.end_headers()
        self.wfile.write(data)

    do_GET = do_POST

    def log_message(self, format: str, *args: Any) -> None:
        pass


if __name__ == "__main__":
    server = HTTPServer(("127.0.0.1", 0), Handler)
    print(server.server_address[1], flush=True)
    server.serve_forever()
