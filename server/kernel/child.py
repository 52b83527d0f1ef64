"""The process that runs the kernel: nothing else does. It has no database; it asks its parent for kept results.

Messages to the parent: ("get", key) → bytes or None; ("put", key, bytes); ("progress", i, n);
("done", result) or ("failed", sentence). Requests: dictionaries with "do".
"""

import resource
import sys
import time
from collections import OrderedDict
from pathlib import Path
from typing import Any


class _ParentStore:
    def __init__(self, pipe: Any) -> None:
        self.pipe = pipe

    def get(self, key: str) -> bytes | None:
        self.pipe.send(("get", key))
        return self.pipe.recv()

    def put(self, key: str, data: bytes) -> None:
        self.pipe.send(("put", key, data))


PROGRESS = 0.2  # seconds between two words of progress


class Worker:
    """Answers requests; keeps results in memory between them."""

    def __init__(self, pipe: Any) -> None:
        from sulvak_core.rebuild.state import Cache

        self.pipe = pipe
        self.cache = Cache(_ParentStore(pipe))
        self.pictures: OrderedDict[str, Any] = OrderedDict()

    def _document(self, request: dict[str, Any]) -> Any:
        from sulvak_core.steps.registry import load

        return load(request["document"])

    def _build(self, document: Any) -> Any:
        from sulvak_core.rebuild.engine import build

        told = time.monotonic()

        def progress(i: int, n: int) -> None:
            nonlocal told
            if time.monotonic() - told > PROGRESS:  # steps that are known already pass in no time
                told = time.monotonic()
                self.pipe.send(("progress", i, n))

        return build(document, self.cache, progress=progress)

    def build(self, request: dict[str, Any]) -> dict[str, Any]:
        """Figures, and every body's picture: (key, head, mesh)."""
        from sulvak_core.inspect.report import figures
        from sulvak_core.solid.outline import outline_svg

        document = self._document(request)
        result = self._build(document)
        outline = outline_svg([b.shape for b in result.state.bodies]) if request.get("outline") else ""
        return {
            "figures": figures(document, result),
            "bodies": [self._picture(document, result, b) for b in result.state.bodies],
            "outline": outline,
        }

    def _picture(self, document: Any, result: Any, body: Any) -> tuple[str, dict[str, Any], bytes]:
        import hashlib

        from sulvak_core.inspect.report import body_picture

        order = ",".join(s.id for s in document.steps)  # the words on a face tell step numbers
        key = "m" + hashlib.sha256(f"{result.key} {body.id} {order}".encode()).hexdigest()
        if key not in self.pictures:
            self.pictures[key] = body_picture(document, body)
            while len(self.pictures) > 100:
                self.pictures.popitem(last=False)
        head, mesh = self.pictures[key]
        return key, head, mesh

    def preview(self, request: dict[str, Any]) -> dict[str, Any]:
        """A command tried: the reports, the bodies' pictures, and what is added and removed as meshes."""
        from sulvak_core.rebuild.difference import difference
        from sulvak_core.steps.commands import read
        from sulvak_core.steps.effects import apply

        document = self._document(request)
        before = self._build(document)
        changed = apply(document, read(request["command"])).document
        after = self._build(changed)
        from sulvak_core.inspect.report import figures

        told = figures(changed, after)
        return {"figures": told, "difference": difference(before.state, after.state)}

    def export(self, request: dict[str, Any]) -> bytes:
        from sulvak_core.exchange import solid_files

        document = self._document(request)
        state = self._build(document).state
        return {"step": solid_files.step, "stl": solid_files.stl}[request["form"]](document, state)

    def pages(self, request: dict[str, Any]) -> list[tuple[float, float]]:
        from sulvak_core.sheet.pages import page_sizes

        return page_sizes(request["data"])

    def page(self, request: dict[str, Any]) -> bytes:
        from sulvak_core.sheet.pages import page_png

        return page_png(request["data"], request["page"])

    def drawing(self, request: dict[str, Any]) -> str:
        from sulvak_core.exchange.dxf_in import read_dxf
        from sulvak_core.exchange.svg_in import read_svg

        data = request["data"]
        head = data[:1000].lstrip(b"\xef\xbb\xbf \t\r\n")
        return (read_svg if head.startswith(b"<") else read_dxf)(data).model_dump_json()

    # for tests of the limits: what hostile geometry would do
    def crash(self, request: dict[str, Any]) -> None:
        import os
        import signal

        os.kill(os.getpid(), signal.SIGSEGV)

    def hang(self, request: dict[str, Any]) -> None:
        import time

        time.sleep(3600)

    def swell(self, request: dict[str, Any]) -> int:
        return len([bytearray(64 << 20) for _ in range(10_000)])


def main(pipe: Any, core: str, memory: int) -> None:
    """Serve requests until the pipe closes. ``memory`` is the address space limit in bytes."""
    resource.setrlimit(resource.RLIMIT_AS, (memory, memory))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    sys.path.insert(0, str(Path(core)))
    from sulvak_core.part.errors import Refusal

    worker = Worker(pipe)
    pipe.send(("ready",))
    while True:
        try:
            request = pipe.recv()
        except EOFError:
            return
        try:
            pipe.send(("done", getattr(worker, request["do"])(request)))
        except Refusal as refusal:
            pipe.send(("failed", refusal.sentence))
        except MemoryError:
            worker.cache.memory.clear()
            worker.pictures.clear()
            pipe.send(("failed", "This needs more memory than one part may take; make it simpler."))
        except Exception as error:
            import traceback

            traceback.print_exc()
            pipe.send(("failed", f"The geometry kernel could not finish this ({type(error).__name__})."))
