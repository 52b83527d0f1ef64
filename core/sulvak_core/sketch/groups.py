"""Things that hang together, joined one by one (disjoint sets: Tarjan, *Efficiency of a good but not linear set union
algorithm*, 1975)."""

from __future__ import annotations

from collections.abc import Hashable, Iterable
from typing import Generic, TypeVar

K = TypeVar("K", bound=Hashable)


class Groups(Generic[K]):
    """Things, each in a group of its own until it is joined with others."""

    def __init__(self, things: Iterable[K]) -> None:
        self._parent = {k: k for k in things}

    def __contains__(self, thing: object) -> bool:
        return thing in self._parent

    def find(self, thing: K) -> K:
        """The one that stands for a thing's group. Raises KeyError for what is in none."""
        parent = self._parent
        while parent[thing] != thing:
            parent[thing] = thing = parent[parent[thing]]
        return thing

    def join(self, one: K, other: K) -> None:
        self._parent[self.find(other)] = self.find(one)
