"""The inbox's process: ``python -m shop_inbox --port 8719 --folder F``. Listens on loopback only.

POST /packs (a pack as the body) → 202 {"id"}; GET /packs/ID → {"state": "looking" | "accepted" | "rejected", "said"}.
The same pack sent again is the same pack: its id is its digest.
"""

from __future__ import annotations

import argparse
import hashlib
import json
import re
import threading
import time
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from typing import Any

from .reader import reasons_against

LARGEST = 100_000_000
IDENT = re.compile(r"^/packs/([0-9a-f]{64})$")


class Inbox:
    """Packs in a folder: each with an answer beside it, once it was looked at for ``seconds``."""

    def __init__(self, folder: Path, seconds: float) -> None:
        self.folder, self.seconds = folder, seconds
        folder.mkdir(parents=True, exist_ok=True)
        for path in folder.glob("*.zip"):  # what came before the process was stopped
            if not path.with_suffix(".json").exists():
                self._look(path)

    def take(self, data: bytes) -> str:
        ident = hashlib.sha256(data).hexdigest()
        path = self.folder / f"{ident}.zip"
        if not path.exists():
            half = path.with_suffix(".half")
            half.write_bytes(data)
            half.replace(path)
            self._look(path)
        return ident

    def _look(self, path: Path) -> None:
        threading.Thread(target=self._looked, args=(path,), daemon=True).start()

    def _looked(self, path: Path) -> None:
        time.sleep(self.seconds)
        said = reasons_against(path.read_bytes())
        answer = {"state": "rejected" if said else "accepted", "said": said}
        half = path.with_suffix(".part")
        half.write_text(json.dumps(answer))
        half.replace(path.with_suffix(".json"))

    def answer(self, ident: str) -> dict[str, Any] | None:
        path = self.folder / f"{ident}.json"
        if path.exists():
            return dict(json.loads(path.read_text()))
        return {"state": "looking", "said": []} if path.with_suffix(".zip").exists() else None


def serve(port: int, folder: Path, seconds: float) -> ThreadingHTTPServer:
    """The inbox's server, ready to serve."""
    inbox = Inbox(folder, seconds)

    class Handler(BaseHTTPRequestHandler):
        def _tell(self, status: int, told: dict[str, Any]) -> None:
            data = json.dumps({"simulated": True, **told}).encode()
            self.send_response(status)
            self.send_header("Content-Type", "application/json")
            self.send_header("Content-Length", str(len(data)))
            self.end_headers()
            self.wfile.write(data)

        def do_POST(self) -> None:
            size = int(self.headers.get("Content-Length") or 0)
            if self.path != "/packs" or not 0 < size <= LARGEST:
                return self._tell(413 if size > LARGEST else 404, {"said": "A pack is posted to /packs."})
            self._tell(202, {"id": inbox.take(self.rfile.read(size))})

        def do_GET(self) -> None:
            if self.path == "/":
                return self._tell(200, {"said": "A simulated shop's inbox. It takes packs and makes nothing."})
            match = IDENT.match(self.path)
            found = inbox.answer(match[1]) if match else None
            self._tell(200 if found else 404, found or {"said": "There is no such pack here."})

        def log_message(self, *_: Any) -> None:
            """Says nothing on the terminal."""

    return ThreadingHTTPServer(("127.0.0.1", port), Handler)


def main() -> None:
    p = argparse.ArgumentParser(description=__doc__)
    p.add_argument("--port", type=int, required=True)
    p.add_argument("--folder", type=Path, required=True)
    p.add_argument("--seconds", type=float, default=5.0, help="how long a pack is looked at")
    a = p.parse_args()
    serve(a.port, a.folder, a.seconds).serve_forever()


if __name__ == "__main__":
    main()
