"""What the questions put to a kernel process build on."""

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any


class WorkerTools:
    """Opening the document asked about, building it, and telling how far a question has got."""

    pipe: Any
    cache: Any

    def _document(self, request: dict[str, Any]) -> Any:
        raise NotImplementedError

    def _build(self, document: Any) -> Any:
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
