"""What was worked out of things that never change, for as long as they are the same objects."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Hashable, Sequence
from threading import Lock
from typing import Generic, TypeVar

T = TypeVar("T")


class IdentityCache(Generic[T]):
    """Findings by the objects they are about, in their order, and by what else (``also``) they depend on.

    The objects are held, so that no other comes to stand in their place; ``most`` of them in all, those longest not
    asked for go first. May be used by several threads.
    """

    def __init__(self, most: int = 60_000) -> None:
        self.most = most
        self._found: OrderedDict[tuple[Hashable, ...], tuple[Sequence[object], T]] = OrderedDict()
        self._held = 0
        self._lock = Lock()

    def get(self, things: Sequence[object], *also: Hashable) -> T | None:
        key = (*map(id, things), *also)
        with self._lock:
            found = self._found.get(key)
            if found is None:
                return None
            self._found.move_to_end(key)
            return found[1]

    def put(self, found: T, things: Sequence[object], *also: Hashable) -> T:
        """Remember ``found``, and give it back."""
        key = (*map(id, things), *also)
        with self._lock:
            before = self._found.pop(key, None)
            self._held += len(things) - (len(before[0]) if before else 0)
            self._found[key] = (things, found)
            while self._held > self.most and len(self._found) > 1:
                _, (gone, _) = self._found.popitem(last=False)
                self._held -= len(gone)
        return found
