"""What a route run carries from step to step, and where results are kept."""

from __future__ import annotations

import json
import zlib
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any, Protocol, TypeVar

from ..solid.frame import Frame
from ..solid.project import Flat
from ..solid.shapes import Shape, Solid, from_bytes, to_bytes
from .version import FILE, HAS

T = TypeVar("T")

FACE_BYTES = 3000  # a face with its edges and curves in memory: 2,700 measured on a plate with 19 holes
MEMORY = 768 << 20  # bytes of results that a worker holds
BODY_COLOUR = "#c4bbaa"


@dataclass
class Body:
    """One body. ``id`` is the step that made it, with ``x2``, ``x3`` … if that step made several."""

    id: str
    solid: Solid
    title: str = ""
    colour: str = BODY_COLOUR
    material: str = ""

    @property
    def shape(self) -> Shape:
        return self.solid.shape


@dataclass
class State:
    """The bodies after a step."""

    bodies: list[Body] = field(default_factory=list)

    def volume(self) -> float:
        return sum(b.solid.volume() for b in self.bodies)

    def to_bytes(self) -> bytes:
        head = [(b.id, b.title, b.colour, b.material) for b in self.bodies]
        text = json.dumps(head).encode()
        return len(text).to_bytes(8, "little") + text + to_bytes([b.solid for b in self.bodies])

    @staticmethod
    def from_bytes(data: bytes) -> State:
        size = int.from_bytes(data[:8], "little")
        head = json.loads(data[8 : 8 + size])
        solids = from_bytes(data[8 + size :])
        return State([Body(i, s, t, c, m) for (i, t, c, m), s in zip(head, solids, strict=True)])


@dataclass
class Kept:
    """A step's result as it is kept: the bodies after it and what it reported."""

    state: State
    report: dict[str, Any]

    def to_bytes(self) -> bytes:
        text = json.dumps(self.report).encode()
        return zlib.compress(len(text).to_bytes(8, "little") + text + self.state.to_bytes(), 1)

    @staticmethod
    def from_bytes(data: bytes) -> Kept:
        plain = zlib.decompress(data)
        size = int.from_bytes(plain[:8], "little")
        return Kept(State.from_bytes(plain[8 + size :]), json.loads(plain[8 : 8 + size]))

    def weight(self) -> int:
        """About how many bytes it takes in memory. Faces that it shares with other results count here too."""
        return 2000 + FACE_BYTES * sum(len(b.solid.tags) for b in self.state.bodies)


class Store(Protocol):
    """Somewhere results outlive a worker. Keys are content hashes, so an entry never changes; those that begin with
    FILE are files from outside."""

    def get(self, key: str) -> bytes | None: ...
    def put(self, key: str, data: bytes) -> None: ...


class Recent(OrderedDict[str, T]):
    """The things put in or asked for last, ``limit`` of them; with ``weigh`` as many as weigh no more than that. The
    newest stays whatever it weighs."""

    def __init__(self, limit: int, weigh: Callable[[T], int] | None = None) -> None:
        super().__init__()
        self.limit, self.weigh = limit, weigh
        self.weights: dict[str, int] = {}
        self.weight = 0

    def __setitem__(self, key: str, value: T) -> None:
        super().__setitem__(key, value)
        self.move_to_end(key)
        self.weight -= self.weights.get(key, 0)
        self.weights[key] = self.weigh(value) if self.weigh else 1
        self.weight += self.weights[key]
        while self.weight > self.limit and len(self) > 1:
            oldest, _ = self.popitem(last=False)
            self.weight -= self.weights.pop(oldest)

    def get(self, key: str, default: Any = None) -> Any:
        if key not in self:
            return default
        self.move_to_end(key)
        return self[key]


class Cache:
    """Results by content: the newest in memory, ``limit`` bytes of them or so, all that took long in the store.

    ``places``: frames of picked faces; ``seen``: edges of the part as sketches see them. While ``trying``, nothing
    goes to the store: what is only tried is seldom kept. It goes there when it is asked for in earnest.
    """

    def __init__(self, store: Store | None = None, limit: int = MEMORY) -> None:
        self.store = store
        self.memory: Recent[Kept] = Recent(limit, Kept.weight)
        self.places: Recent[Frame] = Recent(4000)
        self.seen: Recent[list[Flat | None]] = Recent(1000)
        self.known: Recent[tuple[Any, Any]] = Recent(1500)
        self.trying = False
        self.owed: set[str] = set()  # in memory, and yet to go to the store
        self.hits = self.misses = 0

    def of(self, thing: Any, what: str, make: Callable[[Any], T]) -> T:
        """What ``make`` gives for an object that never changes, worked out once while that object is about."""
        key = f"{what} {id(thing)}"
        found = self.known.get(key)
        if found is None or found[0] is not thing:
            found = self.known[key] = (thing, make(thing))
        made: T = found[1]
        return made

    def file(self, digest: str) -> bytes | None:
        """A file that came with the part, by the SHA-256 of its content; None when it is not to be had."""
        return self.store.get(f"{FILE}{digest}") if self.store is not None else None

    def has_file(self, digest: str) -> bool:
        """Whether a file is to be had now: asked each time, since results of it may be kept that are not for everyone
        who knows its digest."""
        return self.store is not None and self.store.get(f"{HAS}{digest}") is not None

    def get(self, key: str) -> Kept | None:
        kept: Kept | None = self.memory.get(key)
        if kept is None and self.store is not None:
            data = self.store.get(key)
            if data is not None:
                kept = Kept.from_bytes(data)
                self.memory[key] = kept
        if kept is None:
            self.misses += 1
            return None
        self.hits += 1
        if key in self.owed and not self.trying and self.store is not None:
            self.owed.discard(key)
            self.store.put(key, kept.to_bytes())
        return kept

    def put(self, key: str, kept: Kept, lasting: bool) -> None:
        self.memory[key] = kept
        if not lasting or self.store is None:
            return
        if self.trying:
            self.owed = {k for k in self.owed if k in self.memory} | {key}
        else:
            self.store.put(key, kept.to_bytes())
