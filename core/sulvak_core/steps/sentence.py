"""A step as one sentence with slots: the same parts give the words on the route and the fields to fill in."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from typing import Any, Literal

SlotKind = Literal[
    "length",
    "angle",
    "count",
    "choice",
    "flag",
    "size",
    "sketch",
    "regions",
    "faces",
    "face",
    "edges",
    "plane",
    "axis",
    "steps",
    "bodies",
    "body",
    "grid",
    "points",
    "text",
]


@dataclass(frozen=True)
class Option:
    """One answer of a choice; ``gives`` are fields beside it that this answer brings with it, with what they hold at
    first; ``on``: how the words go on, for a list that shows this answer without the sentence behind it."""

    value: str
    words: str
    gives: tuple[tuple[str, str], ...] = ()
    on: str = ""


@dataclass(frozen=True)
class When:
    """Shown only while ``field`` (dotted for nested ones) holds one of ``values``."""

    field: str
    values: tuple[str, ...]

    def holds(self, data: dict[str, Any]) -> bool:
        return str(look(data, self.field)).lower() in self.values


@dataclass(frozen=True)
class Words:
    text: str
    when: tuple[When, ...] = ()


@dataclass(frozen=True)
class Slot:
    """A field of a step in its sentence. ``label`` is its name for the reader; ``optional``: may stay empty, then
    the sentence passes over it or says ``empty``. ``count``: how many points it takes."""

    field: str
    kind: SlotKind
    label: str
    options: tuple[Option, ...] = ()
    when: tuple[When, ...] = ()
    optional: bool = False
    empty: str = ""
    count: int = 0


@dataclass(frozen=True)
class Group:
    """Parts that can be there several times: ``field`` holds a list; ``fresh`` is what a new one starts as."""

    field: str
    parts: tuple[Words | Slot, ...]
    add: str
    between: str = "; "


Part = Words | Slot | Group


def when(field: str, *values: str) -> tuple[When, ...]:
    return (When(field, values),)


def look(data: dict[str, Any], field: str) -> Any:
    """A field of plain data by its dotted name; None where there is none. ``x.set`` tells whether ``x`` holds
    anything."""
    found: Any = data
    for name in field.split("."):
        if name == "set":
            return found not in (None, "", "0", [])
        found = found.get(name) if isinstance(found, dict) else None
    return found


def parts_json(parts: tuple[Part, ...]) -> list[dict[str, Any]]:
    """The parts as plain data for a screen: each tells what it ``is``."""
    found = []
    for part in parts:
        kind = {Words: "words", Slot: "slot", Group: "group"}[type(part)]
        data: dict[str, Any] = {"is": kind, **asdict(part)}
        if isinstance(part, Group):
            data["parts"] = parts_json(part.parts)
        found.append(data)
    return found
