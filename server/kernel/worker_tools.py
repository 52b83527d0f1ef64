"""What the questions put to a kernel process build on."""

import struct
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any


def painted(paint: Any) -> bytes:
    """What is painted on a part as a file: “SVP1”, a count n, corners (n × 9 float32, mm), values (n × 3 float32)."""
    head = b"SVP1" + struct.pack("<I", len(paint.corners))
    return head + bytes(paint.corners.astype("<f4").tobytes()) + bytes(paint.values.astype("<f4").tobytes())


class WorkerTools:
    """Opening the document asked about, building it, and telling how far a question has got."""

    pipe: Any
    cache: Any

    def _document(self, request: dict[str, Any]) -> Any:
        raise NotImplementedError

    def _build(self, document: Any) -> Any:
        raise NotImplementedError

    def _picture(self, document: Any, of: str, body: Any) -> tuple[str, dict[str, Any], bytes]:
        raise NotImplementedError

    def _told(self, i: int, n: int) -> None:
        self.pipe.send(("progress", i, n))

    @contextmanager
    def _trying(self) -> Iterator[None]:
        """What is only tried does not go to the store."""
        self.cache.trying = True
        try:
            yield
        finally:
            self.cache.trying = False
